#include "mip/problem/problem.hpp"

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "base/interval.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot::mip {

StatedProblem& Problem::stating() {
  if (stated_.use_count() > 1) stated_ = std::make_shared<StatedProblem>(*stated_);
  return *stated_;
}

Index Problem::add_column(double lower, double upper, bool integer, double cost) {
  if (std::isnan(lower) || std::isnan(upper)) throw UsageError("a bound is not a number");
  if (!std::isfinite(cost)) throw UsageError("a goal coefficient is not finite");
  StatedProblem& s = stating();
  limits_.lower.push_back(lower);
  limits_.upper.push_back(upper);
  goal_.cost.push_back(cost);
  s.integer.push_back(integer ? 1 : 0);
  s.condition_of.push_back(-1);
  s.linear.add_columns(1);
  for (const auto& kind : s.kinds.all()) kind->add_columns(1);
  s.num_integers += integer ? 1 : 0;
  return num_columns() - 1;
}

void Problem::set_cost(Index j, double cost) {
  if (!std::isfinite(cost)) throw UsageError("a goal coefficient is not finite");
  goal_.cost[at(j)] = cost;
}

bool Problem::moves_in_whole_steps(const LinearRow& row) const {
  return row.exact && std::all_of(row.entries.begin(), row.entries.end(), [&](const Entry& e) {
           return integer(e.index) && whole(e.value);
         });
}

Index Problem::add_row(const LinearRow& row) {
  const Index i = stating().linear.add(row, moves_in_whole_steps(row));
  limits_.rows.lower.push_back(row.lower);
  limits_.rows.upper.push_back(row.upper);
  return i;
}

void Problem::set_limits(Index i, double lower, double upper) {
  if (std::isnan(lower) || std::isnan(upper)) throw UsageError("a limit is not a number");
  limits_.rows.lower[at(i)] = lower;
  limits_.rows.upper[at(i)] = upper;
}

bool Problem::round_limits() {
  constexpr double kWhole = 0x1p53;
  for (Index i = 0; i < num_rows(); ++i) {
    if (!row_whole(i)) continue;
    // The model's own limit may lie on the other side of a whole number than its double.
    const lp::Exact* own = known_row(i);
    const auto whole_limit = [&](double limit, bool upper) {
      if (own != nullptr) {
        const Rational& exact = upper ? own->high : own->low;
        if ((upper ? own->high_as : own->low_as) == limit && exact.is_finite()) {
          const double near = (upper ? exact.floor() : exact.ceil()).to_double();
          if (std::abs(near) <= kWhole) return near;
        }
      }
      return upper ? std::floor(limit) : std::ceil(limit);
    };
    double& lower = limits_.rows.lower[at(i)];
    double& upper = limits_.rows.upper[at(i)];
    lower = whole_limit(lower, false);
    upper = whole_limit(upper, true);
    if (lower > upper) return false;
  }
  return true;
}

Index Problem::add_condition(Index column) {
  StatedProblem& s = stating();
  const Index c = num_conditions();
  s.condition_column.push_back(column);
  if (column >= 0) {
    KITEKNOT_CHECK(integer(column) && lower(column) >= 0.0 && upper(column) <= 1.0,
                   "only a binary column stands for a condition");
    KITEKNOT_CHECK(s.condition_of[at(column)] < 0, "a column stands for one condition");
    s.condition_of[at(column)] = c;
  }
  return c;
}

Index Problem::num_rows_in_all() const {
  Index count = 0;
  for (const auto& kind : kinds().all()) count += kind->num_rows(*this);
  return count;
}

bool Problem::exact() const {
  return std::all_of(kinds().all().begin(), kinds().all().end(),
                     [&](const auto& kind) { return kind->exact() || !kind->any(*this); });
}

bool Problem::linear() const {
  return std::all_of(kinds().all().begin(), kinds().all().end(),
                     [&](const auto& kind) { return kind->linear() || !kind->any(*this); });
}

bool Problem::complete() const {
  return std::all_of(kinds().all().begin(), kinds().all().end(),
                     [&](const auto& kind) { return kind->complete() || !kind->any(*this); });
}

void Problem::set_exact_bounds(Index j, lp::Exact bounds) {
  stating().known_bounds[j] = std::move(bounds);
}

void Problem::clear_goal() {
  goal_.cost.assign(goal_.cost.size(), 0.0);
  goal_.known.clear();
  set_goal_facts(true, 1.0);
}

}  // namespace kiteknot::mip
