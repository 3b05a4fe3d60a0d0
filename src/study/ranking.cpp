#include "kiteknot/ranking.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/solve.hpp"
#include "methods/few.hpp"
#include "model/free_names.hpp"
#include "model/model_data.hpp"
#include "study/time_left.hpp"

namespace kiteknot {
namespace {

std::vector<Decision> deciding(const Model& model, const RankingQuestion& question) {
  if (question.count < 0)
    throw UsageError(fmt::format("{} plans after the best one make no sense", question.count));
  const ModelData& m = model.data();
  for (const std::string& name : question.differ) need_decisions(model, name);
  std::vector<Decision> decisions;
  for (const auto& f : m.families) {
    const bool named =
        std::find(question.differ.begin(), question.differ.end(), f->name) != question.differ.end();
    if (!named && !question.differ.empty()) continue;
    const std::size_t before = decisions.size();
    for (Index i = 0; i < f->index.count; ++i)
      if (m.whole(*f, i)) decisions.push_back({m.tag, f->first + i, f->binary});
    if (named && f->index.count > 0 && decisions.size() == before)
      throw UsageError(fmt::format(
          "decisions {} are not whole: plans that differ in them have no next one", f->name));
  }
  if (decisions.empty())
    throw UsageError("no decision is whole: between two plans there is always a further one");
  return decisions;
}

// At least one of them is another. Of binaries this is one row: those that were 0, and what is
// missing to 1 of the others (Balas and Jeroslow 1972, "Canonical cuts on the unit hypercube").
Condition another(const std::vector<Decision>& decisions, const Plan& plan) {
  Expression changes;
  std::vector<Condition> moved;
  for (const Decision& d : decisions) {
    const Rational& value = plan[d.id];
    if (d.yes_or_no) {
      changes += value.is_zero() ? Expression(d) : Expression(1) - d;
      continue;
    }
    moved.push_back(Expression(d) <= Expression(value - Rational(1)));
    moved.push_back(Expression(d) >= Expression(value + Rational(1)));
  }
  if (moved.empty()) return changes >= 1;
  if (moved.size() < 2 * decisions.size()) moved.push_back(changes >= 1);
  return any_of(std::move(moved));
}

}  // namespace

RankedPlan ranked_plan(const Model& model, const Plan& plan) {
  return {plan, check(model, plan).goals};
}

bool can_differ(const Model& model) {
  const ModelData& m = model.data();
  for (Index d = 0; d < m.num_decisions; ++d)
    if (m.whole(d)) return true;
  return false;
}

void need_different(const Model& model, const RankingQuestion& question) {
  (void)deciding(model, question);
}

namespace {

// One search looks at a branch for each column of a plan at least; solving again costs a solve a
// plan, whatever its size.
bool worth_one_search(const RankingQuestion& question, std::size_t columns) {
  constexpr std::size_t kFewColumns = 500;
  constexpr int kMany = 20;
  return question.count > 1 && (columns <= kFewColumns || question.count >= kMany);
}

void rank_in_one_search(const Result& best, const std::vector<Decision>& decisions,
                        const SolveOptions& options, Observer* observer, Ranking& ranking) {
  SolveOptions own = options;
  own.start.clear();
  const auto count = static_cast<std::size_t>(ranking.question.count) + 1;
  methods::FewPlans few =
      methods::search_few(ranking.model, count, decisions, *best.plan, own, observer);
  ranking.plans.clear();
  for (const Plan& plan : few.plans) ranking.plans.push_back(ranked_plan(ranking.model, plan));
  ranking.proven = few.proven;
  ranking.no_more = few.all_there_is;
  ranking.stopped_by = few.stopped_by;
}

}  // namespace

Ranking next_best(const Result& best, const RankingQuestion& question, const SolveOptions& options,
                  Observer* observer) {
  if (best.outcome != Outcome::optimal || best.relaxed_only || !best.plan)
    throw UsageError("what comes next is asked of a plan that is proven best");
  const TimeLeft time(options);
  Ranking ranking(best.model());
  ranking.question = question;
  const std::vector<Decision> decisions = deciding(ranking.model, question);
  const auto goals = [](const Result& r) {
    std::vector<Rational> values;
    for (const GoalResult& g : r.goals) values.push_back(g.value.value_or(Rational(0)));
    return values;
  };
  ranking.plans.push_back({*best.plan, goals(best)});
  for (const GoalResult& g : best.goals) ranking.gap = std::max(ranking.gap, g.gap.value_or(0.0));
  if (ranking.model.data().goals.size() == 1 && !options.generator &&
      worth_one_search(question, decisions.size())) {
    rank_in_one_search(best, decisions, options, observer, ranking);
    return ranking;
  }
  Model rest = best.model();
  std::int64_t nodes = options.nodes;
  while (static_cast<int>(ranking.plans.size()) <= question.count) {
    rest.rule(free_rule(rest, fmt::format("another than plan {}", ranking.plans.size())),
              another(decisions, ranking.plans.back().plan));
    SolveOptions next = time.options();
    next.nodes = nodes;
    next.start.clear();
    const Result found = solve(rest, next);
    nodes = std::max<std::int64_t>(0, nodes - found.search.nodes);
    if (found.outcome == Outcome::infeasible) ranking.no_more = true;
    if (found.outcome != Outcome::optimal) {
      if (!ranking.no_more)
        ranking.stopped_by = found.search.stopped_by.empty() ? "nodes" : found.search.stopped_by;
      break;
    }
    ranking.plans.push_back({*found.plan, goals(found)});
    if (observer == nullptr) continue;
    observer->next_plan(ranking.plans.size(), *found.plan);
    Progress so_far;
    so_far.seconds = time.gone();
    so_far.plans = static_cast<std::int64_t>(ranking.plans.size());
    observer->progress(so_far);
  }
  ranking.proven = ranking.plans.size();
  return ranking;
}

}  // namespace kiteknot
