// Tours over plain arrays: near stops against a look at all, permutations whatever comes, turnings
// against a plain reversal, improvements against all permutations.

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numeric>
#include <set>

#include <catch2/catch.hpp>

#include "base/infinity.hpp"
#include "base/random.hpp"
#include "structures/tours/array_tour.hpp"
#include "structures/tours/build.hpp"
#include "structures/tours/improve.hpp"
#include "structures/tours/insertion.hpp"
#include "structures/tours/one_tree.hpp"
#include "structures/tours/point_tree.hpp"
#include "structures/tours/spanning_tree.hpp"
#include "structures/tours/tree_tour.hpp"

using namespace kiteknot;
using namespace kiteknot::structures::tours;

namespace {

// Places of awkward kinds: many equal ones, all on a line, huge figures, a few.
Places draw_places(Random& random, int count, int kind) {
  Places p;
  for (int k = 0; k < count; ++k) {
    const auto whole = [&](std::int64_t most) {
      return static_cast<double>(random.between(0, most));
    };
    p.x.push_back(kind == 0 ? 1'000.0 * random.fraction() : kind == 1 ? whole(5) : whole(40));
    p.y.push_back(kind == 0   ? 1'000.0 * random.fraction()
                  : kind == 1 ? whole(5)
                  : kind == 2 ? 7.0
                              : 1e12 * random.fraction());
    p.z.push_back(kind == 1 ? whole(2) : 0.0);
  }
  return p;
}

double squared(const Places& p, Index a, Index b) {
  const double dx = p.x[at(a)] - p.x[at(b)], dy = p.y[at(a)] - p.y[at(b)],
               dz = p.z[at(a)] - p.z[at(b)];
  return dx * dx + dy * dy + dz * dz;
}

bool is_tour(const std::vector<Index>& tour, Index stops) {
  std::vector<Index> sorted = tour;
  std::sort(sorted.begin(), sorted.end());
  std::vector<Index> all(at(stops));
  std::iota(all.begin(), all.end(), 0);
  return sorted == all;
}

Distances draw_matrix(Random& random, Index n, bool symmetric) {
  std::vector<double> m(at(n) * at(n), 0.0);
  for (Index i = 0; i < n; ++i)
    for (Index j = 0; j < n; ++j) {
      if (i == j) continue;
      double& v = m[at(i) * at(n) + at(j)];
      v = symmetric && j < i   ? m[at(j) * at(n) + at(i)]
          : random.chance(0.1) ? kInf
                               : static_cast<double>(random.between(1, 99));
    }
  return {n, std::move(m)};
}

double best_by_trying(const Distances& d) {
  std::vector<Index> order(at(d.size()));
  std::iota(order.begin(), order.end(), 0);
  double best = kInf;
  do best = std::min(best, length(d, order));
  while (std::next_permutation(order.begin() + 1, order.end()));
  return best;
}

}  // namespace

TEST_CASE("near points are those that a look at all finds", "[structures][tours][oracle]") {
  Random random(1);
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    const auto n = static_cast<Index>(random.between(1, 120));
    const Places p = draw_places(random, n, round % 4);
    PointTree tree(p);
    std::set<Index> there;
    for (Index i = 0; i < n; ++i) there.insert(i);
    for (int step = 0; step < 60; ++step) {
      const auto any = static_cast<Index>(random.between(0, n - 1));
      if (random.chance(0.6)) {
        tree.remove(any);
        there.erase(any);
      } else {
        tree.put_back(any);
        there.insert(any);
      }
      REQUIRE(tree.size() == static_cast<std::int64_t>(there.size()));
      const auto from = static_cast<Index>(random.between(0, n - 1));
      std::vector<std::pair<double, Index>> all;
      for (const Index i : there)
        if (i != from) all.emplace_back(squared(p, from, i), i);
      std::sort(all.begin(), all.end());
      REQUIRE(tree.nearest(from) == (all.empty() ? -1 : all.front().second));
      const std::vector<Index> near = tree.nearest(from, 5);
      REQUIRE(near.size() == std::min<std::size_t>(5, all.size()));
      for (std::size_t k = 0; k < near.size(); ++k) REQUIRE(near[k] == all[k].second);
      const Index even = tree.nearest_with(from, [](Index i) { return i % 2 == 0; });
      const auto it =
          std::find_if(all.begin(), all.end(), [](const auto& one) { return one.second % 2 == 0; });
      REQUIRE(even == (it == all.end() ? -1 : it->second));
    }
  }
}

