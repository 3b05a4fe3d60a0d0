#pragma once
// Tours from nothing. All of them are permutations of the stops, whatever the lengths are; those
// that say so take directed lengths too. Sources: Rosenkrantz, Stearns and Lewis 1977, "An analysis
// of several heuristics for the traveling salesman problem" (nearest neighbour, insertions); Clarke
// and Wright 1964, "Scheduling of vehicles from a central depot to a number of delivery points"
// (savings); Platzman and Bartholdi 1989, "Spacefilling curves and the planar travelling salesman
// problem"; Bentley 1992, "Fast algorithms for geometric traveling salesman problems" (near stops).

#include <vector>

#include "base/work.hpp"
#include "structures/tours/neighbours.hpp"

namespace kiteknot::structures::tours {

/// Always on to the nearest stop that is left. Takes directed lengths. O(n log n) from places,
/// O(n^2) from a matrix.
std::vector<Index> by_nearest_stop(const Distances& distances, Index start = 0);

/// The shortest legs that fit, of near stops first; then ends of what came out to the nearest other
/// end, until it is one. Directed lengths count by the mean of both ways.
std::vector<Index> by_shortest_legs(const Distances& distances, const Neighbours& near,
                                    const Interrupt& interrupt = {});

/// As if every stop were visited by itself from the most central one: legs by what they save of
/// that. Directed lengths count by the mean of both ways.
std::vector<Index> by_savings(const Distances& distances, const Neighbours& near,
                              const Interrupt& interrupt = {});

/// Along a curve that fills the plane (Hilbert 1891). Needs places; a matrix is left in its own
/// order. O(n log n).
std::vector<Index> by_curve(const Distances& distances);

}  // namespace kiteknot::structures::tours
