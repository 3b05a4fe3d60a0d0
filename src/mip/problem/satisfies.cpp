#include <cmath>

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {
namespace {

bool within(const Rational& value, double lower, double upper) {
  return (std::isinf(lower) || value >= Rational::exactly(lower)) &&
         (std::isinf(upper) || value <= Rational::exactly(upper));
}

bool row_holds(const RowView& row, std::span<const Rational> point) {
  Rational activity = 0;
  for (std::size_t k = 0; k < row.index.size(); ++k)
    if (const Rational& x = point[at(row.index[k])]; !x.is_zero())
      activity += Rational::exactly(row.value[k]) * x;
  return within(activity, row.lower, row.upper);
}

}  // namespace

bool satisfies(const Problem& problem, std::span<const Rational> point) {
  for (Index j = 0; j < problem.num_columns(); ++j) {
    const Rational& x = point[static_cast<std::size_t>(j)];
    if (!within(x, problem.lower(j), problem.upper(j)) || (problem.integer(j) && !x.is_integer()))
      return false;
  }
  for (Index i = 0; i < problem.num_rows(); ++i)
    if (!row_holds(problem.row(i), point)) return false;
  // A condition without a column may take either state, but one state for all of its rows.
  std::vector<char> must_hold(static_cast<std::size_t>(problem.num_conditions()), 0),
      must_fail = must_hold;
  for (Index k = 0; k < problem.num_conditional_rows(); ++k) {
    if (row_holds(problem.conditional_row(k), point)) continue;
    const When when = problem.when(k);
    (when.holds ? must_fail : must_hold)[at(when.condition)] = 1;
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
