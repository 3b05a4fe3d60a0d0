// Medium problems whose optimum another algorithm knows: dynamic programming, permutations, all
// subsets.
#include <algorithm>
#include <numeric>

#include <catch2/catch.hpp>

#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

// The best packing by dynamic programming over the capacity, any number of copies up to the stock.
std::int64_t best_packing(const std::vector<int>& weight, const std::vector<int>& worth,
                          const std::vector<int>& stock, int capacity) {
  std::vector<std::int64_t> best(static_cast<std::size_t>(capacity) + 1, 0);
  for (std::size_t i = 0; i < weight.size(); ++i)
    for (int copy = 0; copy < stock[i]; ++copy)
      for (int c = capacity; c >= weight[i]; --c)
        best[static_cast<std::size_t>(c)] =
            std::max(best[static_cast<std::size_t>(c)],
                     best[static_cast<std::size_t>(c - weight[i])] + worth[i]);
  return best.back();
}

}  // namespace

TEST_CASE("packing problems agree with dynamic programming", "[mip][oracle]") {
  Random random(201);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const int n = static_cast<int>(random.between(5, 30));
    const bool correlated = random.chance(0.4);
    std::vector<int> weight, worth, stock;
    mip::Problem p;
    mip::LinearRow row{{}, -kInf, 0.0, true};
    for (int i = 0; i < n; ++i) {
      weight.push_back(static_cast<int>(random.between(5, 60)));
      worth.push_back(correlated ? weight.back() + 7 : static_cast<int>(random.between(1, 60)));
      stock.push_back(static_cast<int>(random.between(1, 3)));
      p.add_column(0.0, stock.back(), true, -worth.back());
      row.entries.push_back({i, static_cast<double>(weight.back())});
    }
    const auto capacity = static_cast<int>(random.between(20, 400));
    row.upper = capacity;
    p.add_row(row);
    p.set_goal_facts(true, 1.0);
    const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
    REQUIRE(found.outcome == Outcome::optimal);
    CHECK(-found.goal ==
          Rational(static_cast<long long>(best_packing(weight, worth, stock, capacity))));
  }
}

TEST_CASE("assignment problems come out whole at the root, at the cheapest permutation",
          "[mip][oracle]") {
  Random random(202);
  for (int round = 0; round < 40; ++round) {
    CAPTURE(round);
    const int n = static_cast<int>(random.between(2, 7));
    std::vector<int> cost;
    mip::Problem p;
    for (int k = 0; k < n * n; ++k) {
      cost.push_back(static_cast<int>(random.between(-20, 50)));
      p.add_column(0.0, 1.0, true, cost.back());
    }
    p.set_goal_facts(true, 1.0);
    for (int side = 0; side < 2; ++side)
      for (int i = 0; i < n; ++i) {
        mip::LinearRow row{{}, 1.0, 1.0, true};
        for (int j = 0; j < n; ++j) row.entries.push_back({side == 0 ? i * n + j : j * n + i, 1.0});
        p.add_row(row);
      }
    std::vector<int> order(static_cast<std::size_t>(n));
    std::iota(order.begin(), order.end(), 0);
    int best = 1 << 20;
    do {
      int sum = 0;
      for (int i = 0; i < n; ++i)
        sum += cost[static_cast<std::size_t>(i * n + order[static_cast<std::size_t>(i)])];
      best = std::min(best, sum);
    } while (std::next_permutation(order.begin(), order.end()));
    const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
    REQUIRE(found.outcome == Outcome::optimal);
    CHECK(found.goal == Rational(best));
    CHECK(found.root.relaxed.integral);
    CHECK(found.counts.nodes <= 1);
  }
}

