// Several trips with loads: against all ways to split the stops, one-way lengths too; every way
// gives trips that fit; what cannot be is told.

#include <algorithm>
#include <limits>
#include <numeric>
#include <set>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

struct Loaded {
  std::vector<std::vector<int>> length;
  std::vector<int> load;
  int capacity = 0, most = 0;
};

// The least way over a set of stops and back, by trying all orders.
int shortest(const Loaded& l, std::vector<int> stops) {
  int best = std::numeric_limits<int>::max();
  do {
    int sum = 0, from = 0;
    for (const int s : stops) {
      sum += l.length[static_cast<std::size_t>(from)][static_cast<std::size_t>(s)];
      from = s;
    }
    best = std::min(best, sum + l.length[static_cast<std::size_t>(from)][0]);
  } while (std::next_permutation(stops.begin(), stops.end()));
  return best;
}

// By sets of stops: the best split into so many trips.
std::optional<int> best_by_trying(const Loaded& l) {
  const auto n = l.length.size() - 1;
  const std::size_t sets = std::size_t{1} << n;
  constexpr int kNone = 1'000'000;
  std::vector<int> one(sets, kNone);
  for (std::size_t set = 1; set < sets; ++set) {
    std::vector<int> stops;
    int load = 0;
    for (std::size_t k = 0; k < n; ++k)
      if ((set >> k) & 1) {
        stops.push_back(static_cast<int>(k) + 1);
        load += l.load[k + 1];
      }
    if (load <= l.capacity) one[set] = shortest(l, stops);
  }
  std::vector<int> best(sets, kNone);
  best[0] = 0;
  for (int trip = 0; trip < l.most; ++trip) {
    std::vector<int> next = best;
    for (std::size_t set = 1; set < sets; ++set)
      for (std::size_t part = set; part > 0; part = (part - 1) & set)
        next[set] = std::min(next[set], best[set ^ part] + one[part]);
    best = std::move(next);
  }
  return best[sets - 1] >= kNone ? std::nullopt : std::optional(best[sets - 1]);
}

Loaded drawn(Random& random, bool directed) {
  Loaded l;
  const auto n = static_cast<std::size_t>(random.between(2, 7));
  l.length.assign(n, std::vector<int>(n, 0));
  l.load.assign(n, 0);
  for (std::size_t a = 0; a < n; ++a) {
    if (a > 0) l.load[a] = static_cast<int>(random.between(0, 9));
    for (std::size_t b = 0; b < n; ++b)
      if (a != b)
        l.length[a][b] =
            !directed && b < a ? l.length[b][a] : static_cast<int>(random.between(1, 50));
  }
  l.capacity = static_cast<int>(random.between(9, 22));
  l.most = static_cast<int>(random.between(1, 4));
  return l;
}

// As TSPLIB has them: a matrix, demands, a depot.
Stops stated(const Loaded& l) {
  const std::size_t n = l.length.size();
  std::string text = fmt::format(
      "NAME : loads\nTYPE : CVRP\nDIMENSION : {}\nCAPACITY : {}\nEDGE_WEIGHT_TYPE : EXPLICIT\n"
      "EDGE_WEIGHT_FORMAT : FULL_MATRIX\nEDGE_WEIGHT_SECTION\n",
      n, l.capacity);
  for (const auto& row : l.length) text += fmt::format("{}\n", fmt::join(row, " "));
  text += "DEMAND_SECTION\n";
  for (std::size_t s = 0; s < n; ++s) text += fmt::format("{} {}\n", s + 1, l.load[s]);
  const Stops stops = Stops::parse(text + "DEPOT_SECTION\n1\n-1\nEOF\n", "loads.vrp").value();
  return stops.in_trips(l.capacity, l.most);
}

bool fit(const Stops& stops, const TourAnswer& a, int most) {
  std::set<std::int32_t> seen;
  std::size_t visits = 0;
  for (const auto& trip : a.trips) {
    if (trip.empty() || trip[0] != stops.gate() || stops.load(trip) > stops.capacity())
      return false;
    seen.insert(trip.begin() + 1, trip.end());
    visits += trip.size() - 1;
  }
  return !seen.contains(stops.gate()) && seen.size() == visits &&
         visits + 1 == static_cast<std::size_t>(stops.size()) &&
         static_cast<int>(a.trips.size()) <= most;
}

double measured(const Stops& stops, const TourAnswer& a) {
  double sum = 0.0;
  for (const auto& trip : a.trips)
    for (std::size_t k = 0; k < trip.size(); ++k)
      sum += stops.length(trip[k], trip[k + 1 == trip.size() ? 0 : k + 1]);
  return sum;
}

}  // namespace

