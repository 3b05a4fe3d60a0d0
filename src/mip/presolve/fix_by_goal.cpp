#include <cmath>

#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {

void fix_by_goal(Draft& draft, const Means& means) {
  for (Index j = 0; j < draft.num_columns(); ++j) {
    if (means.spent()) return;
    const Draft::Column& c = draft.column(j);
    if (c.gone || c.inexact || c.fixed()) continue;
    if (c.cost == 0.0 && means.keeps != Keeps::a_best_plan) continue;
    // Whether no constraint and no goal is against it.
    bool down = c.cost >= 0.0 && !c.down_locked, up = c.cost <= 0.0 && !c.up_locked;
    const std::vector<Index> rows = draft.rows_of(j);
    means.work.add(static_cast<std::int64_t>(rows.size()) + 1);
    for (const Index i : rows) {
      if (!down && !up) break;
      const bool rises = draft.entry(i, j) > 0.0;
      if (std::isfinite(draft.row(i).lower)) (rises ? down : up) = false;
      if (std::isfinite(draft.row(i).upper)) (rises ? up : down) = false;
    }
    if (down && std::isfinite(c.lower))
      (void)draft.fix(j, c.lower);
    else if (up && std::isfinite(c.upper))
      (void)draft.fix(j, c.upper);
  }
}

}  // namespace kiteknot::mip