TEST_CASE("cover and partition problems agree with trying all subsets", "[mip][oracle]") {
  Random random(203);
  int impossible = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const int sets = static_cast<int>(random.between(3, 12)),
              things = static_cast<int>(random.between(2, 8));
    const bool exactly = random.chance(0.4);
    std::vector<unsigned> members;
    std::vector<int> cost;
    mip::Problem p;
    for (int s = 0; s < sets; ++s) {
      members.push_back(static_cast<unsigned>(random.between(1, (1 << things) - 1)));
      cost.push_back(static_cast<int>(random.between(1, 30)));
      p.add_column(0.0, 1.0, true, cost.back());
    }
    p.set_goal_facts(true, 1.0);
    for (int t = 0; t < things; ++t) {
      mip::LinearRow row{{}, 1.0, exactly ? 1.0 : kInf, true};
      for (int s = 0; s < sets; ++s)
        if (members[static_cast<std::size_t>(s)] >> t & 1U) row.entries.push_back({s, 1.0});
      p.add_row(row);
    }
    int best = -1;
    for (unsigned mask = 0; mask < 1U << sets; ++mask) {
      std::vector<int> count(static_cast<std::size_t>(things), 0);
      int sum = 0;
      for (int s = 0; s < sets; ++s) {
        if (!(mask >> s & 1U)) continue;
        sum += cost[static_cast<std::size_t>(s)];
        for (int t = 0; t < things; ++t)
          count[static_cast<std::size_t>(t)] +=
              static_cast<int>(members[static_cast<std::size_t>(s)] >> t & 1U);
      }
      const bool fits =
          std::all_of(count.begin(), count.end(), [&](int c) { return exactly ? c == 1 : c >= 1; });
      if (fits && (best < 0 || sum < best)) best = sum;
    }
    const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
    if (best < 0) {
      ++impossible;
      REQUIRE(found.outcome == Outcome::infeasible);
    } else {
      REQUIRE(found.outcome == Outcome::optimal);
      CHECK(found.goal == Rational(best));
    }
  }
  CHECK(impossible > 5);
}

TEST_CASE("a judge that refuses a point is obeyed, and the search goes on to the next best",
          "[mip]") {
  // Every plan with x0 = 1 is refused for a reason that no row knows.
  mip::Problem p;
  for (const double c : {-5.0, -3.0, -2.0}) p.add_column(0.0, 1.0, true, c);
  p.add_row({{{0, 1.0}, {1, 1.0}, {2, 1.0}}, -kInf, 2.0, true});
  p.set_goal_facts(true, 1.0);
  const mip::Judge judge = [&](std::span<const Rational> x) {
    return mip::Verdict{satisfies(p, x) && x[0].is_zero(), goal_of(p, x)};
  };
  const mip::SearchResult found = mip::Search(p, judge, {}).run();
  REQUIRE(found.outcome == Outcome::optimal);
  CHECK(found.goal == Rational(-5));
  CHECK((*found.plan)[0].is_zero());
  const mip::SearchResult none =
      mip::Search(p, [](std::span<const Rational>) { return mip::Verdict{}; }, {}).run();
  CHECK(none.outcome == Outcome::infeasible);
}

TEST_CASE("coefficients of very different size do not lead to a wrong optimum", "[mip][oracle]") {
  Random random(204);
  for (int round = 0; round < 200; ++round) {
    CAPTURE(round);
    mip::Problem p;
    const int n = static_cast<int>(random.between(2, 6));
    for (int j = 0; j < n; ++j)
      p.add_column(0.0, static_cast<double>(random.between(1, 3)), true,
                   static_cast<double>(random.between(-9, 9)));
    p.set_goal_facts(true, 1.0);
    for (int i = 0; i < 2; ++i) {
      mip::LinearRow row{{}, -kInf, 0.0, true};
      for (int j = 0; j < n; ++j)
        row.entries.push_back({j, std::pow(10.0, static_cast<double>(random.between(0, 6))) *
                                      static_cast<double>(random.between(-3, 5))});
      row.upper = std::pow(10.0, static_cast<double>(random.between(0, 6))) +
                  static_cast<double>(random.between(-1, 1));
      p.add_row(row);
    }
    const std::optional<Rational> best = best_by_trying(p);
    const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
    REQUIRE(found.outcome == (best ? Outcome::optimal : Outcome::infeasible));
    if (best) CHECK(found.goal == *best);
  }
}