TEST_CASE("whatever comes, tours visit every stop once", "[structures][tours]") {
  Random random(2);
  for (int round = 0; round < 100; ++round) {
    CAPTURE(round);
    const auto n = static_cast<Index>(round < 12 ? round : random.between(1, 80));
    const Distances d = round % 5 == 4
                            ? draw_matrix(random, n, round % 2 == 0)
                            : Distances(round % 2 == 0 ? Formula::plane : Formula::euc_2d,
                                        draw_places(random, n, round % 4));
    const Neighbours near(d, 6);
    std::vector<std::vector<Index>> tours = {by_nearest_stop(d), by_shortest_legs(d, near),
                                             by_savings(d, near), by_curve(d),
                                             by_tree_and_pairs(d)};
    for (const Insert which : {Insert::nearest, Insert::farthest, Insert::cheapest})
      tours.push_back(by_insertion(d, which));
    for (const std::vector<Index>& tour : tours) {
      REQUIRE(is_tour(tour, n));
      if (!d.symmetric()) continue;
      const double before = length(d, tour);
      const double rounding = 1e-9 * before;  // sums in another order
      for (const bool swap : {false, true}) {
        const Improved simple = improve(d, near, tour, {.swap = swap}, {});
        REQUIRE(is_tour(simple.tour, n));
        REQUIRE(length(d, simple.tour) <= before + rounding);
        // Segments change places from where nothing else pays.
        const Improved more = improve(d, near, simple.tour, {false, false, true}, {});
        REQUIRE(is_tour(more.tour, n));
        REQUIRE(length(d, more.tour) <= length(d, simple.tour) + rounding);
      }
      ChainOptions options;
      options.kicks = 10;
      const Improved chained = improve_by_chains(d, near, tour, options);
      REQUIRE(is_tour(chained.tour, n));
      REQUIRE(length(d, chained.tour) <= before + rounding);
    }
  }
}

TEST_CASE("a turning is a reversal, and can be taken back", "[structures][tours]") {
  Random random(3);
  for (int round = 0; round < 300; ++round) {
    const auto n = static_cast<Index>(random.between(4, 30));
    std::vector<Index> plain(at(n));
    std::iota(plain.begin(), plain.end(), 0);
    ArrayTour tour(plain);
    const auto legs_of = [&] {
      std::set<std::pair<Index, Index>> legs;
      for (Index i = 0; i < n; ++i) {
        REQUIRE(tour.previous(tour.next(i)) == i);
        legs.insert(std::minmax(i, tour.next(i)));
      }
      return legs;
    };
    std::vector<std::set<std::pair<Index, Index>>> states{legs_of()};
    for (int step = 0; step < 12; ++step) {
      if (random.chance(0.3)) tour.mirror();
      const auto from = static_cast<Index>(random.between(0, n - 1)),
                 to = static_cast<Index>(random.between(0, n - 1));
      const Index p = tour.previous(from), q = tour.next(to);
      const bool whole = tour.stops_between(from, to) >= n - 1;
      REQUIRE(tour.ahead(from, tour.stops_between(from, to) - 1) == to);
      auto wanted = legs_of();
      if (!whole) {
        wanted.erase(std::minmax(p, from));
        wanted.erase(std::minmax(to, q));
        wanted.insert(std::minmax(p, to));
        wanted.insert(std::minmax(from, q));
      }
      tour.turn(from, to);
      REQUIRE(legs_of() == wanted);
      if (!whole) {  // what stands outside stays as it is read
        REQUIRE(tour.next(p) == to);
        REQUIRE(tour.previous(q) == from);
      }
      states.push_back(wanted);
    }
    while (tour.turns() > 0) {
      if (random.chance(0.5)) tour.mirror();
      states.pop_back();
      tour.take_back_to(tour.turns() - 1);
      REQUIRE(legs_of() == states.back());
    }
  }
}

