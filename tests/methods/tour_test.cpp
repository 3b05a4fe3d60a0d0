// Round trips through the public interface: against all permutations, directed and not, in the tree
// and in rounds, with legs that have to be there; every way gives a tour; wrong use is told.

#include <algorithm>
#include <map>
#include <numeric>
#include <set>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "data/stops_data.hpp"
#include "kiteknot/kiteknot.hpp"
#include "methods/tours/exact_tour.hpp"
#include "methods/tours/leg_search.hpp"
#include "structures/tours/directed.hpp"

using namespace kiteknot;

namespace {

std::string matrix_text(Random& random, int n, bool symmetric, int digits) {
  std::vector<std::vector<double>> m(static_cast<std::size_t>(n),
                                     std::vector<double>(static_cast<std::size_t>(n), 0.0));
  std::string text = "from";
  for (int j = 0; j < n; ++j) text += fmt::format(",S{}", j);
  text += "\n";
  for (std::size_t i = 0; i < m.size(); ++i) {
    text += fmt::format("S{}", i);
    for (std::size_t j = 0; j < m.size(); ++j) {
      m[i][j] = symmetric && j < i ? m[j][i] : static_cast<double>(random.between(1, 40));
      text += i == j ? "," : fmt::format(",{:.{}f}", m[i][j] / (digits > 0 ? 10.0 : 1.0), digits);
    }
    text += "\n";
  }
  return text;
}

double best_by_trying(const Stops& stops) {
  std::vector<std::int32_t> order(static_cast<std::size_t>(stops.size()));
  std::iota(order.begin(), order.end(), 0);
  double best = 1e18;
  do {
    double sum = 0.0;
    for (std::size_t k = 0; k < order.size(); ++k)
      sum += stops.length(order[k], order[k + 1 == order.size() ? 0 : k + 1]);
    best = std::min(best, sum);
  } while (std::next_permutation(order.begin() + 1, order.end()));
  return best;
}

double measured(const Stops& stops, const std::vector<std::int32_t>& order) {
  double sum = 0.0;
  for (std::size_t k = 0; k < order.size(); ++k)
    sum += stops.length(order[k], order[k + 1 == order.size() ? 0 : k + 1]);
  return sum;
}

bool visits_all(const Stops& stops, const std::vector<std::int32_t>& order) {
  return std::set<std::int32_t>(order.begin(), order.end()).size() == order.size() &&
         order.size() == static_cast<std::size_t>(stops.size());
}

}  // namespace

TEST_CASE("the shortest tour is that of all permutations", "[methods][tour][oracle]") {
  Random random(1411);
  for (int round = 0; round < 1200; ++round) {
    CAPTURE(round);
    const bool symmetric = random.chance(0.5);
    const int n = static_cast<int>(random.between(1, 7));
    const Stops stops =
        Stops::parse(matrix_text(random, n, symmetric, round % 3 == 0 ? 1 : 0), "m.csv").value();
    const TourAnswer a = find_tour(
        stops, {.first = static_cast<std::int32_t>(round % n), .in_rounds = round % 4 == 0});
    REQUIRE(a.outcome == Outcome::optimal);
    REQUIRE(visits_all(stops, a.order));
    CHECK(a.order.front() == round % n);
    CHECK(measured(stops, a.order) == Approx(best_by_trying(stops)));
    CHECK(a.length.to_double() == Approx(best_by_trying(stops)));
    CHECK(a.gap == 0.0);
    if (!a.rounds.empty()) CHECK(a.rounds.back().loops.size() == 1);
    for (std::size_t k = 1; k < a.rounds.size(); ++k)
      CHECK(a.rounds[k - 1].length <= a.rounds[k].length);
    for (const TourRound& r : a.rounds) {  // loops in their direction, every stop once
      double sum = 0.0;
      std::set<std::int32_t> seen;
      for (const std::vector<std::int32_t>& loop : r.loops) {
        sum += measured(stops, loop);
        seen.insert(loop.begin(), loop.end());
      }
      CHECK(sum == Approx(r.length.to_double()));
      CHECK(seen.size() == static_cast<std::size_t>(n));
    }
    if (a.loose) CHECK(a.loose->length <= a.length);
  }
}

