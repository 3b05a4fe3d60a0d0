#include "kiteknot/ranking.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/solve.hpp"
#include "model/model_data.hpp"
#include "study/time_left.hpp"

namespace kiteknot {
namespace {

std::vector<Decision> deciding(const Model& model, const RankingQuestion& question) {
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

bool can_differ(const Model& model) {
  const ModelData& m = model.data();
  for (Index d = 0; d < m.num_decisions; ++d)
    if (m.whole(d)) return true;
  return false;
}

void need_different(const Model& model, const RankingQuestion& question) {
  (void)deciding(model, question);
}

Ranking next_best(const Result& best, const RankingQuestion& question,
                  const SolveOptions& options) {
  if (best.outcome != Outcome::optimal || best.relaxed_only)
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
  Model rest = best.model();
  std::int64_t nodes = options.nodes;
  while (static_cast<int>(ranking.plans.size()) <= question.count) {
    rest.rule(fmt::format("another than plan {}", ranking.plans.size()),
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
  }
  return ranking;
}

}  // namespace kiteknot
