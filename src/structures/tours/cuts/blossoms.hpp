#pragma once
// Handles with an odd number of teeth that a relaxed point comes in and out of too little.

#include "structures/tours/cuts/stop_row.hpp"
#include "structures/tours/cuts/support.hpp"

namespace kiteknot::structures::tours {

/// Teeth of two stops, exactly: a blossom broken by more than `margin` is found if there is one
/// (of a point with 2 at every stop and no leg above 1). With every leg's distance from the nearer
/// of 0 and 1 as its weight, some side of a cut tree, with the nearest odd set of legs, is the most
/// broken one. Source: Letchford, Reinelt and Theis 2004, "A faster exact separation algorithm for
/// blossom inequalities". Handles of whole fractional parts first (Padberg and Hong 1980, "On the
/// symmetric travelling salesman problem: a computational study").
void cut_blossoms(const Support& support, double margin, std::vector<StopRow>& found);

/// The same over a point whose stops were joined: `groups` of stops stand for its stops. Teeth grow
/// to groups: combs. Of large parts without their weakest legs.
void cut_combs_over(const Support& joined, const std::vector<std::vector<Index>>& groups,
                    double margin, std::vector<StopRow>& found);

}  // namespace kiteknot::structures::tours
