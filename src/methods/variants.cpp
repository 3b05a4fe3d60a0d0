#include "methods/variants.hpp"

#include <algorithm>

#include "base/work.hpp"
#include "methods/budget.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {
namespace {

mip::SharedOptions shared_options(const Lowering& lowering, std::size_t count,
                                  const SolveOptions& options, const Memory& memory) {
  constexpr double kShareOfTime = 0.25;  // the rest is for those that are asked alone in the end
  mip::SharedOptions o;
  o.budget = budget_of(options);
  o.budget.seconds =
      kShareOfTime * std::min(options.seconds, options.seconds_each * static_cast<double>(count));
  o.basis = memory.basis(lowering);
  for (const auto& plan : memory.plans()) {
    if (static_cast<Index>(plan.size()) != lowering.problem.num_columns()) continue;
    std::vector<double>& point = o.plans.emplace_back();
    for (const Rational& x : plan) point.push_back(x.to_double());
  }
  return o;
}

}  // namespace

Answer answer_of(const Result& r) {
  Answer a;
  a.outcome = r.outcome;
  a.plan = r.plan;
  a.seconds = r.search.seconds;
  a.reason = r.reason;
  if (r.goals.empty() || r.outcome == Outcome::unbounded) return a;
  a.goal = r.goals[0].value;
  a.bound = r.goals[0].bound;
  if (r.report && r.report->goals.size() > 1)
    a.later.assign(r.report->goals.begin() + 1, r.report->goals.end());
  return a;
}

std::vector<std::optional<Answer>> solve_variants(const Model& model, const Lowering& lowering,
                                                  const std::vector<mip::LimitChanges>& changes,
                                                  const VariantJudge& judge,
                                                  const SolveOptions& options, Memory& memory) {
  std::vector<std::optional<Answer>> answers(changes.size());
  if (options.gap > 0.0 || options.nodes < SolveOptions{}.nodes || options.generator ||
      !lowering.problem.complete())
    return answers;
  const Stopwatch clock;
  const mip::SharedResult found = mip::settle_at_root(
      lowering.problem, changes, shared_options(lowering, changes.size(), options, memory));
  for (std::size_t k = 0; k < changes.size(); ++k) {
    const std::vector<double>& point = found.answers[k].point;
    Answer a;
    a.outcome = Outcome::infeasible;
    if (!point.empty())
      a.plan.emplace(model,
                     std::vector<Rational>(point.begin(), point.begin() + model.num_decisions()));
    if (!found.answers[k].settled) {
      if (a.plan) memory.add_plan(a.plan->values());  // where its own search starts
      continue;
    }
    if (a.plan) {
      Held held = judge(k, *a.plan);
      if (!held.feasible) continue;  // to be looked at more closely
      a.outcome = Outcome::optimal;
      a.goal = std::move(held.goal);
      if (a.goal) a.bound = a.goal->to_double();
      memory.add_plan(a.plan->values());
    }
    answers[k] = std::move(a);
  }
  for (auto& a : answers)
    if (a) a->seconds = clock.seconds() / static_cast<double>(changes.size());
  return answers;
}

}  // namespace kiteknot::methods
