#include "structures/tours/fleets/fleet.hpp"

#include <algorithm>

namespace kiteknot::structures::tours {

double length(const Fleet& fleet, const std::vector<Index>& route) {
  double sum = 0.0;
  Index from = fleet.gate;
  for (const Index s : route) {
    sum += fleet.distances(from, s);
    from = s;
  }
  return route.empty() ? 0.0 : sum + fleet.distances(from, fleet.gate);
}

double length(const Fleet& fleet, const Routes& routes) {
  double sum = 0.0;
  for (const auto& route : routes) sum += length(fleet, route);
  return sum;
}

std::int64_t load(const Fleet& fleet, const std::vector<Index>& route) {
  std::int64_t sum = 0;
  for (const Index s : route) sum += fleet.load[at(s)];
  return sum;
}

bool fits(const Fleet& fleet, const Routes& routes) {
  std::vector<char> seen(at(fleet.size()), 0);
  Index count = 0, trips = 0;
  for (const auto& route : routes) {
    if (load(fleet, route) > fleet.capacity) return false;
    trips += route.empty() ? 0 : 1;
    for (const Index s : route) {
      if (s == fleet.gate || seen[at(s)] != 0) return false;
      seen[at(s)] = 1;
      ++count;
    }
  }
  return count == fleet.size() - 1 && trips <= fleet.most;
}

}  // namespace kiteknot::structures::tours
