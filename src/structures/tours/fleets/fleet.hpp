#pragma once
// Several round trips from one gate, each with a limit on what its stops' loads come to. Plain
// arrays; no model.

#include <cstdint>
#include <vector>

#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

struct Fleet {
  const Distances& distances;
  Index gate = 0;
  std::vector<std::int64_t> load;  ///< by stops, none below 0; the gate's is 0
  std::int64_t capacity = 0;       ///< of a trip; no single load is above it
  Index most = 0;                  ///< trips

  [[nodiscard]] Index size() const noexcept { return distances.size(); }
};

/// The stops of each trip in order, without the gate.
using Routes = std::vector<std::vector<Index>>;

double length(const Fleet& fleet, const std::vector<Index>& route);
double length(const Fleet& fleet, const Routes& routes);
std::int64_t load(const Fleet& fleet, const std::vector<Index>& route);
/// Every stop but the gate once, no trip overloaded, not too many trips.
bool fits(const Fleet& fleet, const Routes& routes);

}  // namespace kiteknot::structures::tours
