// Flows and assignments of least cost, against all permutations and the linear engine.

#include "structures/flow.hpp"

#include <algorithm>
#include <numeric>

#include <catch2/catch.hpp>

#include "base/infinity.hpp"
#include "base/random.hpp"
#include "lp/simplex.hpp"
#include "structures/matching.hpp"

using namespace kiteknot;
using namespace kiteknot::structures;

namespace {

constexpr std::int64_t kMuch = 1'000'000'000;

std::vector<Arc> draw_arcs(Random& random, Index nodes, int arcs) {
  std::vector<Arc> all;
  for (int k = 0; k < arcs; ++k) {
    Arc a;
    a.from = static_cast<Index>(random.between(0, nodes - 1));
    a.to = static_cast<Index>(random.between(0, nodes - 1));
    if (a.from == a.to) continue;
    a.lower = random.chance(0.1) ? -kInf : static_cast<double>(random.between(-3, 3));
    a.upper = random.chance(0.1) ? kInf
                                 : (std::isinf(a.lower) ? 0.0 : a.lower) +
                                       static_cast<double>(random.between(0, 6));
    a.cost = static_cast<double>(random.between(-5, 20));
    all.push_back(a);
  }
  return all;
}

}  // namespace

TEST_CASE("a cheapest flow is what the linear engine says it is", "[structures][flow][oracle]") {
  Random random(5);
  int found = 0, none = 0;
  for (int round = 0; round < 3'000; ++round) {
    CAPTURE(round);
    const auto nodes = static_cast<Index>(random.between(2, 9));
    const std::vector<Arc> arcs = draw_arcs(random, nodes, static_cast<int>(random.between(1, 30)));
    lp::Simplex simplex;
    for (Index v = 0; v < nodes; ++v) simplex.add_row(0.0, 0.0, {});
    for (const Arc& a : arcs)
      simplex.add_column(a.cost, a.lower, a.upper, {{a.from, 1.0}, {a.to, -1.0}});
    const lp::Report report = simplex.solve({});
    WorkCounter work;
    const auto tree = cheapest_flow(nodes, arcs, kMuch, work);
    REQUIRE(tree.has_value() == (report.status == lp::Status::optimal));
    if (!tree) {
      ++none;
      continue;
    }
    ++found;
    double cost = 0.0;
    std::vector<double> balance(at(nodes), 0.0);
    Index in_tree = 0;
    for (std::size_t k = 0; k < arcs.size(); ++k) {
      REQUIRE(tree->flow[k] >= arcs[k].lower);
      REQUIRE(tree->flow[k] <= arcs[k].upper);
      cost += arcs[k].cost * tree->flow[k];
      balance[at(arcs[k].from)] += tree->flow[k];
      balance[at(arcs[k].to)] -= tree->flow[k];
      in_tree += tree->place[k] == FlowTree::Place::tree ? 1 : 0;
    }
    REQUIRE(std::all_of(balance.begin(), balance.end(), [](double b) { return b == 0.0; }));
    REQUIRE(cost == Approx(report.objective).margin(1e-9));
    const auto outside = std::count(tree->outside.begin(), tree->outside.end(), char{1});
    REQUIRE(in_tree + static_cast<Index>(outside) == nodes - 1);
  }
  CHECK(found > 700);
  CHECK(none > 300);
}

TEST_CASE("a larger flow, with many ties, comes to an end and is the cheapest",
          "[structures][flow][oracle]") {
  Random random(6);
  constexpr Index kSide = 40;  // transport between as many, all costs from 1 to 3
  std::vector<Arc> arcs;
  lp::Simplex simplex;
  for (Index v = 0; v <= 2 * kSide; ++v) simplex.add_row(0.0, 0.0, {});
  const auto add = [&](const Arc& a) {
    arcs.push_back(a);
    simplex.add_column(a.cost, a.lower, a.upper, {{a.from, 1.0}, {a.to, -1.0}});
  };
  for (Index i = 0; i < kSide; ++i)
    for (Index j = 0; j < kSide; ++j)
      add({i, kSide + j, 0.0, kInf, static_cast<double>(random.between(1, 3))});
  for (Index i = 0; i < kSide; ++i) {
    add({2 * kSide, i, 5.0, 5.0, 0.0});
    add({kSide + i, 2 * kSide, 5.0, 5.0, 0.0});
  }
  WorkCounter work;
  const auto tree = cheapest_flow(2 * kSide + 1, arcs, kMuch, work);
  REQUIRE(tree);
  double cost = 0.0;
  for (std::size_t k = 0; k < arcs.size(); ++k) cost += arcs[k].cost * tree->flow[k];
  CHECK(cost == Approx(simplex.solve({}).objective));
}

TEST_CASE("a cheapest assignment against all permutations", "[structures][matching][oracle]") {
  Random random(7);
  int found = 0, none = 0;
  for (int round = 0; round < 2'000; ++round) {
    CAPTURE(round);
    const auto size = static_cast<Index>(random.between(1, 6));
    std::vector<Pair> pairs;
    std::vector<std::vector<double>> cost(at(size), std::vector<double>(at(size), kInf));
    for (Index i = 0; i < size; ++i)
      for (Index j = 0; j < size; ++j)
        for (int copy = 0; copy < 2; ++copy) {
          if (!random.chance(copy == 0 ? 0.7 : 0.1)) continue;
          pairs.push_back({i, j, static_cast<double>(random.between(-9, 9))});
          cost[at(i)][at(j)] = std::min(cost[at(i)][at(j)], pairs.back().cost);
        }
    std::vector<Index> order(at(size));
    std::iota(order.begin(), order.end(), 0);
    double best = kInf;
    do {
      double sum = 0.0;
      for (Index i = 0; i < size; ++i) sum += cost[at(i)][at(order[at(i)])];
      best = std::min(best, sum);
    } while (std::next_permutation(order.begin(), order.end()));
    WorkCounter work;
    const auto matching = cheapest_matching(size, pairs, work);
    if (!matching) {  // none, or it falls apart into smaller ones
      none += best == kInf ? 1 : 0;
      continue;
    }
    ++found;
    double sum = 0.0, prices = 0.0;
    for (Index i = 0; i < size; ++i) {
      sum += pairs[at(matching->pair_of[at(i)])].cost;
      prices += matching->row_price[at(i)] + matching->column_price[at(i)];
    }
    REQUIRE(sum == best);
    REQUIRE(prices == Approx(best).margin(1e-9));
    const auto slack = [&](const Pair& p) {
      return p.cost - matching->row_price[at(p.row)] - matching->column_price[at(p.column)];
    };
    for (const Pair& p : pairs) REQUIRE(slack(p) >= -1e-9);
    // A tree: as many pairs as joins are needed, each of which joins two parts, none with slack.
    REQUIRE(matching->tree.size() == 2 * at(size) - 1);
    std::vector<Index> part(2 * at(size));
    std::iota(part.begin(), part.end(), 0);
    for (const Index k : matching->tree) {
      const Pair& p = pairs[at(k)];
      REQUIRE(std::abs(slack(p)) < 1e-9);
      const Index a = part[at(p.row)], b = part[at(size + p.column)];
      REQUIRE(a != b);
      std::replace(part.begin(), part.end(), a, b);
    }
  }
  CHECK(found > 500);
  CHECK(none > 100);
}
