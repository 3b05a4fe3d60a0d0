// One machine and shops of several against trying all orders.

#include <algorithm>
#include <numeric>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "structures/sequences/one_machine.hpp"
#include "structures/sequences/shop.hpp"

using namespace kiteknot;
using namespace kiteknot::structures;

namespace {

constexpr double kInf = std::numeric_limits<double>::infinity();

std::vector<std::size_t> numbers(std::size_t n) {
  std::vector<std::size_t> all(n);
  std::iota(all.begin(), all.end(), std::size_t{0});
  return all;
}

/// The earliest begin of every task over all orders that meet all limits; infinite: there is none.
std::vector<double> earliest(const std::vector<MachineTask>& tasks) {
  std::vector<double> begin(tasks.size(), kInf);
  std::vector<std::size_t> order = numbers(tasks.size());
  do {
    double now = -kInf;
    std::vector<double> own(tasks.size());
    bool fits = true;
    for (const std::size_t i : order) {
      own[i] = std::max(now, tasks[i].release);
      now = own[i] + tasks[i].takes;
      fits = fits && now <= tasks[i].due;
    }
    for (std::size_t i = 0; i < tasks.size() && fits; ++i) begin[i] = std::min(begin[i], own[i]);
  } while (std::next_permutation(order.begin(), order.end()));
  return begin;
}

std::vector<MachineTask> draw_tasks(Random& random, bool whole) {
  std::vector<MachineTask> tasks;
  const auto n = random.between(1, 6);
  const auto figure = [&](int low, int high) {
    return static_cast<double>(random.between(low, high)) / (whole ? 1.0 : 8.0);
  };
  for (int i = 0; i < n; ++i) {
    MachineTask t{figure(0, 12), figure(0, 6), 0.0};
    t.due = t.release + t.takes + figure(0, 14);
    tasks.push_back(t);
  }
  return tasks;
}

Shop draw_shop(Random& random, int jobs, int machines, bool setups) {
  Shop shop;
  shop.machines.resize(static_cast<std::size_t>(machines));
  shop.last = jobs * machines;
  shop.release.assign(at(shop.last) + 1, 0.0);
  std::vector<double> takes;
  for (Index j = 0; j < jobs; ++j) {
    std::vector<std::size_t> way = numbers(static_cast<std::size_t>(machines));
    for (std::size_t k = way.size(); k > 1; --k)
      std::swap(way[k - 1],
                way[static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(k) - 1))]);
    for (Index k = 0; k < machines; ++k) {
      const Index t = j * machines + k;
      takes.push_back(static_cast<double>(random.between(1, 9)));
      shop.machines[way[at(k)]].tasks.push_back(t);
      if (k > 0) shop.arcs.push_back({t - 1, t, takes[at(t) - 1]});
    }
    shop.arcs.push_back({(j + 1) * machines - 1, shop.last, takes.back()});
  }
  for (Shop::Machine& m : shop.machines)
    for (const Index a : m.tasks)
      for (std::size_t b = 0; b < m.size(); ++b)
        m.gap.push_back(takes[at(a)] + (setups ? static_cast<double>(random.between(0, 2)) : 0.0));
  return shop;
}

double end_of(const Shop& shop, const Orders& orders) {
  ShopPaths paths(shop);
  return paths.follow(orders) ? paths.end() : kInf;
}

double best_by_trying(const Shop& shop, Orders& orders, std::size_t m = 0) {
  if (m == shop.machines.size()) return end_of(shop, orders);
  double best = kInf;
  orders[m] = numbers(shop.machines[m].size());
  do best = std::min(best, best_by_trying(shop, orders, m + 1));
  while (std::next_permutation(orders[m].begin(), orders[m].end()));
  return best;
}

bool all_there(const Shop& shop, const Orders& orders) {
  for (std::size_t m = 0; m < shop.machines.size(); ++m) {
    std::vector<std::size_t> order = orders[m];
    std::ranges::sort(order);
    if (order != numbers(shop.machines[m].size())) return false;
  }
  return true;
}

}  // namespace

TEST_CASE("tasks of one machine begin no later than some order lets them",
          "[structures][machine]") {
  Random random(6101);
  OneMachine one;
  std::vector<double> release;
  int raised = 0, impossible = 0, seen = 0, exact = 0;
  for (int round = 0; round < 6000; ++round) {
    CAPTURE(round);
    const std::vector<MachineTask> tasks = draw_tasks(random, round % 2 == 0);
    const std::vector<double> truth = earliest(tasks);
    const bool possible = truth[0] < kInf;
    impossible += !possible;
    if (!one.raise(tasks, release)) {
      CHECK_FALSE(possible);
      ++seen;
      continue;
    }
    if (!possible) continue;
    for (std::size_t i = 0; i < tasks.size(); ++i) {
      CHECK(release[i] <= truth[i] + 1e-12);
      CHECK(release[i] >= tasks[i].release);
      raised += release[i] > tasks[i].release;
      exact += release[i] > tasks[i].release && release[i] >= truth[i] - 1e-12;
    }
  }
  CHECK(seen > impossible / 2);
  CHECK(raised > 500);
  CHECK(exact > raised / 2);
}

