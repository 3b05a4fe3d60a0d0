#pragma once
// Several trips from one gate: by the ways that people use, or proven.

#include "kiteknot/tour.hpp"

namespace kiteknot::methods {

/// Why no trips can be made of the stops, whatever the way; empty: they can.
std::string no_trips(const StopsData& stops);
TourAnswer find_trips(const Stops& stops, const TourOptions& options);

}  // namespace kiteknot::methods
