#pragma once
// Sets of stops that a relaxed point goes in and out of too little.

#include "structures/tours/cuts/stop_row.hpp"
#include "structures/tours/cuts/support.hpp"

namespace kiteknot::structures::tours {

/// The connected parts, where there are several: no leg leaves them. Takes any point.
void cut_parts(const Support& support, std::vector<StopRow>& found);

/// Sets with less than 2 - `margin` in and out of them: the least one is found if there is any. The
/// point meets 2 at every stop. Legs of 1 are contracted first (Padberg and Rinaldi 1990, "An
/// efficient algorithm for the minimum capacity cut problem"); then stops are taken in the order of
/// how strongly they hang on those before, which shows pairs that no such set parts, until one is
/// left (Nagamochi, Ono and Ibaraki 1994, "Implementing an efficient minimum capacity cut
/// algorithm"). O(rounds x legs x log stops), a few rounds where the point is near a tour.
void cut_weak_sets(const Support& support, double margin, std::vector<StopRow>& found);

}  // namespace kiteknot::structures::tours