TEST_CASE("chains with kicks find the best tour of few stops", "[structures][tours][oracle]") {
  Random random(4);
  int best = 0, insertions = 0;
  constexpr int kRounds = 60;
  for (int round = 0; round < kRounds; ++round) {
    const Distances d(Formula::euc_2d, draw_places(random, 8, 0));
    const double least = best_by_trying(d);
    const Neighbours near(d, 7);
    ChainOptions options;
    options.kicks = 100;
    const Improved improved = improve_by_chains(d, near, by_nearest_stop(d), options);
    REQUIRE(improved.length == length(d, improved.tour));
    REQUIRE(improved.length >= least);
    best += improved.length == least ? 1 : 0;
    const double inserted = length(d, by_insertion(d, Insert::cheapest));
    REQUIRE(inserted >= least);
    REQUIRE(inserted <= 2.0 * least);  // Rosenkrantz, Stearns and Lewis: less than twice
    insertions += inserted == least ? 1 : 0;
  }
  CHECK(best == kRounds);
  CHECK(insertions > 5);
}

TEST_CASE("on more stops every step up the ladder pays", "[structures][tours]") {
  Random random(5);
  const Distances d(Formula::plane, draw_places(random, 2'000, 0));
  const Neighbours near(d, 8);
  const std::vector<Index> legs = by_shortest_legs(d, near);
  const double nearest = length(d, by_nearest_stop(d)), shortest = length(d, legs);
  const Improved exchanged = improve(d, near, legs, {.shift = false}, {});
  const Improved both = improve(d, near, legs, {}, {});
  ChainOptions options;
  options.kicks = 0;
  const Improved chains = improve_by_chains(d, near, legs, options);
  options.kicks = 400;
  std::vector<double> told;
  options.progress = [&](double, double now) { told.push_back(now); };
  const Improved kicked = improve_by_chains(d, near, legs, options);
  CHECK(shortest < nearest);
  CHECK(exchanged.length < shortest);
  CHECK(both.length < exchanged.length);
  CHECK(chains.length < both.length);
  CHECK(kicked.length < chains.length);
  CHECK(kicked.kicks == 400);
  REQUIRE(told.size() >= 2);
  CHECK(std::is_sorted(told.rbegin(), told.rend()));
  // Random points in a square: 0.7124 sqrt(n area) and a little at the edges (Beardwood, Halton and
  // Hammersley 1959; the constant after Johnson and McGeoch 1997).
  CHECK(kicked.length / (0.7124 * std::sqrt(2'000.0) * 1'000.0) == Approx(1.05).margin(0.04));
  // The same seed, the same tour.
  CHECK(improve_by_chains(d, near, legs, options).tour == kicked.tour);
}

TEST_CASE("lengths by the usual formulas", "[structures][tours]") {
  const Places p{{0.0, 3.0, -1.5}, {0.0, 4.0, 2.5}, {0.0, 12.0, 1.0}};
  const auto all = [&](Formula f) {
    const Distances d(f, p);
    CHECK(d(0, 1) == d(1, 0));
    CHECK(d(2, 2) == 0.0);
    return std::vector<double>{d(0, 1), d(0, 2), d(1, 2)};
  };
  CHECK(all(Formula::plane) == std::vector<double>{5.0, 2.915476, 4.743416});
  CHECK(all(Formula::euc_2d) == std::vector<double>{5.0, 3.0, 5.0});
  CHECK(all(Formula::ceil_2d) == std::vector<double>{5.0, 3.0, 5.0});
  CHECK(all(Formula::euc_3d) == std::vector<double>{13.0, 3.0, 12.0});
  CHECK(all(Formula::man_2d) == std::vector<double>{7.0, 4.0, 6.0});
  CHECK(all(Formula::max_2d) == std::vector<double>{4.0, 3.0, 5.0});
  CHECK(all(Formula::att) == std::vector<double>{2.0, 1.0, 2.0});
  // A quarter of the globe along the equator, and a degree along a meridian.
  const Distances earth(Formula::earth, {{0.0, 0.0, 1.0}, {0.0, 90.0, 0.0}, {}});
  CHECK(earth(0, 1) == Approx(10'007.557221).margin(1e-5));
  CHECK(earth(0, 2) == Approx(111.195080).margin(1e-5));
  const Distances geo(Formula::geo, {{0.0, 0.0, 1.0}, {0.0, 90.0, 0.0}, {}});
  CHECK(geo(0, 1) == 10'020.0);
  CHECK(geo(0, 2) == 112.0);
  CHECK_FALSE(Distances(2, {0.0, 1.0, 2.0, 0.0}).symmetric());
}

TEST_CASE("the bound by one-trees is below every tour, and near the best",
          "[structures][tours][oracle]") {
  Random random(6);
  double share = 0.0;
  constexpr int kRounds = 60;
  for (int round = 0; round < kRounds; ++round) {
    CAPTURE(round);
    const auto n = static_cast<Index>(random.between(3, 8));
    const Distances d = round % 3 == 0 ? Distances(Formula::plane, draw_places(random, n, 0))
                        : round % 3 == 1
                            ? Distances(Formula::euc_2d, draw_places(random, n, round % 4))
                            : draw_matrix(random, n, true);
    const double least = best_by_trying(d);
    const OneTreeBound bound = one_tree_bound(d, {});
    REQUIRE(bound.value <= least);
    // Prices found by few near legs prove no more than there is, either.
    const Neighbours few(d, static_cast<std::size_t>(random.between(1, 3)));
    REQUIRE(one_tree_bound(d, {.rounds = 60, .near = &few}).value <= least);
    if (std::isinf(least)) {
      share += 1.0;
      continue;
    }
    share += least > 0.0 ? bound.value / least : 1.0;
  }
  CHECK(share > 0.97 * kRounds);
  // Random points: about 0.7 to 0.8 % below the best tour (Johnson, McGeoch and Rothberg 1996).
  const Distances d(Formula::plane, draw_places(random, 500, 0));
  ChainOptions options;
  options.kicks = 500;
  const Neighbours near(d, 8);
  const double tour = improve_by_chains(d, near, by_shortest_legs(d, near), options).length;
  const OneTreeBound bound = one_tree_bound(d, {.upper = tour});
  CHECK(bound.value < tour);
  CHECK(bound.value > 0.97 * tour);
  const OneTreeBound by_near = one_tree_bound(d, {.upper = tour, .near = &near});
  CHECK(by_near.value < tour);
  CHECK(by_near.value > 0.997 * bound.value);
}

TEST_CASE("the shortest tree under prices is the same by rows and in space, in every formula",
          "[structures][tours][oracle]") {
  Random random(61);
  constexpr Formula kFormulas[] = {Formula::plane,  Formula::earth,   Formula::euc_2d,
                                   Formula::euc_3d, Formula::ceil_2d, Formula::man_2d,
                                   Formula::max_2d, Formula::geo,     Formula::att};
  for (int round = 0; round < 900; ++round) {
    CAPTURE(round);
    const auto n = static_cast<Index>(random.between(3, 90));
    const Formula formula = kFormulas[round % 9];
    // Many of them in the same place or equally far apart; degrees stay within those of the earth.
    const double step = round % 4 == 0 ? 1.0 : 0.01, reach = round % 3 == 0 ? 5.0 : 80.0;
    Places places;
    for (Index i = 0; i < n; ++i)
      for (std::vector<double>* axis : {&places.x, &places.y, &places.z})
        axis->push_back(std::round(reach * random.fraction() / step) * step);
    if (formula != Formula::euc_3d) places.z.clear();
    const Distances d(formula, places);
    std::vector<double> price(at(n), 0.0);
    const double dear = round % 5 == 0 ? 0.0 : d(0, 1) * random.fraction();
    for (double& p : price) p = dear * (random.fraction() - 0.5);
    const auto without = static_cast<Index>(random.between(0, n - 1));
    const auto lengths = [&](const Legs& legs) {
      std::vector<double> all;
      for (const auto& [i, j] : legs) {
        REQUIRE(i != without);
        REQUIRE(j != without);
        all.push_back(priced(d, price, i, j));
      }
      std::sort(all.begin(), all.end());
      return all;
    };
    // All shortest trees have legs of the same lengths.
    TreeInSpace in_space(d, without);
    REQUIRE(lengths(in_space.shortest(price)) == lengths(tree_by_rows(d, price, without)));
    for (double& p : price) p = -p;
    REQUIRE(lengths(in_space.shortest(price)) == lengths(tree_by_rows(d, price, without)));
  }
}

TEST_CASE("near stops of many are the same on several threads", "[structures][tours]") {
  Random random(8);
  const Distances d(Formula::plane, draw_places(random, 21'000, 0));
  constexpr std::size_t kNear = 6;
  const Neighbours near(d, kNear);
  const PointTree tree(d.in_space());
  for (Index i = 0; i < d.size(); i += 37) {
    REQUIRE(near.of(i).size() == kNear);
    const std::vector<Index> nearest = tree.nearest(i, kNear);
    for (std::size_t k = 0; k < kNear; ++k) {
      REQUIRE(near.lengths(i)[k] == d(i, near.of(i)[k]));
      REQUIRE(d(i, near.of(i)[k]) == d(i, nearest[k]));
    }
  }
}

TEST_CASE("insertion among near stops is nearly as good as among all, and can be stopped",
          "[structures][tours]") {
  Random random(91);
  Places p;
  for (int k = 0; k < 2 * kAllLegsLookedAt; ++k) {
    p.x.push_back(static_cast<double>(random.between(0, 1'000'000)) / 1000.0);
    p.y.push_back(static_cast<double>(random.between(0, 1'000'000)) / 1000.0);
  }
  const Distances many(Formula::plane, p);
  Places few = p;
  few.x.resize(at(kAllLegsLookedAt));
  few.y.resize(at(kAllLegsLookedAt));
  const Distances all(Formula::plane, few);
  // Lengths grow with the root of the number: both ways of looking come to the same factor of it.
  const auto factor = [](const Distances& d, Insert which) {
    return length(d, by_insertion(d, which)) / (1000.0 * std::sqrt(static_cast<double>(d.size())));
  };
  for (const Insert which : {Insert::nearest, Insert::farthest, Insert::cheapest}) {
    const double exact = factor(all, which), near = factor(many, which);
    CHECK(near < 1.04 * exact);
    CHECK(near > 0.92 * exact);
  }
  const std::atomic<bool> stopped = true;
  const Interrupt now{nullptr, 0.0, &stopped};
  for (const Distances* d : {&all, &many})
    for (const Insert which : {Insert::nearest, Insert::farthest, Insert::cheapest}) {
      const std::vector<Index> tour = by_insertion(*d, which, now);
      CHECK(std::set<Index>(tour.begin(), tour.end()).size() == at(d->size()));
      CHECK(tour.size() == at(d->size()));
    }
  const Neighbours near(many, 8);
  for (const auto& tour : {by_savings(many, near, now), by_shortest_legs(many, near, now),
                           by_tree_and_pairs(many, now), by_tree_and_pairs(all, now)}) {
    CHECK(std::set<Index>(tour.begin(), tour.end()).size() == tour.size());
    CHECK((tour.size() == at(many.size()) || tour.size() == at(all.size())));
  }
  // A bound that was interrupted before its first tree proves nothing.
  CHECK(one_tree_bound(many, {.near = &near, .interrupt = now}).value <= 0.0);
}
