#include "mip/kinds/indicator_relaxation.hpp"

#include <algorithm>
#include <cmath>

#include "base/interval.hpp"
#include "mip/conflict/explanation.hpp"
#include "mip/domain/row_activity.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {
namespace {

// With z the 0-1 value of the literal and M = max a'x at the root: a'x <= U + (M - U)(1 - z); the
// lower side likewise. The bound M comes from the data; it and the sums with it are rounded
// outward, so that the row as it stands holds in exact arithmetic, and an exact look at the
// relaxation can take it.
void add_linked_rows(Relaxation& relaxation, const RowView& row, const lp::Exact* known,
                     const ConditionLiteral& when, const Domain& root) {
  const Index column = root.problem().column_of_condition(when.condition);
  if (column < 0 || std::find(row.index.begin(), row.index.end(), column) != row.index.end())
    return;
  const Activity range = activity(row, root);
  const auto add = [&](double limit, double reach, bool upper) {
    const Interval side = coefficient(limit, row.exact);  // what the limit stands for lies here
    const double slope = upper ? add_up(reach, -side.low) : add_down(reach, -side.high);
    if (upper ? slope <= 0.0 : slope >= 0.0) return;
    // holds: a'x + slope z <= U + slope;  fails: a'x - slope z <= U
    std::vector<Index> index(row.index.begin(), row.index.end());
    std::vector<double> value(row.value.begin(), row.value.end());
    index.push_back(column);
    value.push_back(when.holds ? slope : -slope);
    const double end = upper ? side.high : side.low;
    const double right = !when.holds ? end : upper ? add_up(end, slope) : add_down(end, slope);
    const double low = upper ? -kInf : right, high = upper ? right : kInf;
    lp::Exact exact;
    if (known != nullptr && !known->values.empty()) {
      const Rational end_of_row = Rational::exactly(right);
      exact = {low, high, upper ? Rational::minus_infinity() : end_of_row,
               upper ? end_of_row : Rational::infinity(), known->values};
      exact.values.push_back(Rational::exactly(value.back()));
    }
    relaxation.add({index, value, low, high, row.exact}, exact.values.empty() ? nullptr : &exact);
  };
  if (std::isfinite(row.upper) && range.infinite_high == 0) add(row.upper, range.high, true);
  if (std::isfinite(row.lower) && range.infinite_low == 0) add(row.lower, range.low, false);
}

}  // namespace

RelaxedIndicatorRows::RelaxedIndicatorRows(const IndicatorRows& rows, const Problem& problem,
                                           Relaxation& relaxation)
    : rows_(rows), rows_of_(at(problem.num_conditions())) {
  const Domain root(problem);
  for (Index k = 0; k < rows.num_rows(); ++k) {
    rows_of_[at(rows.when(k).condition)].push_back(k);
    RowView row = rows.row(k);
    row.lower = -kInf;
    row.upper = kInf;
    relaxed_.push_back(relaxation.add(row, rows.known(k)));
    add_linked_rows(relaxation, rows.row(k), rows.known(k), rows.when(k), root);
  }
  for (Index c = 0; c < problem.num_conditions(); ++c) follow(c, root, relaxation);
}

// The rows of a condition get the limits that its state asks for.
void RelaxedIndicatorRows::follow(Index condition, const Domain& domain,
                                  Relaxation& relaxation) const {
  for (const Index k : rows_of_[at(condition)]) {
    const RowView row = rows_.row(k);
    if (domain.holds(rows_.when(k)))
      relaxation.set_limits(relaxed_[at(k)], row.lower, row.upper);
    else
      relaxation.set_limits(relaxed_[at(k)], -kInf, kInf);
  }
}

bool RelaxedIndicatorRows::explain_sum(std::span<const double> multipliers,
                                       Explanation& why) const {
  for (Index k = 0; k < rows_.num_rows(); ++k)
    if (multipliers[at(relaxed_[at(k)])] != 0.0 && !why.needs(rows_.when(k))) return false;
  return true;
}

}  // namespace kiteknot::mip
