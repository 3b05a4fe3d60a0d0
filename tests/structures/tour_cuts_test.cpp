// What is proven of round trips over plain arrays: rows by sets of stops hold for every tour and
// break the point; the least sets and blossoms are found where there are any; prices bound all
// tours.

#include <algorithm>
#include <map>
#include <numeric>
#include <set>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "structures/tours/cuts/blossoms.hpp"
#include "structures/tours/cuts/cut_tree.hpp"
#include "structures/tours/cuts/loops.hpp"
#include "structures/tours/cuts/separation.hpp"
#include "structures/tours/directed.hpp"
#include "structures/tours/relaxation.hpp"

using namespace kiteknot;
using namespace kiteknot::structures::tours;

namespace {

Leg leg(Index a, Index b) {
  return {std::min(a, b), std::max(a, b)};
}

Distances draw_lengths(Random& random, Index n, bool symmetric, std::int64_t most = 30) {
  std::vector<double> m(at(n) * at(n), 0.0);
  for (Index i = 0; i < n; ++i)
    for (Index j = 0; j < n; ++j)
      if (i != j)
        m[at(i) * at(n) + at(j)] = symmetric && j < i
                                       ? m[at(j) * at(n) + at(i)]
                                       : static_cast<double>(random.between(1, most));
  return {n, std::move(m)};
}

std::vector<std::vector<Index>> all_tours(Index n) {
  std::vector<Index> rest(at(n) - 1);
  std::iota(rest.begin(), rest.end(), 1);
  std::vector<std::vector<Index>> tours;
  do {
    tours.push_back({0});
    tours.back().insert(tours.back().end(), rest.begin(), rest.end());
  } while (std::next_permutation(rest.begin(), rest.end()));
  return tours;
}

// What the relaxation of two legs a stop comes to: halves on odd loops, whole loops; some of them
// mixed.
struct Point {
  std::vector<Leg> legs;
  std::vector<double> x;
};

Point draw_point(Random& random, Index n) {
  std::map<Leg, double> sum;
  const auto parts = random.chance(0.7) ? 1 : random.between(2, 3);
  for (std::int64_t p = 0; p < parts; ++p) {
    const Distances d = draw_lengths(random, n, true, random.chance(0.5) ? 30 : 4);
    const WholeLengths lengths(d);
    std::vector<Leg> all;
    for (Index a = 0; a < n; ++a)
      for (Index b = a + 1; b < n; ++b) all.push_back({a, b});
    TourRelaxation relaxation(lengths, all);
    REQUIRE(relaxation.solve_degrees({}));
    for (std::size_t k = 0; k < relaxation.legs().size(); ++k)
      if (relaxation.values()[k] > 1e-9)
        sum[relaxation.legs()[k]] += relaxation.values()[k] / static_cast<double>(parts);
  }
  Point point;
  for (const auto& [l, value] : sum) {
    point.legs.push_back(l);
    point.x.push_back(value);
  }
  return point;
}

double least_cut_by_trying(const Point& p, Index n) {
  double least = 1e9;
  for (unsigned set = 1; set < (1U << (n - 1)); ++set) {
    double out = 0.0;
    for (std::size_t k = 0; k < p.legs.size(); ++k)
      if ((set >> p.legs[k].a & 1U) != (set >> p.legs[k].b & 1U)) out += p.x[k];
    least = std::min(least, out);
  }
  return least;
}

// The least of what a handle and an odd set of legs out of it come to; below 1: broken.
double least_blossom_by_trying(const Point& p, Index n) {
  double least = 1e9;
  for (unsigned handle = 1; handle < (1U << (n - 1)); ++handle) {
    double sum = 0.0, turn = 1e9;
    int teeth = 0;
    for (std::size_t k = 0; k < p.legs.size(); ++k)
      if ((handle >> p.legs[k].a & 1U) != (handle >> p.legs[k].b & 1U)) {
        sum += std::min(p.x[k], 1.0 - p.x[k]);
        if (p.x[k] > 0.5) ++teeth;
        turn = std::min(turn, std::abs(1.0 - 2.0 * p.x[k]));
      }
    least = std::min(least, teeth % 2 == 1 ? sum : sum + turn);
  }
  return least;
}

}  // namespace

