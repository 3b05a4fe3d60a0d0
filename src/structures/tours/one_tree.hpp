#pragma once
// A lower bound on every round trip over symmetric lengths. A 1-tree is a shortest tree over all
// stops but one, and the two shortest legs of that one: a tour is one too. A price on every stop,
// which every tour pays twice, changes which 1-tree is shortest and not which tour; prices rise
// where more than two legs meet. Sources: Held and Karp 1970 and 1971, "The traveling-salesman
// problem and minimum spanning trees"; the steps after Held, Wolfe and Crowder 1974.

#include <limits>
#include <vector>

#include "base/work.hpp"
#include "structures/tours/neighbours.hpp"

namespace kiteknot::structures::tours {

struct OneTreeOptions {
  double upper = std::numeric_limits<double>::infinity();  ///< length of a tour, for the steps
  int rounds = 200;
  /// Null: all legs are looked at in every round. Else near ones are, and all of them three times,
  /// which is where the bound is from.
  const Neighbours* near = nullptr;
  Interrupt interrupt{};
};

struct OneTreeBound {
  double value = 0.0;          ///< no tour is shorter, whatever the roundings
  std::vector<double> prices;  ///< by stops, with which it was found
  int rounds = 0;
};

/// O(n^2) a round, or with near legs O(n^2) in all and O(n log n) a round. Infinity where legs that
/// have no end cannot be left out.
OneTreeBound one_tree_bound(const Distances& distances, const OneTreeOptions& options);

}  // namespace kiteknot::structures::tours
