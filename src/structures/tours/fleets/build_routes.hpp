#pragma once
// Trips from nothing. They may be more than there should be: what is carried comes first.

#include "structures/tours/fleets/fleet.hpp"

namespace kiteknot::structures::tours {

/// Every stop has a trip of its own; then trips are joined where that saves most (Clarke and Wright
/// 1964, "Scheduling of vehicles from a central depot to a number of delivery points"). Directed
/// lengths, too. O(stops^2 log stops).
Routes savings(const Fleet& fleet);

/// A hand goes round the gate and fills one trip after the other; from every stop to begin with,
/// the best of all (Gillett and Miller 1974, "A heuristic algorithm for the vehicle-dispatch
/// problem"). Needs places.
Routes sweep(const Fleet& fleet);

}  // namespace kiteknot::structures::tours
