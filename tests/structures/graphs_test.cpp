// Pairs, cuts and trees of graphs against all that there are.
#include <atomic>
#include <functional>
#include <numeric>

#include <catch2/catch.hpp>

#include "base/at.hpp"
#include "base/random.hpp"
#include "structures/least_cut.hpp"
#include "structures/pairing.hpp"
#include "structures/spanning_trees.hpp"

using namespace kiteknot;
using namespace kiteknot::structures;

namespace {

std::int64_t weight_of(Index nodes, const std::vector<Edge>& edges, const std::vector<Index>& of) {
  std::int64_t weight = 0;
  REQUIRE(static_cast<Index>(of.size()) == nodes);
  for (Index v = 0; v < nodes; ++v) {
    if (of[at(v)] < 0) continue;
    const Edge& e = edges[at(of[at(v)])];
    const Index other = e.a == v ? e.b : e.a;
    REQUIRE((e.a == v || e.b == v));
    REQUIRE(of[at(other)] == of[at(v)]);
    if (v < other) weight += e.weight;
  }
  return weight;
}

std::int64_t heaviest(Index nodes, const std::vector<Edge>& edges) {
  std::vector<std::vector<std::int64_t>> w(at(nodes), std::vector<std::int64_t>(at(nodes), 0));
  for (const Edge& e : edges)
    w[at(e.a)][at(e.b)] = w[at(e.b)][at(e.a)] = std::max(w[at(e.a)][at(e.b)], e.weight);
  std::vector<std::int64_t> best(std::size_t{1} << at(nodes), 0);  // by the set of nodes
  for (std::size_t set = 1; set < best.size(); ++set) {
    Index first = 0;
    while (((set >> at(first)) & 1U) == 0) ++first;
    const std::size_t rest = set & ~(std::size_t{1} << at(first));
    best[set] = best[rest];
    for (Index o = first + 1; o < nodes; ++o)
      if (((rest >> at(o)) & 1U) != 0)
        best[set] =
            std::max(best[set], w[at(first)][at(o)] + best[rest & ~(std::size_t{1} << at(o))]);
  }
  return best.back();
}

}  // namespace

TEST_CASE("the heaviest pairs are as heavy as any, through rings in rings", "[structures]") {
  Random random(3);
  for (int k = 0; k < 6'000; ++k) {
    const auto nodes = static_cast<Index>(random.between(2, 12));
    const std::int64_t share = random.between(15, 100), most = random.between(1, 25);
    std::vector<Edge> edges;
    for (Index a = 0; a < nodes; ++a)
      for (Index b = a + 1; b < nodes; ++b)
        if (random.between(1, 100) <= share) edges.push_back({a, b, random.between(-3, most)});
    WorkCounter work;
    const auto pairs = heaviest_pairs(nodes, edges, work);
    REQUIRE(pairs);
    const std::int64_t best = heaviest(nodes, edges);
    CHECK(weight_of(nodes, edges, *pairs) == best);
    const std::int64_t quick = weight_of(nodes, edges, pairs_by_weight(nodes, edges));
    CHECK(quick <= best);
    CHECK(2 * quick >= best);
  }
}

TEST_CASE("large pairings: near triangles and rings, and with the work at an end", "[structures]") {
  // Triangles that hang together in a chain.
  constexpr Index kTriangles = 201;
  std::vector<Edge> edges;
  for (Index t = 0; t < kTriangles; ++t) {
    const Index v = 3 * t;
    for (const auto& [a, b] : {std::pair(v, v + 1), std::pair(v + 1, v + 2), std::pair(v, v + 2)})
      edges.push_back({a, b, 10});
    if (t + 1 < kTriangles) edges.push_back({v + 2, v + 3, 9});
  }
  WorkCounter work;
  const auto pairs = heaviest_pairs(3 * kTriangles, edges, work);
  REQUIRE(pairs);
  // An edge of each triangle, and what these leave two by two.
  CHECK(weight_of(3 * kTriangles, edges, *pairs) == 10 * kTriangles + 9 * (kTriangles / 2));
  const std::atomic<bool> now = true;
  Interrupt stop;
  stop.stopped = &now;
  WorkCounter none;
  none.obey(stop);
  CHECK_FALSE(heaviest_pairs(3 * kTriangles, edges, none));
}

