// Goals in order: each is solved with the ones before it held at their best, or at what they yield
// (lexicographic optimisation; Sherali 1982, "Equivalent weights for lexicographic multi-objective
// programs", on why weights are no substitute).

#include <algorithm>

#include "base/tolerances.hpp"
#include "base/work.hpp"
#include "methods/exact.hpp"
#include "model/evaluation.hpp"
#include "model/free_names.hpp"

namespace kiteknot::methods {
namespace {

// The model with one goal only; `kept`: the values that the goals before it must keep.
Model with_one_goal(const Model& model, std::size_t goal, const std::vector<Rational>& kept) {
  const ModelData& m = model.data();
  Model one = model;
  one.only_goal(goal);
  if (goal > 0)  // charges belong to the first goal, which stands as a rule now
    for (const auto& r : m.rules)
      if (r->soft()) one.without(r->name);
  for (std::size_t k = 0; k < kept.size(); ++k) {
    const Goal& g = m.goals[k];
    Expression worth = m.goal_with_charges(k);
    const Rational slack = kept[k].abs() * g.yields;
    const std::string name = "goal " + g.name;
    if (g.sense == Sense::minimize)
      one.rule(free_rule(one, name), std::move(worth) <= kept[k] + slack);
    else
      one.rule(free_rule(one, name), std::move(worth) >= kept[k] - slack);
  }
  return one;
}

// What the goals so far gave up for the one whose turn it was.
void note_yields(const Model& model, const Plan& before, const Plan& after,
                 std::vector<GoalResult>& results, const std::string& to) {
  const std::vector<Goal>& goals = model.data().goals;
  const std::vector<Rational> was = check(model, before).goals, is = check(model, after).goals;
  for (std::size_t k = 0; k < results.size(); ++k) {
    const Rational less = goals[k].sense == Sense::minimize ? is[k] - was[k] : was[k] - is[k];
    if (!less.is_zero()) results[k].yielded.emplace_back(to, less);
  }
}

}  // namespace

Result search_in_order(const Model& model, const SolveOptions& options, Observer* observer,
                       bool relaxed, Memory* memory) {
  const Stopwatch clock;
  const std::size_t goals = model.data().goals.size();
  SolveOptions rest = options;
  const auto remaining = [&] { return std::max(0.0, options.seconds - clock.seconds()); };
  Memory own;
  Memory& known = memory != nullptr ? *memory : own;
  std::vector<Rational> kept;
  Result answer = search(with_one_goal(model, 0, {}), rest, observer, relaxed, &known);
  std::vector<GoalResult> results = answer.goals;
  SearchCounts counts = answer.search;
  for (std::size_t k = 1; k < goals && answer.plan; ++k) {
    kept.push_back(*results.back().value);
    rest.seconds = remaining();
    Result next = search(with_one_goal(model, k, kept), rest, observer, relaxed, &known);
    counts.add(next.search);
    if (counts.stopped_by.empty()) counts.stopped_by = next.search.stopped_by;
    if (!next.plan) {  // out of time before the known plan was taken over
      answer.outcome = Outcome::unproven;
      answer.reason = next.reason;
      break;
    }
    if (next.outcome != Outcome::optimal && answer.outcome == Outcome::optimal) {
      answer.outcome = next.outcome;
      answer.reason = next.reason;
    }
    if (!relaxed) note_yields(model, *answer.plan, *next.plan, results, next.goals[0].name);
    answer.plan = next.plan;
    results.push_back(next.goals[0]);
  }
  Result whole(model);
  whole.outcome = answer.outcome;
  whole.reason = answer.reason;
  whole.relaxed = answer.relaxed;
  whole.relaxed.shadow_prices.clear();  // of the first goal alone they would mislead
  whole.relaxed.reduced_costs.clear();
  whole.relaxed.limit_stretches.clear();
  whole.relaxed.coefficient_stretches.clear();
  whole.relaxed_only = relaxed;
  whole.has_integers = answer.has_integers;
  whole.search = std::move(counts);
  if (answer.plan) {
    whole.plan.emplace(model, answer.plan->values());
    whole.report = check(model, *whole.plan, relaxed);
    for (std::size_t k = 0; k < results.size() && !relaxed; ++k) {
      results[k].reached = results[k].value;
      results[k].value = whole.report->goals[k];  // what later goals left of it
    }
    if (relaxed) whole.report->goal = results[0].value;
  }
  // What the order costs: the best of each later goal if it stood alone.
  for (std::size_t k = 1; k < results.size() && whole.outcome == Outcome::optimal; ++k) {
    rest.seconds = remaining();
    const Result alone = search(with_one_goal(model, k, {}), rest, nullptr, relaxed, nullptr);
    if (alone.outcome == Outcome::optimal) results[k].alone = alone.goals[0].value;
  }
  for (std::size_t k = results.size(); k < goals; ++k)
    results.push_back({model.data().goals[k].name, model.data().goals[k].sense, {}, {}, {}});
  whole.goals = std::move(results);
  whole.search.seconds = clock.seconds();
  return whole;
}

}  // namespace kiteknot::methods
