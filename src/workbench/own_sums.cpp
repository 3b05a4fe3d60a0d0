#include "workbench/own_sums.hpp"

#include "base/at.hpp"

namespace kiteknot::workbench {
namespace {

constexpr double kSeconds = 20.0;

Expression expression_of(const Tableau& t, const TableauSum& sum) {
  Expression e;
  for (const auto& [column, coefficient] : sum.terms)
    e.add(coefficient, t.model().decision(t.column(column).name));
  return e;
}

}  // namespace

void look_for_lost_plans(const BenchState& state, deeds::Added& added) {
  const Tableau& t = state.tableau();
  Model question = t.model();
  question.forget_goals();
  const Expression side = expression_of(t, added.sum);
  if (added.sum.at_least)
    question.minimize("the side of the rule", side);
  else
    question.maximize("the side of the rule", side);
  for (std::int32_t k = state.at; k > 1; k = state.copies[at(k - 1)].parent) {
    const BranchCopy& copy = state.copies[at(k - 1)];
    if (copy.column >= t.num_decisions()) continue;  // helpers are not the model's
    const Expression x = Expression(t.model().decision(t.column(copy.column).name));
    question.rule("branch of copy " + std::to_string(k),
                  copy.at_most ? x <= Expression(copy.limit) : x >= Expression(copy.limit));
  }
  SolveOptions options;
  options.seconds = kSeconds;
  const Result found = solve(question, options);
  const auto loses = [&](const Rational& value) {
    return added.sum.at_least ? value < added.sum.limit : value > added.sum.limit;
  };
  using Whole = deeds::Added::Whole;
  if (found.has_plan() && loses(found.goal())) {
    added.whole = Whole::loses;
    added.lost = Plan(t.model(), found.plan->values());
  } else if (found.outcome == Outcome::optimal || found.outcome == Outcome::infeasible) {
    added.whole = Whole::none_lost;
  } else {
    added.whole = found.outcome == Outcome::unbounded ? Whole::loses : Whole::open;
  }
}

}  // namespace kiteknot::workbench
