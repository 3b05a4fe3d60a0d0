#include "mip/relaxation/switched_rows.hpp"

#include <algorithm>
#include <cmath>

#include "base/interval.hpp"
#include "mip/propagators/row_activity.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {
namespace {

// With z the 0-1 value of the literal and M = max a'x at the root: a'x <= U + (M - U)(1 - z); the
// lower side likewise. The bound M comes from the data and is rounded outward.
void add_linked_rows(Relaxation& relaxation, const RowView& row, const When& when,
                     const Domain& root) {
  const Index column = root.problem().column_of_condition(when.condition);
  if (column < 0 || std::find(row.index.begin(), row.index.end(), column) != row.index.end())
    return;
  const Activity range = activity(row, root);
  const auto add = [&](double limit, double reach, bool upper) {
    const double slope = upper ? step_up(reach - limit) : step_down(reach - limit);
    if (upper ? slope <= 0.0 : slope >= 0.0) return;
    // holds: a'x + slope z <= U + slope;  fails: a'x - slope z <= U
    std::vector<Index> index(row.index.begin(), row.index.end());
    std::vector<double> value(row.value.begin(), row.value.end());
    index.push_back(column);
    value.push_back(when.holds ? slope : -slope);
    const double right = when.holds ? limit + slope : limit;
    relaxation.add(
        {index, value, upper ? -kInf : step_down(right), upper ? step_up(right) : kInf, false});
  };
  if (std::isfinite(row.upper) && range.infinite_high == 0) add(row.upper, range.high, true);
  if (std::isfinite(row.lower) && range.infinite_low == 0) add(row.lower, range.low, false);
}

}  // namespace

SwitchedRows::SwitchedRows(const Problem& problem, Relaxation& relaxation)
    : rows_of_(at(problem.num_conditions())) {
  const Domain root(problem);
  for (Index k = 0; k < problem.num_conditional_rows(); ++k) {
    const When when = problem.when(k);
    rows_of_[at(when.condition)].push_back(k);
    RowView row = problem.conditional_row(k);
    row.lower = -kInf;
    row.upper = kInf;
    relaxed_.push_back(relaxation.add(row, problem.stated().conditional.known(k)));
    add_linked_rows(relaxation, problem.conditional_row(k), when, root);
  }
  for (Index c = 0; c < problem.num_conditions(); ++c) follow(c, root, relaxation);
}

void SwitchedRows::follow(Index condition, const Domain& domain, Relaxation& relaxation) const {
  const Problem& problem = domain.problem();
  for (const Index k : rows_of_[at(condition)]) {
    const RowView row = problem.conditional_row(k);
    if (domain.holds(problem.when(k)))
      relaxation.set_limits(relaxed_[at(k)], row.lower, row.upper);
    else
      relaxation.set_limits(relaxed_[at(k)], -kInf, kInf);
  }
}

}  // namespace kiteknot::mip
