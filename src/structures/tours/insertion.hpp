#pragma once
// Tours into which one stop after the other is put (Rosenkrantz, Stearns and Lewis 1977, "An
// analysis of several heuristics for the traveling salesman problem"). Of many stops with places,
// near ones only are looked at (Bentley 1992, "Fast algorithms for geometric traveling salesman
// problems").

#include <vector>

#include "base/work.hpp"
#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

/// Each stop is put where it lengthens the tour least. Takes directed lengths.
enum class Insert {
  nearest,   ///< the stop that is nearest to the tour
  farthest,  ///< the stop that is farthest from it
  cheapest   ///< the stop that lengthens it least
};
/// Up to this many stops every leg of the tour is looked at.
inline constexpr Index kAllLegsLookedAt = 2000;
/// O(n^2); of more than kAllLegsLookedAt stops with places O(n log n), among the legs next to a
/// stop's nearest ones that are on the tour. Interrupted, it puts what is left behind one another.
std::vector<Index> by_insertion(const Distances& distances, Insert which,
                                const Interrupt& interrupt = {});

}  // namespace kiteknot::structures::tours
