#pragma once
// The ways to get a tour that prove nothing, by name.

#include <string>

#include "kiteknot/tour.hpp"
#include "structures/tours/improve.hpp"

namespace kiteknot::methods {

/// A tour by the way called so; of directed lengths, too, where the way takes them. `start`: for
/// those that improve; empty: they make their own.
std::vector<linalg::Index> tour_by(const std::string& way,
                                   const structures::tours::Distances& distances,
                                   std::vector<linalg::Index> start, const TourOptions& options,
                                   const Interrupt& interrupt,
                                   const std::function<void(double, double)>& progress);

/// By chains of exchanged legs and so many kicks from what is there, or from short legs; directed
/// lengths as arrivals and departures.
std::vector<linalg::Index> tour_by_chains(const structures::tours::Distances& distances,
                                          std::vector<linalg::Index> start,
                                          const structures::tours::ChainOptions& options);

}  // namespace kiteknot::methods
