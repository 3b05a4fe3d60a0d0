#include "mip/problem.hpp"

#include <cmath>

#include "base/check.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot::mip {

Index Problem::add_column(double lower, double upper, bool integer, double cost) {
  if (std::isnan(lower) || std::isnan(upper)) throw UsageError("a bound is not a number");
  if (!std::isfinite(cost)) throw UsageError("a goal coefficient is not finite");
  lower_.push_back(lower);
  upper_.push_back(upper);
  cost_.push_back(cost);
  integer_.push_back(integer);
  condition_of_.push_back(-1);
  columns_.add_lines(1);
  num_integers_ += integer ? 1 : 0;
  return num_columns() - 1;
}

void Problem::set_cost(Index j, double cost) {
  if (!std::isfinite(cost)) throw UsageError("a goal coefficient is not finite");
  cost_[at(j)] = cost;
}

Index Problem::add_row(const Row& row) {
  if (std::isnan(row.lower) || std::isnan(row.upper)) throw UsageError("a limit is not a number");
  const Index i = num_rows();
  rows_.add_lines(1);
  row_lower_.push_back(row.lower);
  row_upper_.push_back(row.upper);
  row_exact_.push_back(row.exact);
  if (row.known) known_rows_.emplace(i, *row.known);
  for (const Entry& e : row.entries) {
    if (!std::isfinite(e.value)) throw UsageError("a coefficient is not finite");
    rows_.push(i, e.index, e.value);
    columns_.push(e.index, i, e.value);
  }
  return i;
}

void Problem::set_limits(Index i, double lower, double upper) {
  if (std::isnan(lower) || std::isnan(upper)) throw UsageError("a limit is not a number");
  row_lower_[at(i)] = lower;
  row_upper_[at(i)] = upper;
}

bool Problem::round_limits() {
  constexpr double kWhole = 0x1p53;
  for (Index i = 0; i < num_rows(); ++i) {
    bool whole = row_exact(i);
    for (std::size_t k = 0; k < rows_.index(i).size() && whole; ++k) {
      const double v = rows_.value(i)[k];
      whole = integer(rows_.index(i)[k]) && v == std::trunc(v) && std::abs(v) < kWhole;
    }
    if (!whole) continue;
    // The model's own limit may lie on the other side of a whole number than its double.
    const auto known = known_rows_.find(i);
    const bool own = known != known_rows_.end();
    const auto whole_limit = [&](double limit, double as, const Rational& exact, bool upper) {
      if (own && as == limit && exact.is_finite()) {
        const double near = (upper ? exact.floor() : exact.ceil()).to_double();
        if (std::abs(near) <= kWhole) return near;
      }
      return upper ? std::floor(limit) : std::ceil(limit);
    };
    const lp::Exact none;
    const lp::Exact& k = own ? known->second : none;
    row_lower_[at(i)] = whole_limit(row_lower_[at(i)], k.low_as, k.low, false);
    row_upper_[at(i)] = whole_limit(row_upper_[at(i)], k.high_as, k.high, true);
    if (row_lower_[at(i)] > row_upper_[at(i)]) return false;
  }
  return true;
}

Index Problem::add_condition(Index column) {
  const Index c = num_conditions();
  condition_column_.push_back(column);
  if (column >= 0) {
    KITEKNOT_CHECK(integer(column) && lower(column) >= 0.0 && upper(column) <= 1.0,
                   "only a binary column stands for a condition");
    KITEKNOT_CHECK(condition_of_[at(column)] < 0, "a column stands for one condition");
    condition_of_[at(column)] = c;
  }
  return c;
}

void Problem::add_conditional_row(ConditionalRow row) {
  KITEKNOT_CHECK(row.when.condition >= 0 && row.when.condition < num_conditions(),
                 "unknown condition");
  conditional_.push_back(std::move(row));
}

void Problem::add_ordered_set(OrderedSet set) {
  KITEKNOT_CHECK(set.width >= 1, "an ordered set lets at least one column be nonzero");
  ordered_.push_back(std::move(set));
}

void Problem::clear_goal() {
  cost_.assign(cost_.size(), 0.0);
  known_costs_.clear();
  set_goal_facts(true, 1.0);
}

namespace {

bool within(const Rational& value, double lower, double upper) {
  return (std::isinf(lower) || value >= Rational::exactly(lower)) &&
         (std::isinf(upper) || value <= Rational::exactly(upper));
}

bool row_holds(const Row& row, std::span<const Rational> point) {
  Rational activity = 0;
  for (const Entry& e : row.entries)
    activity += Rational::exactly(e.value) * point[static_cast<std::size_t>(e.index)];
  return within(activity, row.lower, row.upper);
}

}  // namespace

bool satisfies(const Problem& problem, std::span<const Rational> point) {
  for (Index j = 0; j < problem.num_columns(); ++j) {
    const Rational& x = point[static_cast<std::size_t>(j)];
    if (!within(x, problem.lower(j), problem.upper(j)) || (problem.integer(j) && !x.is_integer()))
      return false;
  }
  for (Index i = 0; i < problem.num_rows(); ++i) {
    Row row{{}, problem.row_lower(i), problem.row_upper(i), true};
    const auto index = problem.rows().index(i);
    for (std::size_t k = 0; k < index.size(); ++k)
      row.entries.push_back({index[k], problem.rows().value(i)[k]});
    if (!row_holds(row, point)) return false;
  }
  // A condition without a column may take either state, but one state for all of its rows.
  std::vector<char> must_hold(static_cast<std::size_t>(problem.num_conditions()), 0),
      must_fail = must_hold;
  for (const ConditionalRow& c : problem.conditional_rows()) {
    if (row_holds(c.row, point)) continue;
    (c.when.holds ? must_fail : must_hold)[static_cast<std::size_t>(c.when.condition)] = 1;
  }
  for (Index c = 0; c < problem.num_conditions(); ++c) {
    const auto k = static_cast<std::size_t>(c);
    const Index column = problem.column_of_condition(c);
    if (must_hold[k] && must_fail[k]) return false;
    if (column < 0) continue;
    const bool holds = point[static_cast<std::size_t>(column)] == Rational(1);
    if ((holds && must_fail[k]) || (!holds && must_hold[k])) return false;
  }
  for (const OrderedSet& set : problem.ordered_sets()) {
    Index first = -1, last = -1;
    for (std::size_t k = 0; k < set.columns.size(); ++k) {
      if (point[static_cast<std::size_t>(set.columns[k])].is_zero()) continue;
      if (first < 0) first = static_cast<Index>(k);
      last = static_cast<Index>(k);
    }
    if (first >= 0 && last - first + 1 > set.width) return false;
  }
  return true;
}

}  // namespace kiteknot::mip
