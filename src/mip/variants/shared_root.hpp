#pragma once
// One look at the root for several problems: the same columns, costs and rows, but other limits of
// some rows. Row multipliers found under the limits of one problem bound every other one: y'r taken
// over its own limits. So neighbours share relaxations and plans, and reduced-cost enumeration of
// what is left settles those of about the same bound at once. What the root does not settle is left
// to a search each, which starts from the plans found here.
// Sources: Marsten and Morin 1977, "Parametric integer programming: the right-hand-side case";
// Geoffrion and Nauss 1977, "Parametric and postoptimality analysis in integer linear programming".
//
// For linear rows of whole figures over whole columns with finite bounds, where all sums are exact
// in doubles; other problems are left to a search each.

#include <limits>
#include <optional>
#include <vector>

#include "base/budget.hpp"
#include "mip/problem/limit_changes.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

struct SharedOptions {
  Budget budget{};  ///< seconds and stop, for all of them; relaxations where it says nodes
  lp::Basis basis;  ///< to start the relaxation from
  std::vector<std::vector<double>> plans;  ///< points that may serve some of them
};

struct SharedAnswer {
  bool settled =
      false;  ///< the point is proven best, or no point is proven; else nothing is proven
  std::vector<double> point;  ///< the best one found; empty: none
};

struct SharedResult {
  std::vector<SharedAnswer> answers;  ///< in the order of the changes
  std::int64_t relaxations = 0, pivots = 0, work = 0;
};

/// Whether settle_at_root can settle problems like this one at all. O(nonzeros).
bool can_share(const Problem& problem);

/// Looks at the problem under each of the changes. Those that it leaves open are not settled.
SharedResult settle_at_root(const Problem& problem, const std::vector<LimitChanges>& changes,
                            const SharedOptions& options);

}  // namespace kiteknot::mip
