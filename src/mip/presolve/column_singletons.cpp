#include <cmath>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {
namespace {

// x_j = (b - rest) / a; the rest is within what the column's bounds leave.
bool release(PresolveModel& model, Index i, Index j) {
  const PresolveModel::Row row = model.row(i);
  const PresolveModel::Column& c = model.column(j);
  const double a = model.entry(i, j);
  std::vector<Entry> terms;
  std::vector<Entry> rest;
  const auto constant = exact_quotient(row.upper, a);
  if (!constant || (c.integer && !whole(*constant))) return false;
  for (const Entry& e : row.entries) {
    if (e.index == j) continue;
    const auto factor = exact_quotient(-e.value, a);
    if (!factor || (c.integer && !(model.column(e.index).integer && whole(*factor)))) return false;
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
  if (!model.substitute(j, terms, *constant)) return false;
  if (!model.row(i).gone) model.drop_row(i);
  if (lower > -kInf || upper < kInf) model.add_row({std::move(rest), lower, upper});
  return true;
}

}  // namespace

void free_column_singletons(PresolveModel& model, const PresolveBudget& budget) {
  for (Index j = 0; j < model.num_columns(); ++j) {
    if (budget.spent()) return;
    budget.work.add(1);
    const PresolveModel::Column& c = model.column(j);
    if (!model.free_to_go(j) || c.rows.empty() || c.fixed()) continue;
    const std::vector<Index> rows = model.rows_of(j);
    if (rows.size() != 1) continue;
    const PresolveModel::Row& row = model.row(rows[0]);
    if (row.firm || row.lower != row.upper) continue;
    // Where both limits of an endless column stand at the same end nothing is left to say.
    budget.work.add(4 * static_cast<std::int64_t>(row.entries.size()));
    (void)release(model, rows[0], j);
  }
}

}  // namespace kiteknot::mip
