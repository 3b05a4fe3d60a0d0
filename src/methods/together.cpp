#include "methods/together.hpp"

#include "base/work.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {
namespace {

mip::SharedOptions shared_options(const Lowering& lowering, std::size_t count,
                                  const SolveOptions& options, const Memory& memory) {
  constexpr double kShareOfTime = 0.25;  // the rest is for those that are asked alone in the end
  constexpr std::int64_t kNodesEach = 2'000;
  mip::SharedOptions o;
  o.seconds = options.seconds * static_cast<double>(count) * kShareOfTime;
  o.nodes = kNodesEach * static_cast<std::int64_t>(count);
  o.seed = options.seed;
  o.stop = options.stop.flag();
  o.basis = memory.basis(lowering);
  for (const auto& plan : memory.plans()) {
    if (static_cast<Index>(plan.size()) != lowering.problem.num_columns()) continue;
    std::vector<double>& point = o.plans.emplace_back();
    for (const Rational& x : plan) point.push_back(x.to_double());
  }
  return o;
}

// Empty where the plan does not hold as stated.
std::optional<Result> result_of(const LimitVariant& variant, const mip::SharedAnswer& answer) {
  const ModelData& m = variant.model.data();
  Result r(variant.model);
  r.has_integers = true;
  r.outcome = Outcome::infeasible;
  GoalResult goal;
  if (!m.goals.empty()) goal = {m.goals[0].name, m.goals[0].sense, {}, {}, {}};
  if (!answer.point.empty()) {
    std::vector<Rational> values;
    for (std::size_t d = 0; d < static_cast<std::size_t>(m.num_decisions); ++d)
      values.emplace_back(answer.point[d]);
    r.outcome = Outcome::optimal;
    r.plan.emplace(variant.model, std::move(values));
    r.report = check(variant.model, *r.plan);
    if (!r.report->feasible) return std::nullopt;
    if (r.report->goal) {
      goal.value = r.report->goal;
      goal.bound = r.report->goal->to_double();
      goal.gap = 0.0;
    }
  }
  if (!m.goals.empty()) r.goals.push_back(std::move(goal));
  return r;
}

}  // namespace

std::vector<std::optional<Result>> search_together(const Lowering& lowering,
                                                   std::span<const LimitVariant> variants,
                                                   const SolveOptions& options, Memory& memory) {
  std::vector<std::optional<Result>> results(variants.size());
  if (options.gap > 0.0 || options.nodes < SolveOptions{}.nodes) return results;
  const Stopwatch clock;
  std::vector<mip::LimitChanges> changes;
  for (const LimitVariant& v : variants) changes.push_back(v.changes);
  const mip::SharedResult found = mip::search_together(
      lowering.problem, changes, shared_options(lowering, variants.size(), options, memory));
  for (std::size_t k = 0; k < variants.size(); ++k) {
    const mip::SharedAnswer& a = found.answers[k];
    if (a.settled) results[k] = result_of(variants[k], a);
    if (results[k] && results[k]->plan) memory.add_plan(results[k]->plan->values());
  }
  for (auto& r : results)
    if (r) r->search.seconds = clock.seconds() / static_cast<double>(variants.size());
  return results;
}

}  // namespace kiteknot::methods
