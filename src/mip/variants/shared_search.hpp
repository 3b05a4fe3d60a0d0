#pragma once
// Several problems in one search: the same columns, costs and rows, but other limits of some rows.
// A node is looked at once for all problems that are still open there. Row multipliers found under
// the limits of one problem bound every other one: y'r taken over its own limits. So neighbours
// share relaxations, plans and the tree, and a node is left once each of them is closed there.
// Sources: Marsten and Morin 1977, "Parametric integer programming: the right-hand-side case";
// Geoffrion and Nauss 1977, "Parametric and postoptimality analysis in integer linear programming".
//
// For linear rows of whole figures over whole columns with finite bounds, where all sums are exact
// in doubles; other problems are left to a search each.

#include <optional>
#include <vector>

#include "base/budget.hpp"
#include "mip/problem/limit_changes.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

struct SharedOptions {
  Budget budget{};                         ///< for all of them
  lp::Basis basis;                         ///< to start the relaxation from
  std::vector<std::vector<double>> plans;  ///< points that may serve some of them
};

struct SharedAnswer {
  bool settled =
      false;  ///< the point is proven best, or no point is proven; else nothing is proven
  std::vector<double> point;  ///< the best one found; empty: none
};

struct SharedResult {
  std::vector<SharedAnswer> answers;  ///< in the order of the changes
  std::int64_t nodes = 0, pivots = 0, work = 0;
};

/// Whether search_variants can settle problems like this one at all. O(nonzeros).
bool can_share(const Problem& problem);

/// Solves the problem under each of the changes. Those that a limit left open are not settled.
SharedResult search_variants(const Problem& problem, const std::vector<LimitChanges>& changes,
                             const SharedOptions& options);

}  // namespace kiteknot::mip
