#include <cmath>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {
namespace {

// The only real column of an equation whose other entries are whole multiples of its own.
Index kept_whole(const PresolveModel& model, const PresolveModel::Row& row) {
  Index real = -1;
  double a = 0.0;
  for (const Entry& e : row.entries) {
    if (model.column(e.index).integer) continue;
    if (real >= 0) return -1;
    real = e.index;
    a = e.value;
  }
  if (real < 0) return -1;
  const auto multiple = [&](double v) {
    const auto q = exact_quotient(v, a);
    return q && whole(*q);
  };
  if (!multiple(row.lower)) return -1;
  for (const Entry& e : row.entries)
    if (!multiple(e.value)) return -1;
  return real;
}

}  // namespace

void find_implied_integers(PresolveModel& model, const PresolveBudget& budget) {
  for (Index i = 0; i < model.num_rows(); ++i) {
    if (!model.possible() || budget.spent()) return;
    const PresolveModel::Row& row = model.row(i);
    if (row.gone || row.firm || row.lower != row.upper) continue;
    budget.work.add(static_cast<std::int64_t>(row.entries.size()));
    const Index j = kept_whole(model, row);
    if (j >= 0 && !model.column(j).outward) model.set_integer(j);
  }
}

}  // namespace kiteknot::mip