TEST_CASE("legs that have to be there are, or it is said that they cannot", "[methods][tour]") {
  const std::string head =
      "NAME : bay\nTYPE : TSP\nDIMENSION : 6\nEDGE_WEIGHT_TYPE : EUC_2D\nNODE_COORD_SECTION\n"
      "1 0 0\n2 10 0\n3 20 0\n4 20 10\n5 10 10\n6 0 10\nFIXED_EDGES_SECTION\n";
  const Stops crossed = Stops::parse(head + "1 4\n-1\nEOF\n", "bay.tsp").value();
  const TourAnswer a = find_tour(crossed);
  REQUIRE(a.outcome == Outcome::optimal);
  bool there = false;
  for (std::size_t k = 0; k < 6; ++k) {
    const auto p = a.order[k], q = a.order[(k + 1) % 6];
    there = there || (std::min(p, q) == 0 && std::max(p, q) == 3);
  }
  CHECK(there);
  CHECK(a.length > Rational(60));
  const Stops closed = Stops::parse(head + "1 2\n2 5\n5 1\n-1\nEOF\n", "bay.tsp").value();
  const TourAnswer none = find_tour(closed);
  CHECK(none.outcome == Outcome::infeasible);
  CHECK(none.order.empty());
  CHECK(tour_page(closed, none).find("there is no tour") != std::string::npos);
  CHECK_THROWS_AS(find_tour(crossed, {.way = "legs"}), UsageError);
}

TEST_CASE("directed legs that have to be there are, in their direction", "[methods][tour]") {
  const std::string text =
      "NAME : wind\nTYPE : ATSP\nDIMENSION : 5\nEDGE_WEIGHT_TYPE : EXPLICIT\n"
      "EDGE_WEIGHT_FORMAT : FULL_MATRIX\nEDGE_WEIGHT_SECTION\n"
      "0 1 9 9 9\n9 0 1 9 9\n9 9 0 1 9\n9 9 9 0 1\n1 9 9 9 0\n";
  CHECK(find_tour(Stops::parse(text + "EOF\n", "w.atsp").value()).length == Rational(5));
  const Stops fixed = Stops::parse(text + "FIXED_EDGES_SECTION\n2 1\n-1\nEOF\n", "w.atsp").value();
  for (const bool in_rounds : {false, true}) {
    const TourAnswer a = find_tour(fixed, {.in_rounds = in_rounds});
    REQUIRE(a.outcome == Outcome::optimal);
    bool there = false;
    double least = 1e9;
    std::vector<std::int32_t> order = {0, 1, 2, 3, 4};
    for (std::size_t k = 0; k < 5; ++k)
      there = there || (a.order[k] == 1 && a.order[(k + 1) % 5] == 0);
    CHECK(there);
    do {
      bool has = false;
      for (std::size_t k = 0; k < 5; ++k) has = has || (order[k] == 1 && order[(k + 1) % 5] == 0);
      if (has) least = std::min(least, measured(fixed, order));
    } while (std::next_permutation(order.begin() + 1, order.end()));
    CHECK(a.length.to_double() == least);
  }
}

TEST_CASE("two ways to the proof agree on made-up stops", "[methods][tour]") {
  for (std::uint64_t seed = 1; seed <= 3; ++seed) {
    const Stops stops = Stops::made_up(60, seed);
    const TourAnswer tree = find_tour(stops, {.seed = seed}),
                     rounds = find_tour(stops, {.seed = seed, .in_rounds = true});
    REQUIRE(tree.outcome == Outcome::optimal);
    REQUIRE(rounds.outcome == Outcome::optimal);
    CHECK(tree.length == rounds.length);
    CHECK(measured(stops, tree.order) == Approx(tree.length.to_double()));
    REQUIRE(tree.loose);
    CHECK(tree.loose->length == rounds.rounds.front().length);
    CHECK(tree.start_length);
  }
}

