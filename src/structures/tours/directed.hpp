#pragma once
// Directed lengths as symmetric ones: every stop becomes an arrival and a departure, tied by a leg
// of 0 that every tour has; legs go from departures to arrivals only. Source: Jonker and Volgenant
// 1983, "Transforming asymmetric into symmetric traveling salesman problems" (there the tie is a
// large negative number; here it is a bound).

#include "structures/tours/whole_lengths.hpp"

namespace kiteknot::structures::tours {

/// Arrivals 0 .. n-1, departures n .. 2n-1. Lengths are infinite where there is no leg.
Distances arrivals_and_departures(const Distances& directed);
/// The same for heuristics, which know no bounds: ties are so short, and what is not there so long,
/// that no good tour goes against them.
Distances nearly_arrivals_and_departures(const Distances& directed);
/// The ties.
std::vector<Leg> ties(Index stops);
/// A tour of the symmetric stops, or a loop of some, with the ties of its stops: as one of the
/// stops in their direction.
std::vector<Index> directed_tour(const std::vector<Index>& symmetric, Index stops);
std::vector<Index> symmetric_tour(const std::vector<Index>& directed);

}  // namespace kiteknot::structures::tours
