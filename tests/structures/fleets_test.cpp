// Trips from one gate over plain arrays: whatever is done to them, every stop stays on one, nothing
// is overloaded, and they never get longer.

#include <algorithm>
#include <numeric>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "structures/tours/fleets/build_routes.hpp"
#include "structures/tours/fleets/route_search.hpp"

using namespace kiteknot;
using namespace kiteknot::structures::tours;
using linalg::Index;

namespace {

Distances drawn(Random& random, Index n, bool directed) {
  if (!directed) {
    Places places;
    for (Index s = 0; s < n; ++s) {
      places.x.push_back(100.0 * random.fraction());
      places.y.push_back(100.0 * random.fraction());
    }
    return {Formula::plane, std::move(places)};
  }
  std::vector<double> matrix;
  for (Index k = 0; k < n * n; ++k)
    matrix.push_back(k % (n + 1) == 0 ? 0.0 : static_cast<double>(random.between(1, 90)));
  return {n, std::move(matrix)};
}

// By hand, leg by leg.
double summed(const Fleet& fleet, const Routes& routes) {
  double sum = 0.0;
  for (const auto& route : routes)
    for (std::size_t k = 0; k <= route.size() && !route.empty(); ++k)
      sum += fleet.distances(k == 0 ? fleet.gate : route[k - 1],
                             k == route.size() ? fleet.gate : route[k]);
  return sum;
}

std::vector<Index> sorted(std::vector<Index> route) {
  std::sort(route.begin(), route.end());
  return route;
}

}  // namespace

TEST_CASE("trips stay trips and never get longer", "[structures][fleet]") {
  Random random(21);
  constexpr double kRounding = 1e-6;
  for (int round = 0; round < 200; ++round) {
    CAPTURE(round);
    const auto n = static_cast<Index>(random.between(2, 40));
    const Distances d = drawn(random, n, round % 3 == 0);
    Fleet fleet{d, static_cast<Index>(random.between(0, n - 1)), {}, 0, n};
    for (Index s = 0; s < n; ++s) fleet.load.push_back(s == fleet.gate ? 0 : random.between(0, 9));
    fleet.capacity = random.between(9, 40);
    Routes routes = savings(fleet);
    REQUIRE(fits(fleet, routes));
    CHECK(length(fleet, routes) == Approx(summed(fleet, routes)));
    // No longer than a trip of its own for every stop.
    Routes single;
    for (Index s = 0; s < n; ++s)
      if (s != fleet.gate) single.push_back({s});
    CHECK(length(fleet, routes) <= length(fleet, single) + kRounding);
    const Routes before = routes;
    improve_each(fleet, routes);
    REQUIRE(routes.size() == before.size());
    for (std::size_t r = 0; r < routes.size(); ++r) {
      CHECK(sorted(routes[r]) == sorted(before[r]));
      CHECK(length(fleet, routes[r]) <= length(fleet, before[r]) + kRounding);
    }
    const double each = length(fleet, routes);
    improve_routes(fleet, routes, {});
    REQUIRE(fits(fleet, routes));
    CHECK(length(fleet, routes) <= each + kRounding);
    RuinOptions options;
    options.rounds = 200;
    const Routes ruined = ruin_and_recreate(fleet, routes, options);
    REQUIRE(fits(fleet, ruined));
    CHECK(length(fleet, ruined) <= length(fleet, routes) + kRounding);
    CHECK(ruin_and_recreate(fleet, routes, options) == ruined);  // the same lots
    if (!d.symmetric()) continue;
    const Routes swept = sweep(fleet);
    CHECK(fits(fleet, swept));
  }
}
