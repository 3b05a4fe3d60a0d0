#include "structures/tours/fleets/build_routes.hpp"

#include <algorithm>
#include <cmath>

#include "structures/tours/fleets/route_search.hpp"

namespace kiteknot::structures::tours {

Routes savings(const Fleet& fleet) {
  struct Saving {
    double saved;
    Index from, to;
  };
  const Index n = fleet.size();
  const Distances& d = fleet.distances;
  const bool both_ways = d.symmetric();
  std::vector<Saving> all;
  for (Index i = 0; i < n; ++i)
    for (Index j = both_ways ? i + 1 : 0; j < n; ++j) {
      if (i == j || i == fleet.gate || j == fleet.gate) continue;
      const double saved = d(i, fleet.gate) + d(fleet.gate, j) - d(i, j);
      if (saved > 0.0) all.push_back({saved, i, j});
    }
  std::stable_sort(all.begin(), all.end(),
                   [](const Saving& a, const Saving& b) { return a.saved > b.saved; });
  Routes routes(at(n));
  std::vector<Index> route_of(at(n), -1);
  std::vector<std::int64_t> loads(at(n), 0);
  for (Index s = 0; s < n; ++s) {
    if (s == fleet.gate) continue;
    routes[at(s)] = {s};
    route_of[at(s)] = s;
    loads[at(s)] = fleet.load[at(s)];
  }
  for (const Saving& s : all) {
    const Index a = route_of[at(s.from)], b = route_of[at(s.to)];
    if (a == b || loads[at(a)] + loads[at(b)] > fleet.capacity) continue;
    std::vector<Index>&first = routes[at(a)], &second = routes[at(b)];
    if (first.back() != s.from && both_ways && first.front() == s.from)
      std::reverse(first.begin(), first.end());
    if (second.front() != s.to && both_ways && second.back() == s.to)
      std::reverse(second.begin(), second.end());
    if (first.back() != s.from || second.front() != s.to) continue;
    for (const Index stop : second) route_of[at(stop)] = a;
    first.insert(first.end(), second.begin(), second.end());
    second.clear();
    loads[at(a)] += loads[at(b)];
  }
  std::erase_if(routes, [](const auto& r) { return r.empty(); });
  return routes;
}

Routes sweep(const Fleet& fleet) {
  const Places& places = fleet.distances.in_space();
  const auto gate = at(fleet.gate);
  std::vector<std::pair<double, Index>> round;
  for (Index s = 0; s < fleet.size(); ++s)
    if (s != fleet.gate)
      round.emplace_back(
          std::atan2(places.y[at(s)] - places.y[gate], places.x[at(s)] - places.x[gate]), s);
  std::sort(round.begin(), round.end());
  Routes best;
  double best_length = 0.0;
  constexpr std::size_t kMostStarts = 200;
  const std::size_t step = std::max<std::size_t>(1, round.size() / kMostStarts);
  for (std::size_t start = 0; start < round.size(); start += step) {
    Routes routes(1);
    std::int64_t carried = 0;
    for (std::size_t k = 0; k < round.size(); ++k) {
      const Index s = round[(start + k) % round.size()].second;
      if (carried + fleet.load[at(s)] > fleet.capacity) {
        routes.emplace_back();
        carried = 0;
      }
      routes.back().push_back(s);
      carried += fleet.load[at(s)];
    }
    improve_each(fleet, routes);
    const double now = length(fleet, routes);
    const bool fewer = routes.size() < best.size() && static_cast<Index>(best.size()) > fleet.most;
    const bool as_few =
        routes.size() <= best.size() || static_cast<Index>(routes.size()) <= fleet.most;
    if (best.empty() || fewer || (as_few && now < best_length)) {
      best = std::move(routes);
      best_length = now;
    }
  }
  return best;
}

}  // namespace kiteknot::structures::tours