TEST_CASE("trips with loads are the best of all that there are", "[tours][fleet]") {
  Random random(3);
  int proven = 0, none = 0;
  for (int round = 0; round < 600; ++round) {
    const Loaded l = drawn(random, round % 3 == 0);
    const std::optional<int> best = best_by_trying(l);
    const Stops stops = stated(l);
    CAPTURE(round, l.capacity, l.most);
    TourAnswer a;
    try {
      a = find_tour(stops);
    } catch (const UsageError&) {  // told before anything is searched
      CHECK_FALSE(best);
      ++none;
      continue;
    }
    if (!best) {
      CHECK(a.outcome == Outcome::infeasible);
      ++none;
      continue;
    }
    REQUIRE(a.outcome == Outcome::optimal);
    CHECK(a.length == Rational(*best));
    CHECK(fit(stops, a, l.most));
    CHECK(measured(stops, a) == Approx(*best));
    ++proven;
    for (const char* way : {"savings", "ruin"}) {
      const TourAnswer by = find_tour(stops, {.way = way, .seconds = 0.005});
      if (by.outcome == Outcome::undecided) continue;  // too many trips
      CHECK(fit(stops, by, l.most));
      CHECK(by.length >= a.length);
      CHECK(measured(stops, by) == Approx(by.length.to_double()));
    }
  }
  CHECK(proven > 300);
  CHECK(none > 20);
}

TEST_CASE("every way fills trips, wherever the stops are", "[tours][fleet]") {
  Random random(8);
  for (int round = 0; round < 60; ++round) {
    std::string text = "name,x,y,load\n";
    const auto n = random.between(2, 60);
    const int kind = round % 4;  // anywhere, all in one place, in a row, far away
    std::int64_t all = 0, heaviest = 1;
    for (std::int64_t k = 0; k < n; ++k) {
      const std::int64_t load = k == 0 ? 0 : random.between(0, 12);
      all += load;
      heaviest = std::max(heaviest, load);
      const double far = kind == 3 ? 1e7 : 1.0;
      text += fmt::format("S{},{},{},{}\n", k, kind == 1 ? 5.0 : far * random.fraction(),
                          kind == 1 || kind == 2 ? 5.0 : far * random.fraction(), load);
    }
    const Stops stops = Stops::parse(text, "s.csv")
                            .value()
                            .in_trips(static_cast<double>(std::max(heaviest, all / 3)));
    CAPTURE(round, text);
    double savings = 0.0;
    for (const TourWay& way : tour_ways()) {
      CHECK(takes(way, stops) == way.several);
      if (!way.several || way.name == "exact") continue;
      const TourAnswer a = find_tour(stops, {.way = way.name, .seconds = 0.01});
      CHECK(fit(stops, a, static_cast<int>(n)));
      CHECK(measured(stops, a) == Approx(a.length.to_double()).margin(1e-4));
      if (way.name == "savings") savings = a.length.to_double();
    }
    if (round % 10 == 0)
      CHECK(find_tour(stops, {.way = "ruin"}).length.to_double() <= savings + 1e-6);
  }
}

TEST_CASE("what no trips can carry is told", "[tours][fleet]") {
  const Stops stops =
      Stops::parse("name,x,y,load\nGate,0,0,0\nPier,3,4,5\nMole,6,8,2.5\n", "s.csv").value();
  CHECK_FALSE(stops.several());
  const TourAnswer alone = find_tour(stops.in_trips(4)), all = find_tour(stops.in_trips(6, 1));
  CHECK(alone.outcome == Outcome::infeasible);
  CHECK(alone.reason.find("Pier alone has 5 to carry") == 0);
  CHECK(all.outcome == Outcome::infeasible);
  CHECK(all.reason == "7.5 have to be carried in all, and 1 trip carry at most 6");
  CHECK_THROWS_WITH(find_tour(stops.in_trips(8), {.way = "chains"}),
                    Catch::Contains("makes one round trip"));
  CHECK_THROWS_WITH(find_tour(stops, {.way = "sweep"}), Catch::Contains("makes several trips"));
  CHECK_THROWS_WITH(find_tour(stops.in_trips(8), {.in_rounds = true}), Catch::Contains("rounds"));
  CHECK_THROWS_AS(stops.in_trips(8, 0, 3), UsageError);
  CHECK_THROWS_WITH(Stops::parse("x,y\n0,0\n", "s.csv").value().in_trips(3),
                    Catch::Contains("column 'load'"));
  const TourAnswer a = find_tour(stops.in_trips(6));
  CHECK(a.outcome == Outcome::optimal);
  CHECK(a.length == Rational(30));  // there and back, twice
  CHECK(a.trips.size() == 2);
  const std::string page = tour_page(stops.in_trips(6), a);
  CHECK(page.find("2 trips from Gate, over 3 stops, 30 long in all: none are shorter.") !=
        std::string::npos);
  CHECK(page.find("2.5 of 6") != std::string::npos);
  const std::string map = tour_map(stops.in_trips(6), a);
  CHECK(map.find("carries 2.5 of 6, 20 long") != std::string::npos);
  CHECK(map.find("Mole 2.5") != std::string::npos);
}
