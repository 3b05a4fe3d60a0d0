#pragma once
// Stops as they were read: names, lengths between them, and where to draw them.

#include <optional>
#include <string>
#include <vector>

#include "kiteknot/tour.hpp"
#include "structures/tours/distances.hpp"

namespace kiteknot {

struct StopsData {
  std::string name;                ///< of the whole; may be empty
  std::vector<std::string> names;  ///< of stops
  structures::tours::Distances distances{0, {}};
  /// Where to draw them; x to the right, y upward. Nothing: nobody knows.
  std::optional<structures::tours::Places> map;
  bool on_earth = false;  ///< the map is of degrees, lengths are kilometres
  std::vector<std::pair<linalg::Index, linalg::Index>> fixed;  ///< legs that have to be there
  // Of several vehicles.
  std::optional<double> capacity;
  std::vector<double> demand;  ///< by stops; empty: none
  linalg::Index depot = -1;
  linalg::Index most_trips = 0;  ///< 0: any number
};

/// UsageError for an answer about other stops.
void need_answer_of(const Stops& stops, const TourAnswer& answer);

}  // namespace kiteknot