TEST_CASE("what a conclusion of one machine is said to need is enough for it",
          "[structures][machine]") {
  Random random(6102);
  OneMachine one;
  std::vector<double> release;
  int explained = 0, left_out = 0;
  for (int round = 0; round < 4000; ++round) {
    CAPTURE(round);
    const bool whole = round % 2 == 0;
    const std::vector<MachineTask> tasks = draw_tasks(random, whole);
    std::vector<TaskNeed> needs;
    // Only what is needed stays.
    const auto with_needs = [&] {
      std::vector<MachineTask> only = tasks;
      for (MachineTask& t : only) t = {-100.0, t.takes, 200.0};
      for (const TaskNeed& need : needs) {
        MachineTask& t = only[need.task];
        if (need.end) {
          CHECK(tasks[need.task].due <= need.limit);
          t.due = std::min(t.due, need.limit);
        } else {
          CHECK(tasks[need.task].release >= need.limit);
          t.release = std::max(t.release, need.limit);
        }
      }
      left_out += needs.size() < 2 * tasks.size();
      return only;
    };
    if (!one.raise(tasks, release)) {
      REQUIRE(one.why_overloaded(tasks, whole, needs));
      CHECK(earliest(with_needs())[0] == kInf);
      ++explained;
      continue;
    }
    const std::vector<double> found = release;
    for (std::size_t i = 0; i < tasks.size(); ++i) {
      if (found[i] == tasks[i].release) continue;
      needs.clear();
      REQUIRE(one.why_raised(tasks, i, found[i], whole, needs));
      CHECK(earliest(with_needs())[i] >= found[i] - 1e-12);
      ++explained;
    }
  }
  CHECK(explained > 1000);
  CHECK(left_out > 500);
}

TEST_CASE("all of some tasks are done no sooner than in their best order",
          "[structures][machine]") {
  Random random(6103);
  OneMachine one;
  for (int round = 0; round < 500; ++round) {
    std::vector<MachineTask> tasks = draw_tasks(random, true);
    for (MachineTask& t : tasks) t.due = 1000.0;
    double best = kInf;
    std::vector<std::size_t> order = numbers(tasks.size());
    do {
      double now = -kInf;
      for (const std::size_t i : order) now = std::max(now, tasks[i].release) + tasks[i].takes;
      best = std::min(best, now);
    } while (std::next_permutation(order.begin(), order.end()));
    const std::vector<std::size_t> all = numbers(tasks.size());
    CHECK(one.done(tasks, all) == best);
    std::vector<TaskNeed> needs;
    REQUIRE(one.why_done(tasks, all, best, true, needs));
    CHECK_FALSE(one.why_done(tasks, all, best + 1.0, true, needs));
  }
}

TEST_CASE("one machine with heads and tails is ordered as well as can be",
          "[structures][machine]") {
  Random random(6104);
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    std::vector<double> head, takes, tail;
    const auto n = static_cast<std::size_t>(random.between(1, 7));
    for (std::size_t i = 0; i < n; ++i) {
      head.push_back(static_cast<double>(random.between(0, 15)));
      takes.push_back(static_cast<double>(random.between(1, 6)));
      tail.push_back(static_cast<double>(random.between(0, 15)));
    }
    const auto ends = [&](const std::vector<std::size_t>& order) {
      double now = 0.0, end = 0.0;
      for (const std::size_t i : order) {
        now = std::max(now, head[i]) + takes[i];
        end = std::max(end, now + tail[i]);
      }
      return end;
    };
    double best = kInf;
    std::vector<std::size_t> order = numbers(n);
    do best = std::min(best, ends(order));
    while (std::next_permutation(order.begin(), order.end()));
    const MachineOrder found = one_machine_order(head, takes, tail, 10'000);
    CHECK(found.end == best);
    CHECK(ends(found.order) == best);
    CHECK(found.bound <= best);
  }
}

TEST_CASE("orders of shops are never better than the best, and mostly it", "[structures][shop]") {
  Random random(6105);
  int best_found = 0, rounds = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    const Shop shop = draw_shop(random, 3, round % 2 == 0 ? 3 : 2, round % 3 == 0);
    Orders scratch(shop.machines.size());
    const double best = best_by_trying(shop, scratch);
    WorkCounter work;
    const Orders first = dispatched(shop);
    REQUIRE(all_there(shop, first));
    Orders shifted = shifting_bottleneck(shop, work);
    if (!shifted.empty()) {
      REQUIRE(all_there(shop, shifted));
      CHECK(end_of(shop, shifted) >= best);
    }
    CHECK(end_of(shop, first) >= best);
    CHECK(end_of(shop, first) < kInf);
    const Orders improved = improve_orders(shop, shifted.empty() ? first : shifted,
                                           {.target = 0.0, .until = 2'000'000, .seed = 1}, work);
    REQUIRE(all_there(shop, improved));
    CHECK(end_of(shop, improved) >= best);
    CHECK(end_of(shop, improved) <= end_of(shop, shifted.empty() ? first : shifted));
    best_found += end_of(shop, improved) == best;
    ++rounds;
    // The same seed gives the same orders.
    if (round % 10 == 0)
      CHECK(improved == improve_orders(shop, shifted.empty() ? first : shifted,
                                       {.target = 0.0, .until = 2'000'000, .seed = 1}, work));
  }
  CHECK(best_found * 10 >= rounds * 9);
}
