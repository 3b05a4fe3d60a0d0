#include <cmath>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"
#include "mip/presolve/row_range.hpp"

namespace kiteknot::mip {
namespace {

// For a'x <= b with a whole column x_j in [l, u], M >= max a'x: where the row cannot bind below u,
// that is M - a_j < b, a_j may fall to M - b and b to b - (b - M + a_j) u ... the row then binds at
// u - 1 as it does at u. For a_j < 0 the same from the other end. In terms of the slack d = b - M +
// |a_j| > 0: a_j moves by d towards 0, and b by d times the end where it bound.
bool tighten(PresolveModel& model, Index i) {
  const PresolveModel::Row& row = model.row(i);
  const bool upper = std::isfinite(row.upper);
  if (row.firm || upper == std::isfinite(row.lower)) return false;
  const double sign = upper ? 1.0 : -1.0;
  std::vector<Entry> entries = row.entries;
  double limit = sign * (upper ? row.upper : row.lower);  // of sign a'x <= limit
  bool changed = false;
  const RowRange range = range_of(model, row);
  double most = upper ? range.most() : -range.least();
  if (!std::isfinite(most) || !(most > limit)) return false;
  for (Entry& e : entries) {
    const PresolveModel::Column& c = model.column(e.index);
    if (!c.integer || c.fixed()) continue;
    const double a = sign * e.value;
    const auto excess = exact_sum(most, -limit);  // how far the row can be broken
    if (!excess || !(*excess < std::abs(a))) continue;
    const double end = a > 0.0 ? c.upper : c.lower;
    const auto slack = exact_sum(std::abs(a), -*excess);
    if (!slack || !std::isfinite(end)) continue;
    const auto by = exact_product(a > 0.0 ? *slack : -*slack, end);  // what max and limit lose
    const auto now = by ? exact_sum(limit, -*by) : std::nullopt;
    const auto peak = by ? exact_sum(most, -*by) : std::nullopt;
    if (!now || !peak) continue;
    e.value = sign * (a > 0.0 ? *excess : -*excess);
    limit = *now;
    most = *peak;
    changed = true;
  }
  if (!changed) return false;
  model.set_entries(i, std::move(entries));
  (void)(upper ? model.set_limits(i, -kInf, limit) : model.set_limits(i, -limit, kInf));
  return true;
}

}  // namespace

void tighten_coefficients(PresolveModel& model, const PresolveBudget& budget) {
  for (Index i = 0; i < model.num_rows(); ++i) {
    if (budget.spent()) return;
    if (model.row(i).gone) continue;
    budget.work.add(4 * static_cast<std::int64_t>(model.row(i).entries.size()) + 4);
    (void)tighten(model, i);
  }
}

}  // namespace kiteknot::mip
