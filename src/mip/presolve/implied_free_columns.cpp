#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"
#include "mip/presolve/row_range.hpp"

namespace kiteknot::mip {
namespace {

constexpr std::size_t kMostRows = 4, kMostEntries = 12;

// Whether  a x_j + rest = b  keeps x_j within its bounds by itself, whatever the rest is.
bool bounds_follow(const PresolveModel& model, const PresolveModel::Row& row, Index j, double a) {
  double least = row.lower, most = row.lower;  // of a x_j = b - rest
  for (const Entry& e : row.entries) {
    if (e.index == j) continue;
    const PresolveModel::Column& c = model.column(e.index);
    const Reaches r = reaches(factor_of(row, e), c.lower, c.upper);
    least = add_down(least, -r.high);
    most = add_up(most, -r.low);
  }
  const PresolveModel::Column& c = model.column(j);
  const double low = a > 0.0 ? c.lower : c.upper, high = a > 0.0 ? c.upper : c.lower;
  return (std::isinf(low) || least >= multiply_up(a, low)) &&
         (std::isinf(high) || most <= multiply_down(a, high));
}

// Not more entries than before: a replaced column puts the rest of its equation into every other
// row that has it.
bool pays(const PresolveModel::Row& row, std::size_t rows) {
  const std::size_t others = rows - 1, rest = row.entries.size() - 1;
  return row.entries.size() <= kMostEntries && others * rest <= row.entries.size() + others;
}

bool replace(PresolveModel& model, Index i, Index j) {
  const PresolveModel::Row row = model.row(i);
  const PresolveModel::Column& c = model.column(j);
  const double a = model.entry(i, j);
  if (!bounds_follow(model, row, j, a)) return false;
  const auto constant = exact_quotient(row.lower, a);
  if (!constant || (c.integer && !whole(*constant))) return false;
  std::vector<Entry> terms;
  for (const Entry& e : row.entries) {
    if (e.index == j) continue;
    const auto factor = exact_quotient(-e.value, a);
    if (!factor || (c.integer && !(model.column(e.index).integer && whole(*factor)))) return false;
    terms.push_back({e.index, *factor});
  }
  if (!model.substitute(j, terms, *constant)) return false;
  if (!model.row(i).gone) model.drop_row(i);  // 0 = 0
  return true;
}

}  // namespace

void substitute_implied_free(PresolveModel& model, const PresolveBudget& budget) {
  for (Index j = 0; j < model.num_columns(); ++j) {
    if (!model.possible() || budget.spent()) return;
    budget.work.add(1);
    const PresolveModel::Column& c = model.column(j);
    if (!model.free_to_go(j) || c.fixed() || c.rows.size() < 2) continue;
    const std::vector<Index> rows = model.rows_of(j);
    if (rows.size() < 2 || rows.size() > kMostRows) continue;
    for (const Index i : rows) {
      const PresolveModel::Row& row = model.row(i);
      if (row.firm || row.lower != row.upper || row.entries.size() < 3 || !pays(row, rows.size()))
        continue;
      budget.work.add(4 * static_cast<std::int64_t>(row.entries.size()));
      if (replace(model, i, j)) break;
    }
  }
}

}  // namespace kiteknot::mip