TEST_CASE("rows by sets of stops hold for every tour and break the point",
          "[structures][tours][cuts][oracle]") {
  Random random(1401);
  std::array<int, 3> kinds{};
  std::map<Index, std::vector<std::vector<Index>>> tours;
  for (int round = 0; round < 400; ++round) {
    const auto n = static_cast<Index>(random.between(6, 9));
    if (tours[n].empty()) tours[n] = all_tours(n);
    const Point p = draw_point(random, n);
    TourSeparation separation(n);
    LegCounts counts(n);
    for (int again = 0; again < 2; ++again)  // the second time with what it remembers
      for (const StopRow& row : separation.look(p.legs, p.x, 0.01, 50)) {
        ++kinds[static_cast<std::size_t>(kind_of(row))];
        CHECK(counts.value(row, p.legs, p.x) < row.at_least - 0.01);
        for (std::size_t t = 0; t < tours[n].size(); t += 1 + tours[n].size() / 3000) {
          Index value = 0;
          const std::vector<Index>& tour = tours[n][t];
          for (const std::vector<Index>& set : row.sets)
            for (std::size_t k = 0; k < tour.size(); ++k) {
              const Index a = tour[k], b = tour[k + 1 == tour.size() ? 0 : k + 1];
              if (std::binary_search(set.begin(), set.end(), a) !=
                  std::binary_search(set.begin(), set.end(), b))
                ++value;
            }
          if (value < row.at_least) FAIL("a tour breaks the row: " << value);
        }
      }
  }
  CHECK(kinds[0] > 100);
  CHECK(kinds[1] > 20);
}

TEST_CASE("weak sets and blossoms are found wherever there are any",
          "[structures][tours][cuts][oracle]") {
  Random random(1402);
  int weak = 0, blossoms = 0;
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    const auto n = static_cast<Index>(random.between(5, 10));
    const Point p = draw_point(random, n);
    const Support support(n, p.legs, p.x);
    LegCounts counts(n);
    const double least = least_cut_by_trying(p, n);
    std::vector<StopRow> found;
    cut_weak_sets(support, 0.01, found);
    double best = 1e9;
    for (const StopRow& row : found) best = std::min(best, counts.value(row, p.legs, p.x));
    if (least < 1.98) {
      ++weak;
      REQUIRE_FALSE(found.empty());
      CHECK(best < 1.99);
    } else {
      CHECK(found.empty());
    }
    found.clear();
    cut_blossoms(support, 0.01, found);
    for (StopRow& row : found) normalise(row, n);
    const bool broken = std::any_of(found.begin(), found.end(), [&](const StopRow& row) {
      return counts.value(row, p.legs, p.x) < row.at_least - 0.01;
    });
    // Where weak sets are gone a handle with one tooth is none, and blossoms are all there is.
    if (least > 2.0 - 1e-9) {
      const bool there = least_blossom_by_trying(p, n) < 0.98;
      if (there) ++blossoms;
      CHECK(broken == there);
    }
  }
  CHECK(weak > 200);
  CHECK(blossoms > 20);
}

namespace {

// The least leg on the way in the tree.
double least_between(const CutTree& tree, Index a, Index b) {
  std::vector<char> above(tree.parent.size(), 0);
  double way = kInf;
  for (Index v = a; v >= 0; v = tree.parent[at(v)]) above[at(v)] = 1;
  Index meet = b;
  while (above[at(meet)] == 0) {
    way = std::min(way, tree.least[at(meet)]);
    meet = tree.parent[at(meet)];
  }
  for (Index v = a; v != meet; v = tree.parent[at(v)]) way = std::min(way, tree.least[at(v)]);
  return way;
}

bool is_below(const CutTree& tree, Index node, Index top) {
  for (Index v = node; v >= 0; v = tree.parent[at(v)])
    if (v == top) return true;
  return false;
}

}  // namespace