TEST_CASE("every way gives a tour, and none shorter than the shortest", "[methods][tour]") {
  const Stops stops = Stops::made_up(80, 5);
  const TourAnswer best = find_tour(stops);
  REQUIRE(best.outcome == Outcome::optimal);
  for (const TourWay& way : tour_ways()) {
    if (!way.one) continue;
    CAPTURE(way.name);
    const TourAnswer a = find_tour(stops, {.way = way.name});
    CHECK(visits_all(stops, a.order));
    CHECK(a.length >= best.length);
    CHECK(a.length.to_double() < 1.6 * best.length.to_double());
    CHECK(a.way == way.name);
    REQUIRE(a.bound);
    CHECK(*a.bound <= best.length);
    CHECK(*a.bound > best.length * Rational(0.95));
    if (way.name != "exact")
      CHECK_FALSE(find_tour(stops, {.way = way.name, .with_bound = false}).bound);
  }
  Random random(1412);
  const Stops directed = Stops::parse(matrix_text(random, 30, false, 0), "m.csv").value();
  const TourAnswer shortest = find_tour(directed);
  REQUIRE(shortest.outcome == Outcome::optimal);
  for (const TourWay& way : tour_ways()) {
    if (!way.one) continue;
    CAPTURE(way.name);
    if (!way.directed) {
      CHECK_THROWS_AS(find_tour(directed, {.way = way.name}), UsageError);
      continue;
    }
    const TourAnswer a = find_tour(directed, {.way = way.name});
    CHECK(visits_all(directed, a.order));
    CHECK(a.length >= shortest.length);
  }
}

TEST_CASE("a tour to begin with, limits, and wrong use", "[methods][tour]") {
  const Stops stops = Stops::made_up(150, 3);
  std::vector<std::int32_t> given(150);
  std::iota(given.begin(), given.end(), 0);
  const TourAnswer a = find_tour(stops, {.way = "exchange", .start = given});
  CHECK(a.length.to_double() < measured(stops, given));
  given[0] = 1;
  CHECK_THROWS_AS(find_tour(stops, {.start = given}), UsageError);
  CHECK_THROWS_AS(find_tour(stops, {.first = 150}), UsageError);
  CHECK_THROWS_WITH(find_tour(stops, {.way = "chain"}), Catch::Contains("nearest is 'chains'"));
  CHECK_THROWS_WITH(find_tour(Stops::made_up(kMostExactStops + 1, 1)),
                    Catch::Contains("'chains' takes any number"));
  const TourAnswer rough = find_tour(stops, {.gap = 0.2});
  CHECK((rough.outcome == Outcome::accepted || rough.outcome == Outcome::optimal));
  CHECK(rough.gap.value_or(1.0) <= 0.2);
  const StopSwitch stop;
  stop.press();
  const TourAnswer stopped = find_tour(stops, {.stop = stop.token()});
  CHECK(stopped.outcome == Outcome::unproven);
  CHECK(stopped.stopped_by == "hand");
  CHECK(visits_all(stops, stopped.order));
}

TEST_CASE("none, one, two and three stops, and equal places", "[methods][tour]") {
  for (int n = 0; n <= 5; ++n) {
    CAPTURE(n);
    std::string text = "stop,x,y\n";
    for (int k = 0; k < n; ++k) text += fmt::format("S{},3,4\n", k);
    const Reading<Stops> read = Stops::parse(text, "s.csv");
    if (n == 0 && !read.ok()) continue;  // refused with the line
    const TourAnswer a = find_tour(read.value());
    CHECK(a.outcome == Outcome::optimal);
    CHECK(a.order.size() == static_cast<std::size_t>(n));
    CHECK(a.length.is_zero());
    CHECK(tour_page(read.value(), a).find("proven shortest") != std::string::npos);
    CHECK(tour_map(read.value(), a).starts_with("<svg"));
  }
}

