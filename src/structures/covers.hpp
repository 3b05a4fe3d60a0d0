#pragma once
// Set covering on plain arrays: needs, each met by some sets, and the cheapest sets that meet all.

#include <functional>
#include <vector>

#include "base/random.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct CoverProblem {
  std::vector<double> cost;               ///< by set, from 0 up
  std::vector<std::vector<Index>> needs;  ///< by set: the needs that it meets
  Index num_needs = 0;
};

/// The sets of a cover; empty where some need is met by none (and there are needs).
struct CoverPlan {
  std::vector<Index> sets;
  double cost = 0.0;
};

/// The set that meets most needs for its cost, again and again; then sets are left out that others
/// make needless, the dearest first (Chvatal 1979, "A greedy heuristic for the set-covering
/// problem"). O(entries log sets).
CoverPlan greedy_cover(const CoverProblem& problem);

/// What listens: a better cover, and whether to go on.
struct CoverWatch {
  std::function<void(const CoverPlan&)> better;
  std::function<bool()> over;
};
struct CoverPrices {
  std::vector<double> price;  ///< by need, from 0 up: of the best bound
  double bound = 0.0;         ///< of these prices, in doubles
};
/// Prices for needs by subgradients, covers by greedy at reduced costs near the best prices, and
/// sets that all of these agree on fixed while the rest is priced again (Caprara, Fischetti and
/// Toth 1999, "A heuristic method for the set covering problem"). Ends when `over` says so, or
/// after `rounds` of fixing.
CoverPrices priced_covers(const CoverProblem& problem, Random& random, int rounds,
                          const CoverWatch& watch);

}  // namespace kiteknot::structures
