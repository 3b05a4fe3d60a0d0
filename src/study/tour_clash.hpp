#pragma once
// What about a tour rule leaves no plan: in sentences about stops.

#include "kiteknot/study.hpp"
#include "model/tours/tour_rule.hpp"
#include "study/time_left.hpp"

namespace kiteknot {

/// "stop Cliff Steps has no leg": what can be told of a tour rule that clashes with the rules that
/// hold in `others` (where it does not hold itself). Each sentence is proven; there may be none.
std::vector<std::string> why_no_tour(const Model& others, const TourRule& rule,
                                     const TimeLeft& left);

}  // namespace kiteknot