TEST_CASE("length against time is drawn for the ways that go on", "[methods][tour]") {
  const Stops stops = Stops::made_up(40, 9);
  const TourAnswer chains = find_tour(stops, {.way = "chains"}),
                   nearest = find_tour(stops, {.way = "nearest"});
  REQUIRE(chains.progress.size() > 1);
  for (std::size_t k = 1; k < chains.progress.size(); ++k)
    CHECK(chains.progress[k].length <= chains.progress[k - 1].length);
  const std::string program = tour_progress_figure(stops, {nearest, chains}, "way.svg");
  CHECK(program.find("$way0 << EOD") != std::string::npos);
  CHECK(program.find("$way1 << EOD") != std::string::npos);
  // A way that builds once is a mark where it ended.
  CHECK(tour_progress_figure(stops, {nearest}, "way.svg").find("nearest: ") != std::string::npos);
  const std::string page = tour_comparison_page(stops, {nearest, chains});
  CHECK(page.find("chains") < page.find("nearest"));  // the shortest first
}

TEST_CASE("maps and documents say what was found", "[methods][tour]") {
  const Stops stops =
      Stops::parse("stop,x,y\nGate & Co,0,0\n<Pier>,3,0\nDune,3,4\nMole,0,4\n", "s.csv").value();
  const TourAnswer a = find_tour(stops, {.in_rounds = true});
  REQUIRE(a.length == Rational(14));
  const std::string map = tour_map(stops, a);
  CHECK(map.find("Gate &amp; Co") != std::string::npos);
  CHECK(map.find("&lt;Pier&gt;") != std::string::npos);
  CHECK(map.find("proven shortest") != std::string::npos);
  CHECK(rounds_figure(stops, a).find("the shortest round trip") != std::string::npos);
  CHECK_THROWS_AS(rounds_figure(stops, find_tour(stops)), UsageError);
  CHECK_THROWS_AS(relaxed_figure(stops, a), UsageError);
  const Stops more = Stops::made_up(60, 2);
  const TourAnswer proven = find_tour(more);
  REQUIRE(proven.relaxed);
  CHECK(proven.relaxed->length <= proven.length);
  std::vector<double> at(60, 0.0);
  for (const PartOfLeg& leg : proven.relaxed->legs) {
    at[static_cast<std::size_t>(leg.from)] += leg.share;
    at[static_cast<std::size_t>(leg.to)] += leg.share;
  }
  for (const double legs : at) CHECK(legs == Approx(2.0));
  REQUIRE_FALSE(proven.relaxed->sets.empty());
  for (const auto& [set, out] : proven.relaxed->sets) CHECK(out < 2.0);
  CHECK(relaxed_figure(more, proven).find("Shaded") != std::string::npos);
  const std::string document = tour_document(stops, a);
  CHECK(document.find("\"outcome\": \"optimal\"") != std::string::npos);
  CHECK(document.find("\"value\": 14,") != std::string::npos);
  CHECK(document.find("\"<Pier>\"") != std::string::npos);
  const Stops matrix = Stops::parse("from,A,B,C\nA,,1,2\nB,1,,3\nC,2,3,\n", "m.csv").value();
  CHECK_THROWS_AS(tour_map(matrix, find_tour(matrix)), UsageError);
}

