// Knapsacks with choices and several knapsacks against all ways of filling them.
#include <atomic>
#include <functional>

#include <catch2/catch.hpp>

#include "base/at.hpp"
#include "base/random.hpp"
#include "structures/choice_knapsack.hpp"
#include "structures/sacks.hpp"

using namespace kiteknot;
using namespace kiteknot::structures;

namespace {

ChoiceProblem small_choice(Random& random) {
  ChoiceProblem p;
  const std::int64_t most = random.between(1, 30);
  for (std::int64_t c = random.between(1, 6); c > 0; --c) {
    auto& items = p.classes.emplace_back();
    for (std::int64_t k = random.between(1, 5); k > 0; --k)
      items.push_back({random.between(-10, 40), random.between(0, most)});
  }
  p.capacity = random.between(0, 3 * most);
  return p;
}

// The most profit of all choices that fit.
std::optional<std::int64_t> most_profit(const ChoiceProblem& p) {
  std::optional<std::int64_t> best;
  const std::function<void(std::size_t, std::int64_t, std::int64_t)> choose =
      [&](std::size_t c, std::int64_t weight, std::int64_t profit) {
        if (c == p.classes.size()) {
          if (weight <= p.capacity && (!best || profit > *best)) best = profit;
          return;
        }
        for (const ChoiceItem& k : p.classes[c])
          choose(c + 1, weight + k.weight, profit + k.profit);
      };
  choose(0, 0, 0);
  return best;
}

void adds_up(const ChoiceProblem& p, const ChoicePlan& plan) {
  std::int64_t profit = 0, weight = 0;
  for (std::size_t c = 0; c < p.classes.size(); ++c) {
    profit += p.classes[c][at(plan.item[c])].profit;
    weight += p.classes[c][at(plan.item[c])].weight;
  }
  CHECK(profit == plan.profit);
  CHECK(weight == plan.weight);
  CHECK(weight <= p.capacity);
}

SackProblem small_sacks(Random& random) {
  SackProblem p;
  for (std::int64_t n = random.between(1, 7); n > 0; --n) {
    p.profit.push_back(random.between(1, 30));
    p.weight.push_back(random.between(1, 12));
  }
  for (std::int64_t n = random.between(1, 3); n > 0; --n) p.room.push_back(random.between(0, 20));
  return p;
}

std::int64_t most_packed(const SackProblem& p) {
  std::int64_t best = 0;
  std::vector<std::int64_t> left = p.room;
  const std::function<void(std::size_t, std::int64_t)> put = [&](std::size_t i,
                                                                 std::int64_t profit) {
    best = std::max(best, profit);
    if (i == p.profit.size()) return;
    put(i + 1, profit);
    for (std::int64_t& l : left)
      if (l >= p.weight[i]) {
        l -= p.weight[i];
        put(i + 1, profit + p.profit[i]);
        l += p.weight[i];
      }
  };
  put(0, 0);
  return best;
}

void packs(const SackProblem& p, const SackPlan& plan) {
  std::vector<std::int64_t> load(p.room.size(), 0);
  std::int64_t profit = 0;
  for (std::size_t i = 0; i < p.profit.size(); ++i)
    if (plan.sack_of[i] >= 0) {
      load[at(plan.sack_of[i])] += p.weight[i];
      profit += p.profit[i];
    }
  CHECK(profit == plan.profit);
  for (std::size_t s = 0; s < load.size(); ++s) CHECK(load[s] <= p.room[s]);
}

}  // namespace

TEST_CASE("choices within a limit come out best, or are told to be too heavy", "[structures]") {
  Random random(31);
  for (int k = 0; k < 3'000; ++k) {
    const ChoiceProblem p = small_choice(random);
    const std::optional<std::int64_t> best = most_profit(p);
    WorkCounter work;
    const ChoiceProgram found = choose_best(p, work);
    const std::optional<ChoicePlan> quick = choose_by_slopes(p);
    CHECK(found.best);
    REQUIRE(found.plan.has_value() == best.has_value());
    REQUIRE(quick.has_value() == best.has_value());
    if (!best) continue;
    adds_up(p, *found.plan);
    adds_up(p, *quick);
    CHECK(found.plan->profit == *best);
    CHECK(quick->profit <= *best);
  }
}

TEST_CASE("a program over sums ends where its work does, with a plan", "[structures]") {
  Random random(5);
  ChoiceProblem p;
  for (int c = 0; c < 200; ++c) {  // profits follow weights: many sums are alike
    auto& items = p.classes.emplace_back();
    for (int k = 0; k < 20; ++k) {
      const std::int64_t weight = random.between(1, 100'000);
      items.push_back({weight + 1000, weight});
    }
    p.capacity += 40'000;
  }
  WorkCounter work;
  const ChoiceProgram full = choose_best(p, work);
  REQUIRE(full.plan);
  adds_up(p, *full.plan);
  const std::atomic<bool> now = true;
  Interrupt stop;
  stop.stopped = &now;
  WorkCounter short_work;
  short_work.obey(stop);
  const ChoiceProgram cut = choose_best(p, short_work);
  REQUIRE(cut.plan);
  CHECK_FALSE(cut.best);
  adds_up(p, *cut.plan);
  CHECK(cut.plan->profit <= full.plan->profit);
}

TEST_CASE("sacks hold what is put in, and one sack in place of all holds more", "[structures]") {
  Random random(77);
  int same = 0;
  constexpr int kCases = 400;
  for (int k = 0; k < kCases; ++k) {
    const SackProblem p = small_sacks(random);
    const std::int64_t best = most_packed(p);
    WorkCounter work;
    const SackBound joined = joined_sacks(p, work);
    CHECK(joined.profit >= best);
    const SackPlan worth = fill_by_worth(p), split = split_joined(p, joined, work);
    packs(p, worth);
    packs(p, split);
    std::int64_t most = std::max(worth.profit, split.profit);
    CHECK(most <= best);
    int rounds = 0;
    refill(p, worth, random,
           {[&](const SackPlan& plan) {
              packs(p, plan);
              CHECK(plan.profit > worth.profit);
              most = std::max(most, plan.profit);
            },
            [&](double) { return ++rounds > 200; }});
    CHECK(most <= best);
    same += most == best ? 1 : 0;
  }
  CHECK(100 * same > 97 * kCases);
}