TEST_CASE("a cut tree shows the least cut between any two", "[structures][tours][cuts][oracle]") {
  Random random(1403);
  int told_apart = 0;
  for (int round = 0; round < 200; ++round) {
    const auto n = static_cast<Index>(random.between(2, 9));
    FlowGraph graph(n);
    std::vector<std::pair<std::pair<Index, Index>, double>> legs;
    for (Index a = 0; a < n; ++a)
      for (Index b = a + 1; b < n; ++b)
        if (random.chance(0.5)) {
          legs.emplace_back(std::pair{a, b}, static_cast<double>(random.between(1, 20)));
          graph.add(a, b, legs.back().second);
        }
    const CutTree tree = graph.cut_tree();
    const auto enough = static_cast<double>(random.between(3, 40));
    const CutTree some = graph.cut_tree(enough);
    std::vector<char> side;
    for (Index a = 0; a < n; ++a)
      for (Index b = a + 1; b < n; ++b) {
        const double flow = graph.least_cut(a, b, side);
        const double way = least_between(tree, a, b);
        CHECK(way == Approx(flow).margin(1e-9));
        CHECK(least_between(some, a, b) == Approx(std::min(flow, enough)).margin(1e-9));
      }
    // What is told apart is told with its sides.
    for (Index v = 1; v < n; ++v) {
      if (some.least[at(v)] >= enough) continue;
      double cut = 0.0;
      for (const auto& [ends, carries] : legs)
        if (is_below(some, ends.first, v) != is_below(some, ends.second, v)) cut += carries;
      CHECK(cut == Approx(some.least[at(v)]).margin(1e-9));
      ++told_apart;
    }
  }
  CHECK(told_apart > 300);
}

TEST_CASE("prices bound every tour, and what they leave out is on no better one",
          "[structures][tours][cuts][oracle]") {
  Random random(1404);
  std::map<Index, std::vector<std::vector<Index>>> tours;
  int closed = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    const bool directed = random.chance(0.3);
    const auto n = static_cast<Index>(random.between(4, directed ? 6 : 8));
    if (tours[n].empty()) tours[n] = all_tours(n);
    const Distances own = draw_lengths(random, n, !directed);
    const Distances d = directed ? arrivals_and_departures(own) : own;
    const WholeLengths lengths(d);
    std::int64_t best = WholeLengths::kNever;
    std::vector<std::pair<std::int64_t, std::vector<Index>>> all;
    for (const std::vector<Index>& tour : tours[n]) {
      all.emplace_back(length(lengths, directed ? symmetric_tour(tour) : tour),
                       directed ? symmetric_tour(tour) : tour);
      best = std::min(best, all.back().first);
    }
    std::vector<Leg> start;
    const std::vector<Index>& some = all[all.size() / 2].second;
    for (std::size_t k = 0; k < some.size(); ++k)
      start.push_back(leg(some[k], some[k + 1 == some.size() ? 0 : k + 1]));
    TourRelaxation relaxation(lengths, start, directed ? ties(n) : std::vector<Leg>{});
    REQUIRE(relaxation.solve_degrees({}));
    CHECK(relaxation.bound() <= best);
    REQUIRE(relaxation.tighten(best + 3, {}));
    CHECK(relaxation.bound() <= best);
    if (relaxation.bound() == best) ++closed;
    for (const std::int64_t upper : {best + 1, best + 4}) {
      const TourRelaxation::Worth worth = relaxation.worth_keeping(upper);
      for (const auto& [length, tour] : all) {
        if (length >= upper) continue;
        std::set<Leg> legs;
        for (std::size_t k = 0; k < tour.size(); ++k)
          legs.insert(leg(tour[k], tour[k + 1 == tour.size() ? 0 : k + 1]));
        for (const Leg& l : legs)
          CHECK(std::binary_search(worth.legs.begin(), worth.legs.end(), l));
        for (std::size_t k = 0; k < worth.legs.size(); ++k)
          if (worth.sure[k] != 0) CHECK(legs.count(worth.legs[k]) == 1);
      }
    }
  }
  CHECK(closed > 150);
}

TEST_CASE("lengths are whole in the coarsest decimals that say them", "[structures][tours]") {
  const auto units = [](std::vector<double> m) {
    const Distances d(2, std::move(m));
    const WholeLengths lengths(d);
    return std::pair{lengths.units(), lengths.rounded()};
  };
  CHECK(units({0, 3, 3, 0}) == std::pair{1.0, false});
  CHECK(units({0, 0.1, 2.25, 0}) == std::pair{100.0, false});
  CHECK(units({0, 0.123456, 1, 0}) == std::pair{1e6, false});
  CHECK(units({0, 0.1234567, 1, 0}) == std::pair{1e6, true});
  Places huge{{0.0, 1e12}, {0.0, 1.0}, {}};
  const Distances far(Formula::plane, huge);
  CHECK_FALSE(WholeLengths(far).fits());
}
