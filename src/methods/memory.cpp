#include "methods/memory.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::methods {
namespace {

bool same_line(const mip::Lines& a, const mip::Lines& b, Index i) {
  return std::ranges::equal(a.index(i), b.index(i)) && std::ranges::equal(a.value(i), b.value(i));
}

}  // namespace

void Memory::start(mip::SearchOptions& o, const Lowering& lowering) const {
  const auto columns = static_cast<std::size_t>(lowering.problem.num_columns());
  o.given.plans = plans_;
  if (!plans_.empty()) o.decisions = static_cast<Index>(plans_.front().size());
  for (auto& plan : o.given.plans) plan.resize(columns);  // the judge looks at decisions only
  o.given.pseudo_costs = pseudo_costs_;
  for (const Fact& fact : facts_)
    if (narrows(lowering, fact)) o.given.known_bound = std::max(o.given.known_bound, fact.bound);
  o.given.basis = basis(lowering);
}

lp::Basis Memory::basis(const Lowering& lowering) const {
  lp::Basis b;
  if (most_pivots_ < mip::kFewPivots ||
      columns_.size() != static_cast<std::size_t>(lowering.problem.num_columns()))
    return b;
  b.columns = columns_;
  b.rows.assign(static_cast<std::size_t>(lowering.problem.num_rows()), lp::VariableStatus::basic);
  for (const LoweredRow& row : lowering.rows) {
    const auto it = rows_.find({row.family, row.member});
    if (it != rows_.end() && row.problem_row >= 0)
      b.rows[static_cast<std::size_t>(row.problem_row)] = it->second;
  }
  return b;
}

void Memory::add_plan(std::vector<Rational> plan) {
  constexpr std::size_t kMostPlans = 8;
  std::erase(plans_, plan);
  plans_.push_back(std::move(plan));
  if (plans_.size() > kMostPlans) plans_.erase(plans_.begin());
}

void Memory::remember(const mip::SearchResult& found, const Lowering& lowering, Index decisions) {
  if (found.plan && !lowering.relaxed)
    add_plan({found.plan->begin(), found.plan->begin() + decisions});
  pseudo_costs_ = found.pseudo_costs;
  const bool none = found.outcome == Outcome::infeasible;
  constexpr std::size_t kMostFacts = 8;
  constexpr Index kLargestFact = 200'000;
  if (!lowering.relaxed && (none || std::isfinite(found.bound)) &&
      lowering.problem.num_rows() + lowering.problem.num_columns() <= kLargestFact) {
    facts_.push_back({lowering.problem, lowering.limits, lowering.goal_scale,
                      lowering.goal_constant, lowering.goal_sign, none ? HUGE_VAL : found.bound});
    if (facts_.size() > kMostFacts) facts_.erase(facts_.begin());
  }
  most_pivots_ = std::max(most_pivots_, found.root.pivots);
  if (found.root.basis.empty()) return;
  columns_ = found.root.basis.columns;
  for (const LoweredRow& row : lowering.rows)
    if (row.problem_row >= 0)
      rows_[{row.family, row.member}] =
          found.root.basis.rows[static_cast<std::size_t>(row.problem_row)];
}

bool Memory::narrows(const Lowering& lowering, const Fact& fact) {
  const mip::Problem &now = lowering.problem, &then = fact.problem;
  if (now.num_columns() != then.num_columns() || now.num_rows() != then.num_rows() ||
      !then.linear() ||  // what was stated otherwise, or generated, may be something else now
      !now.cost_exact() || !then.cost_exact() || lowering.goal_sign != fact.sign ||
      lowering.goal_scale != fact.scale || lowering.goal_constant != fact.constant)
    return false;
  for (Index j = 0; j < now.num_columns(); ++j)
    if (now.lower(j) < then.lower(j) || now.upper(j) > then.upper(j) ||
        now.integer(j) < then.integer(j) || now.cost(j) != then.cost(j))
      return false;
  for (Index i = 0; i < now.num_rows(); ++i) {
    const auto& [low, high] = lowering.limits[static_cast<std::size_t>(i)];
    const auto& [low_then, high_then] = fact.limits[static_cast<std::size_t>(i)];
    if (low < low_then || high > high_then || !now.row_exact(i) || !then.row_exact(i) ||
        !same_line(now.rows(), then.rows(), i))
      return false;
  }
  return true;
}

}  // namespace kiteknot::methods
