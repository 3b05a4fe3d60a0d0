#include <cmath>

#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {

void fix_dually(PresolveModel& model, const PresolveBudget& budget) {
  for (Index j = 0; j < model.num_columns(); ++j) {
    if (budget.spent()) return;
    const PresolveModel::Column& c = model.column(j);
    if (c.gone || c.inexact || c.fixed()) continue;
    if (c.cost == 0.0 && budget.keeps != ReductionStrength::a_best_plan) continue;
    // Whether no constraint and no goal is against it.
    bool down = c.cost >= 0.0 && !c.down_locked, up = c.cost <= 0.0 && !c.up_locked;
    const std::vector<Index> rows = model.rows_of(j);
    budget.work.add(static_cast<std::int64_t>(rows.size()) + 1);
    for (const Index i : rows) {
      if (!down && !up) break;
      const bool rises = model.entry(i, j) > 0.0;
      if (std::isfinite(model.row(i).lower)) (rises ? down : up) = false;
      if (std::isfinite(model.row(i).upper)) (rises ? up : down) = false;
    }
    if (down && std::isfinite(c.lower))
      (void)model.fix(j, c.lower);
    else if (up && std::isfinite(c.upper))
      (void)model.fix(j, c.upper);
  }
}

}  // namespace kiteknot::mip
