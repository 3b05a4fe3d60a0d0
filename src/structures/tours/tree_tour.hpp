#pragma once
// A tour from a short tree: its stops with an odd number of legs are paired, and the whole is gone
// round once, stops that were there before left out. Source: Christofides 1976, "Worst-case
// analysis of a new heuristic for the travelling salesman problem"; the pairs are not the shortest
// but the nearest first, so that his bound of half as much again does not hold.

#include <vector>

#include "base/work.hpp"
#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

/// Symmetric lengths. O(n log n) from places, O(n^2) from a matrix. Interrupted, a whole tree
/// is gone round with every leg twice; before there is one the curve gives a tour.
std::vector<Index> by_tree_and_pairs(const Distances& distances, const Interrupt& interrupt = {});

}  // namespace kiteknot::structures::tours