TEST_CASE("the cheapest cut is the cheapest of all sides", "[structures]") {
  Random random(11);
  for (int k = 0; k < 3'000; ++k) {
    const auto nodes = static_cast<Index>(random.between(2, 9));
    std::vector<CutArc> arcs;
    for (std::int64_t m = random.between(0, 30); m > 0; --m) {
      const auto a = static_cast<Index>(random.between(0, nodes - 1));
      const auto b = static_cast<Index>(random.between(0, nodes - 1));
      if (a != b) arcs.push_back({a, b, random.between(0, 12)});
    }
    WorkCounter work;
    const auto cut = least_cut(nodes, arcs, 0, 1, work);
    REQUIRE(cut);
    CHECK(cut->beside[0] == 1);
    CHECK(cut->beside[1] == 0);
    std::int64_t best = std::numeric_limits<std::int64_t>::max(), own = 0;
    for (std::size_t set = 0; set < (std::size_t{1} << at(nodes)); ++set) {
      if ((set & 3U) != 1U) continue;
      std::int64_t capacity = 0;
      for (const CutArc& a : arcs)
        if (((set >> at(a.from)) & 1U) != 0 && ((set >> at(a.to)) & 1U) == 0)
          capacity += a.capacity;
      best = std::min(best, capacity);
    }
    for (const CutArc& a : arcs)
      if (cut->beside[at(a.from)] && !cut->beside[at(a.to)]) own += a.capacity;
    CHECK(cut->capacity == best);
    CHECK(own == best);
  }
}

TEST_CASE("the cheapest tree out of a root is the cheapest of all", "[structures]") {
  Random random(13);
  int reached = 0;
  for (int k = 0; k < 3'000; ++k) {
    const auto nodes = static_cast<Index>(random.between(1, 6));
    const auto root = static_cast<Index>(random.between(0, nodes - 1));
    std::vector<CostArc> arcs;
    for (std::int64_t m = random.between(0, 16); m > 0; --m)
      arcs.push_back({static_cast<Index>(random.between(0, nodes - 1)),
                      static_cast<Index>(random.between(0, nodes - 1)), random.between(-2, 9)});
    // An arc into every other node, and all of them lead back to the root.
    std::int64_t best = std::numeric_limits<std::int64_t>::max();
    std::vector<Index> into(at(nodes), -1);
    const auto rooted = [&](const std::vector<Index>& of) {
      for (Index v = 0; v < nodes; ++v) {
        Index u = v;
        for (Index steps = 0; u != root; ++steps) {
          if (steps > nodes || of[at(u)] < 0) return false;
          u = arcs[at(of[at(u)])].from;
        }
      }
      return true;
    };
    const std::function<void(Index, std::int64_t)> choose = [&](Index v, std::int64_t cost) {
      if (v == nodes) {
        if (rooted(into)) best = std::min(best, cost);
        return;
      }
      if (v == root) return choose(v + 1, cost);
      for (Index a = 0; a < static_cast<Index>(arcs.size()); ++a)
        if (arcs[at(a)].to == v) {
          into[at(v)] = a;
          choose(v + 1, cost + arcs[at(a)].cost);
        }
    };
    choose(0, 0);
    const auto found = least_branching(nodes, arcs, root);
    REQUIRE(found.has_value() == (best != std::numeric_limits<std::int64_t>::max()));
    if (!found) continue;
    ++reached;
    CHECK(rooted(*found));
    std::int64_t cost = 0;
    for (Index v = 0; v < nodes; ++v)
      if (v != root) {
        CHECK(arcs[at((*found)[at(v)])].to == v);
        cost += arcs[at((*found)[at(v)])].cost;
      }
    CHECK(cost == best);
  }
  CHECK(reached > 500);
}
