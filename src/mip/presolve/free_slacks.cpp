#include <cmath>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {
namespace {

// x_j = (b - rest) / a; the rest is within what the column's bounds leave.
bool release(Draft& draft, Index i, Index j) {
  const Draft::Row row = draft.row(i);
  const Draft::Column& c = draft.column(j);
  const double a = draft.entry(i, j);
  std::vector<Entry> terms;
  std::vector<Entry> rest;
  const auto constant = exact_quotient(row.upper, a);
  if (!constant || (c.integer && !whole(*constant))) return false;
  for (const Entry& e : row.entries) {
    if (e.index == j) continue;
    const auto factor = exact_quotient(-e.value, a);
    if (!factor || (c.integer && !(draft.column(e.index).integer && whole(*factor)))) return false;
    terms.push_back({e.index, *factor});
    rest.push_back(e);
  }
  if (rest.empty()) return false;                                // a bound
  const auto limit = [&](double end) -> std::optional<double> {  // of the rest, at an end of x_j
    if (std::isinf(end)) return (end > 0.0) == (a > 0.0) ? -kInf : kInf;
    const auto product = exact_product(a, end);
    return product ? exact_sum(row.upper, -*product) : std::nullopt;
  };
  const auto one = limit(c.lower), other = limit(c.upper);
  if (!one || !other) return false;
  const double lower = std::min(*one, *other), upper = std::max(*one, *other);
  if (!draft.substitute(j, terms, *constant)) return false;
  if (!draft.row(i).gone) draft.drop_row(i);
  if (lower > -kInf || upper < kInf) draft.add_row({std::move(rest), lower, upper});
  return true;
}

}  // namespace

void free_slacks(Draft& draft, const Means& means) {
  for (Index j = 0; j < draft.num_columns(); ++j) {
    if (means.spent()) return;
    means.work.add(1);
    const Draft::Column& c = draft.column(j);
    if (!draft.free_to_go(j) || c.rows.empty() || c.fixed()) continue;
    const std::vector<Index> rows = draft.rows_of(j);
    if (rows.size() != 1) continue;
    const Draft::Row& row = draft.row(rows[0]);
    if (row.firm || row.lower != row.upper) continue;
    // Where both limits of an endless column stand at the same end nothing is left to say.
    means.work.add(4 * static_cast<std::int64_t>(row.entries.size()));
    (void)release(draft, rows[0], j);
  }
}

}  // namespace kiteknot::mip
