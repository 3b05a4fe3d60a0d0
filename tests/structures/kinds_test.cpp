// Covers, boxes, places and rooms on plain arrays, against brute force.
#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>

#include <catch2/catch.hpp>

#include "base/at.hpp"
#include "base/random.hpp"
#include "structures/boxes.hpp"
#include "structures/covers.hpp"
#include "structures/locations.hpp"
#include "structures/room_assignment.hpp"

using namespace kiteknot;
using namespace kiteknot::structures;

namespace {

CoverProblem small_cover(Random& random) {
  CoverProblem p;
  p.num_needs = static_cast<Index>(random.between(1, 8));
  for (std::int64_t s = random.between(1, 9); s > 0; --s) {
    p.cost.push_back(static_cast<double>(random.between(0, 9)));
    p.needs.emplace_back();
    for (Index i = 0; i < p.num_needs; ++i)
      if (random.chance(0.4)) p.needs.back().push_back(i);
  }
  return p;
}

// The least cost, infinite where there is no cover.
double best_cover(const CoverProblem& p) {
  double best = HUGE_VAL;
  for (unsigned set = 0; set < 1U << p.cost.size(); ++set) {
    std::vector<char> met(at(p.num_needs), 0);
    double cost = 0.0;
    for (std::size_t s = 0; s < p.cost.size(); ++s)
      if ((set >> s & 1U) != 0) {
        cost += p.cost[s];
        for (const Index i : p.needs[s]) met[at(i)] = 1;
      }
    if (std::ranges::all_of(met, [](char m) { return m != 0; })) best = std::min(best, cost);
  }
  return best;
}

void covers(const CoverProblem& p, const CoverPlan& plan) {
  std::vector<char> met(at(p.num_needs), 0);
  double cost = 0.0;
  for (const Index s : plan.sets) {
    cost += p.cost[at(s)];
    for (const Index i : p.needs[at(s)]) met[at(i)] = 1;
  }
  CHECK(std::ranges::all_of(met, [](char m) { return m != 0; }));
  CHECK(cost == Approx(plan.cost));
}

// So few boxes that all fit, by trying all ways.
Index fewest(const std::vector<std::int64_t>& sizes, std::int64_t room) {
  Index best = static_cast<Index>(sizes.size());
  std::vector<std::int64_t> left;
  const std::function<void(std::size_t)> put = [&](std::size_t k) {
    if (static_cast<Index>(left.size()) >= best && k < sizes.size()) return;
    if (k == sizes.size()) {
      best = std::min(best, static_cast<Index>(left.size()));
      return;
    }
    for (std::size_t b = 0; b < left.size(); ++b)
      if (left[b] >= sizes[k]) {
        left[b] -= sizes[k];
        put(k + 1);
        left[b] += sizes[k];
      }
    left.push_back(room - sizes[k]);
    put(k + 1);
    left.pop_back();
  };
  put(0);
  return best;
}

}  // namespace