TEST_CASE("merged tours are tours, of directed lengths too, and the proof is right",
          "[methods][tour][oracle]") {
  namespace tours = structures::tours;
  Random random(12);
  for (int round = 0; round < 300; ++round) {
    const bool directed = round % 2 == 0;
    const auto n = static_cast<std::int32_t>(random.between(4, 7));
    const Stops stops = Stops::parse(matrix_text(random, n, !directed, 0), "made up").value();
    const tours::Distances& d = stops.data().distances;
    const bool pairs = !d.symmetric();
    const tours::Distances symmetric = pairs ? tours::arrivals_and_departures(d) : d;
    std::vector<tours::Leg> sure;
    if (pairs) sure = tours::ties(n);
    std::sort(sure.begin(), sure.end());
    const tours::WholeLengths lengths(symmetric);
    // Good ones that know nothing of the proof: some, or none at all.
    const auto better = [&](std::vector<std::int32_t> tour, std::int64_t, std::uint64_t draw) {
      if (!tour.empty() || draw % 3 == 0) return tour;
      std::vector<std::int32_t> order(static_cast<std::size_t>(n));
      std::iota(order.begin(), order.end(), 0);
      std::rotate(order.begin() + 1, order.begin() + 1 + static_cast<int>(draw) % (n - 1),
                  order.end());
      return pairs ? tours::symmetric_tour(order) : order;
    };
    methods::ExactTourOptions options;
    options.merge_from = 3;
    const methods::ExactTour found = methods::solve_exactly(lengths, sure, better, options);
    CAPTURE(round, n, directed);
    REQUIRE(found.outcome == Outcome::optimal);
    const std::vector<std::int32_t> order =
        pairs ? tours::directed_tour(found.tour, n) : found.tour;
    CHECK(visits_all(stops, order));
    CHECK(measured(stops, order) == best_by_trying(stops));
    CHECK(found.length == static_cast<std::int64_t>(best_by_trying(stops)));
  }
}

TEST_CASE("dividing on sets of stops leaves the shortest tour what it is",
          "[methods][tour][oracle]") {
  namespace tours = structures::tours;
  Random random(1477);
  std::int64_t with = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const auto n = static_cast<tours::Index>(random.between(6, 14));
    std::vector<double> m(at(n) * at(n), 0.0);
    for (tours::Index i = 0; i < n; ++i)
      for (tours::Index j = 0; j < i; ++j)
        m[at(i) * at(n) + at(j)] = m[at(j) * at(n) + at(i)] =
            static_cast<double>(random.between(1, 9));
    const tours::Distances distances(n, m);
    const tours::WholeLengths lengths(distances);
    methods::LegProblem plain;
    for (tours::Index a = 0; a < n; ++a)
      for (tours::Index b = a + 1; b < n; ++b) plain.legs.push_back({a, b});
    methods::LegProblem divided = plain;
    std::vector<tours::Index> tour(at(n));
    std::iota(tour.begin(), tour.end(), 0);
    if (random.chance(0.5)) divided.tour = tour;
    for (int k = 0; k < 6; ++k) {
      std::vector<tours::Index> set;
      for (tours::Index s = 0; s < n; ++s)
        if (random.chance(0.4)) set.push_back(s);
      if (!set.empty() && set.size() < at(n)) divided.sets.push_back(set);
    }
    const methods::LegAnswer a = methods::search_legs(lengths, plain, {});
    const methods::LegAnswer b = methods::search_legs(lengths, divided, {});
    REQUIRE(a.outcome == Outcome::optimal);
    REQUIRE(b.outcome == Outcome::optimal);
    CHECK(a.length == b.length);
    CHECK(tours::length(lengths, b.tour) == b.length);
    with += b.nodes;
  }
  CHECK(with > 150);
}

TEST_CASE("many directed stops are proven no longer than by any other way", "[methods][tour]") {
  Random random(3);
  const Stops stops = Stops::parse(matrix_text(random, 260, false, 0), "made up").value();
  const TourAnswer exact = find_tour(stops, {.seconds = 20.0});
  const TourAnswer chains = find_tour(stops, {.way = "chains", .seconds = 1.0});
  REQUIRE(visits_all(stops, exact.order));
  CHECK(exact.length <= chains.length);
  CHECK(measured(stops, exact.order) == Approx(exact.length.to_double()));
  CHECK(*exact.bound <= exact.length);
}
