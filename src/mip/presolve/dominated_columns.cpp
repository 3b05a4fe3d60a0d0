#include <algorithm>
#include <cmath>

#include "base/interval.hpp"
#include "mip/presolve/reduction.hpp"
#include "mip/presolve/row_range.hpp"

namespace kiteknot::mip {
namespace {

// Whether less of column k may break the row.
bool needs(const PresolveModel::Row& row, double a) {
  return a > 0.0 ? std::isfinite(row.lower) : std::isfinite(row.upper);
}

// Whether the row is met wherever j stands at 1 and k at 0.
bool met_by(const PresolveModel& model, const PresolveModel::Row& row, double a_j, double a_k) {
  const RowRange range = range_of(model, row);
  // The least value has j at 0 where it raises the row, and k at 1 where it lowers it.
  const double least = add_down(add_down(range.least(), std::max(a_j, 0.0)), -std::min(a_k, 0.0));
  const double most = add_up(add_up(range.most(), std::min(a_j, 0.0)), -std::max(a_k, 0.0));
  return least >= row.lower && most <= row.upper;
}

// Whether k may go to its least value because j does all it does for no more.
bool dominates(const PresolveModel& model, Index j, Index k, const PresolveBudget& budget) {
  const PresolveModel::Column &a = model.column(j), &b = model.column(k);
  if (a.gone || a.held || a.fixed() || !(a.cost <= b.cost)) return false;
  if (b.integer ? false : a.integer) return false;
  const bool endless = a.upper == kInf;
  if (!endless && !(a.binary() && b.binary() && b.cost >= 0.0)) return false;
  const bool dearer = endless ? b.cost > a.cost : b.cost > 0.0 && b.cost > a.cost;
  if (!dearer && budget.keeps != ReductionStrength::a_best_plan) return false;
  for (const bool of_j : {true, false})
    for (const Index i : model.rows_of(of_j ? j : k)) {
      const PresolveModel::Row& row = model.row(i);
      const double a_j = model.entry(i, j), a_k = model.entry(i, k);
      if (!of_j && a_j != 0.0) continue;  // it was looked at
      budget.work.add(4);
      // More of j for less of k: the row moves by a_j - a_k.
      if (a_j < a_k && std::isfinite(row.lower)) return false;
      if (a_j > a_k && std::isfinite(row.upper)) return false;
      if (!endless && a_k != 0.0 && needs(row, a_k)) {
        budget.work.add(4 * static_cast<std::int64_t>(row.entries.size()));
        if (!met_by(model, row, a_j, a_k)) return false;
      }
    }
  return true;
}

}  // namespace

void fix_dominated_columns(PresolveModel& model, const PresolveBudget& budget) {
  constexpr std::size_t kMostOthers = 200;
  for (Index k = 0; k < model.num_columns(); ++k) {
    const PresolveModel::Column& c = model.column(k);
    if (budget.spent()) return;
    if (!model.free_to_go(k) || c.fixed() || !std::isfinite(c.lower)) continue;
    // Whoever does what it does stands in every row that needs it: the shortest will do.
    const PresolveModel::Row* shortest = nullptr;
    for (const Index i : model.rows_of(k)) {
      const PresolveModel::Row& row = model.row(i);
      if (needs(row, model.entry(i, k)) &&
          (shortest == nullptr || row.entries.size() < shortest->entries.size()))
        shortest = &row;
    }
    if (shortest == nullptr || shortest->entries.size() > kMostOthers) continue;
    for (const Entry& e : shortest->entries) {
      if (e.index == k || budget.spent()) continue;
      budget.work.add(2);
      if (!dominates(model, e.index, k, budget)) continue;
      (void)model.fix(k, c.lower);
      break;
    }
  }
}

}  // namespace kiteknot::mip