TEST_CASE("covers cover, prices are a bound, and small ones come out best", "[structures]") {
  Random random(7);
  int same = 0, all = 0;
  for (int k = 0; k < 500; ++k) {
    const CoverProblem p = small_cover(random);
    const double best = best_cover(p);
    const CoverPlan greedy = greedy_cover(p);
    if (std::isinf(best)) {
      CHECK(greedy.sets.empty());
      continue;
    }
    covers(p, greedy);
    CHECK(greedy.cost >= best - 1e-9);
    CoverPlan found;
    double last = HUGE_VAL;
    int looks = 0;
    const CoverPrices prices = priced_covers(p, random, 3,
                                             {[&](const CoverPlan& plan) {
                                                covers(p, plan);
                                                CHECK(plan.cost < last);
                                                last = plan.cost;
                                                found = plan;
                                              },
                                              [&] { return ++looks > 5'000; }});
    CHECK(last <= greedy.cost);
    CHECK(last >= best - 1e-9);
    // The value at any prices from 0 up is a bound.
    double bound = std::accumulate(prices.price.begin(), prices.price.end(), 0.0);
    for (std::size_t s = 0; s < p.cost.size(); ++s) {
      double reduced = p.cost[s];
      for (const Index i : p.needs[s]) reduced -= prices.price[at(i)];
      bound += std::min(0.0, reduced);
    }
    CHECK(std::ranges::all_of(prices.price, [](double u) { return u >= 0.0; }));
    CHECK(bound <= best + 1e-9);
    ++all;
    same += last <= best + 1e-9 ? 1 : 0;
  }
  CHECK(10 * same > 9 * all);
}

TEST_CASE("boxes hold what is put in, and no bound is above the fewest", "[structures]") {
  Random random(9);
  for (int k = 0; k < 400; ++k) {
    const std::int64_t room = random.between(5, 20);
    std::vector<std::int64_t> sizes;
    for (std::int64_t n = random.between(0, 8); n > 0; --n)
      sizes.push_back(random.between(1, room));
    const Index least = fewest(sizes, room), bound = boxes_needed(sizes, room);
    CHECK(bound <= least);
    CHECK(bound * room >= std::accumulate(sizes.begin(), sizes.end(), std::int64_t{0}));
    for (const Boxes& b : {first_fit(sizes, room), best_fit(sizes, room)}) {
      std::vector<std::int64_t> load(at(b.used), 0);
      for (std::size_t i = 0; i < sizes.size(); ++i) load[at(b.box_of[i])] += sizes[i];
      CHECK(std::ranges::all_of(load, [&](std::int64_t l) { return l > 0 && l <= room; }));
      CHECK(b.used >= least);
      CHECK(9 * b.used <= 11 * least + 6);  // what largest first promises (Dosa 2007)
    }
  }
  // Three just above half, three just below: the bound sees that pairs do not fit.
  CHECK(boxes_needed({6, 6, 6, 5, 5, 5}, 10) == 5);
}

TEST_CASE("places: plans cost what they say, prices are a bound", "[structures]") {
  Random random(13);
  int best_found = 0;
  constexpr int kProblems = 300;
  for (int k = 0; k < kProblems; ++k) {
    LocationProblem p;
    for (std::int64_t f = random.between(1, 7); f > 0; --f)
      p.rent.push_back(static_cast<double>(random.between(0, 30)));
    for (std::int64_t c = random.between(1, 7); c > 0; --c) {
      p.serve.emplace_back();
      for (std::size_t f = 0; f < p.rent.size(); ++f)
        p.serve.back().push_back(random.chance(0.1) ? HUGE_VAL
                                                    : static_cast<double>(random.between(0, 20)));
    }
    double best = HUGE_VAL;
    for (unsigned set = 0; set < 1U << p.rent.size(); ++set) {
      std::vector<char> open;
      for (std::size_t f = 0; f < p.rent.size(); ++f) open.push_back(set >> f & 1U ? 1 : 0);
      best = std::min(best, located(p, open).cost);
    }
    const auto honest = [&](const LocationPlan& plan) {
      CHECK(plan.cost == located(p, plan.open).cost);
      CHECK(plan.cost >= best);
    };
    const LocationPlan added = add_places(p), dropped = drop_places(p);
    honest(added);
    honest(dropped);
    if (std::isinf(best)) continue;
    CHECK(std::isfinite(added.cost));
    CHECK(std::isfinite(dropped.cost));
    const LocationPlan swapped = swap_places(p, added, 100);
    honest(swapped);
    CHECK(swapped.cost <= added.cost);
    const DualAscent d = dual_ascent(p);
    honest(d.plan);
    CHECK(std::isfinite(d.plan.cost));
    CHECK(d.bound <= best + 1e-7);
    // The prices prove it: no place is paid more than its rent.
    for (std::size_t f = 0; f < p.rent.size(); ++f) {
      double paid = 0.0;
      for (std::size_t c = 0; c < p.serve.size(); ++c)
        if (std::isfinite(p.serve[c][f])) paid += std::max(0.0, d.price[c] - p.serve[c][f]);
      CHECK(paid <= p.rent[f] + 1e-7);
    }
    best_found += swapped.cost == Approx(best) ? 1 : 0;
  }
  CHECK(10 * best_found > 9 * kProblems);
}

TEST_CASE("jobs with room: shifts and swaps keep their sums, and small ones come out best",
          "[structures]") {
  Random random(17);
  int best_found = 0, possible = 0;
  for (int k = 0; k < 200; ++k) {
    RoomProblem p;
    p.agents = static_cast<Index>(random.between(1, 3));
    p.jobs = static_cast<Index>(random.between(1, 6));
    for (std::int64_t n = std::int64_t{p.agents} * p.jobs; n > 0; --n) {
      p.cost.push_back(static_cast<double>(random.between(1, 20)));
      p.use.push_back(static_cast<double>(random.between(1, 9)));
    }
    for (Index a = 0; a < p.agents; ++a)
      p.room.push_back(static_cast<double>(random.between(4, 18)));
    const auto load = [&](const std::vector<Index>& agent_of, double& cost, double& over) {
      std::vector<double> left = p.room;
      cost = over = 0.0;
      for (Index j = 0; j < p.jobs; ++j) {
        left[at(agent_of[at(j)])] -= p.use[p.place(agent_of[at(j)], j)];
        cost += p.cost[p.place(agent_of[at(j)], j)];
      }
      for (const double l : left) over += std::max(0.0, -l);
    };
    double best = HUGE_VAL;
    std::vector<Index> all(at(p.jobs), 0);
    for (bool more = true; more;) {
      double cost = 0.0, over = 0.0;
      load(all, cost, over);
      if (over == 0.0) best = std::min(best, cost);
      more = false;
      for (Index& a : all) {
        if (++a < p.agents) {
          more = true;
          break;
        }
        a = 0;
      }
    }
    int looks = 0;
    double found = HUGE_VAL;
    exchange(p, by_regret(p), random,
             {[&](const RoomPlan& plan) {
                double cost = 0.0, over = 0.0;
                load(plan.agent_of, cost, over);
                CHECK(plan.cost == Approx(cost));
                CHECK(over == 0.0);
                CHECK(cost < found);
                found = cost;
              },
              [&](double) { return ++looks > 1'000; }});
    CHECK(found >= best);
    if (std::isinf(best)) continue;
    ++possible;
    best_found += found == best ? 1 : 0;
  }
  CHECK(100 * best_found > 98 * possible);
}

TEST_CASE("many jobs with room: what is too much is summed right, however long it goes on",
          "[structures]") {
  // Costs fall with use, so that cheap is what needs much: a sum gone wrong finds no plan any more.
  Random random(6);
  RoomProblem p;
  p.agents = 10;
  p.jobs = 100;
  std::vector<double> all(10, 0.0);
  for (std::int64_t n = 1000; n > 0; --n) {
    const auto use = static_cast<double>(random.between(1, 100));
    p.use.push_back(use);
    p.cost.push_back(111.0 - use + static_cast<double>(random.between(-10, 10)));
  }
  for (Index a = 0; a < p.agents; ++a) {
    for (Index j = 0; j < p.jobs; ++j) all[at(a)] += p.use[p.place(a, j)];
    p.room.push_back(std::floor(0.08 * all[at(a)]));
  }
  int passes = 0, last = 0;
  double best = HUGE_VAL;
  exchange(p, by_regret(p), random,
           {[&](const RoomPlan& plan) {
              best = plan.cost;
              last = passes;
            },
            [&](double) { return ++passes > 6'000; }});
  CHECK(last > 1'000);
  double least = 0.0;  // of each job
  for (Index j = 0; j < p.jobs; ++j) {
    double cheapest = HUGE_VAL;
    for (Index a = 0; a < p.agents; ++a) cheapest = std::min(cheapest, p.cost[p.place(a, j)]);
    least += cheapest;
  }
  CHECK(best >= least);
}
