// Symmetries: what is found turns the problem into itself; what is left of a group against all of
// its members; searches with and without.
#include <numeric>
#include <set>

#include <catch2/catch.hpp>

#include "mip/propagators/orbits.hpp"
#include "support/random_mips.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

namespace {

using Permutation = std::vector<Index>;

Permutation dense(const mip::Symmetry::Permutation& moves, Index n) {
  Permutation p(at(n));
  std::iota(p.begin(), p.end(), 0);
  for (const auto& m : moves) p[at(m.from)] = m.to;
  return p;
}

// All members of a group, by multiplying until nothing new comes.
std::set<Permutation> members(const std::vector<Permutation>& generators, Index n) {
  std::set<Permutation> all = {dense({}, n)};
  std::vector<Permutation> open(all.begin(), all.end());
  while (!open.empty()) {
    const Permutation a = open.back();
    open.pop_back();
    for (const Permutation& g : generators) {
      Permutation c(a.size());
      for (std::size_t k = 0; k < a.size(); ++k) c[k] = g[at(a[k])];
      if (all.insert(c).second) open.push_back(c);
    }
  }
  return all;
}

// Loads into equal boxes, at least as many as are needed.
mip::Problem loads(int items, int boxes, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<mip::LinearRow> once(at(items));
  for (int b = 0; b < boxes; ++b) {
    const Index open = p.add_column(0.0, 1.0, true, 1.0);
    mip::LinearRow room{{{open, -50.0}}, -kInf, 0.0, true};
    Random sizes(seed);
    for (int i = 0; i < items; ++i) {
      const Index in = p.add_column(0.0, 1.0, true, 0.0);
      room.entries.push_back({in, static_cast<double>(sizes.between(11, 29))});
      once[at(i)].entries.push_back({in, 1.0});
    }
    p.add_row(room);
  }
  for (mip::LinearRow& row : once) {
    row.lower = row.upper = 1.0;
    p.add_row(row);
  }
  p.set_goal_facts(true, 1.0);
  return p;
}

mip::Symmetry symmetry_of(const mip::Problem& p) {
  WorkCounter work;
  return mip::find_symmetry(p, 1'000'000'000, work);
}

}  // namespace

TEST_CASE("symmetries that are found turn the problem into itself", "[mip][symmetry]") {
  // A hexagon's edges, each to be covered at one end: turns and flips, twelve in all.
  mip::Problem ring;
  for (int k = 0; k < 6; ++k) ring.add_column(0.0, 1.0, true, 1.0);
  for (Index k = 0; k < 6; ++k) ring.add_row({{{k, 1.0}, {(k + 1) % 6, 1.0}}, 1.0, kInf, true});
  std::vector<Permutation> generators;
  for (const auto& g : symmetry_of(ring).generators) {
    CHECK(mip::is_symmetry(ring, g));
    generators.push_back(dense(g, 6));
  }
  CHECK(members(generators, 6).size() == 12);
  CHECK_FALSE(mip::is_symmetry(ring, {{0, 1}, {1, 0}}));
  ring.set_cost(0, 2.0);  // the flip that leaves it where it is
  CHECK(members({dense(symmetry_of(ring).generators.at(0), 6)}, 6).size() == 2);
  ring.set_bounds(1, 0.0, 2.0);
  CHECK(symmetry_of(ring).empty());

  const mip::Problem boxes = loads(4, 3, 7);
  generators.clear();
  for (const auto& g : symmetry_of(boxes).generators) {
    CHECK(mip::is_symmetry(boxes, g));
    generators.push_back(dense(g, boxes.num_columns()));
  }
  CHECK(members(generators, boxes.num_columns()).size() % 6 == 0);  // three boxes in any order

  // Conditions and numbers that no double says: nothing is looked for.
  mip::Problem conditional = loads(4, 3, 7);
  conditional.add_condition(0);
  CHECK(symmetry_of(conditional).empty());
}

TEST_CASE("random problems: every symmetry found is one, entry by entry",
          "[mip][symmetry][oracle]") {
  Random random(1401);
  int found = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    const mip::Problem p = tiny::interchangeable(random).problem;
    for (const auto& moves : symmetry_of(p).generators) {
      ++found;
      CHECK(mip::is_symmetry(p, moves));
      // Plans go to plans of the same goal.
      const Permutation to = dense(moves, p.num_columns());
      each_point(p, [&](std::span<const Rational> x) {
        std::vector<Rational> y(x.size());
        for (std::size_t j = 0; j < x.size(); ++j) y[at(to[j])] = x[j];
        CHECK(satisfies(p, x) == satisfies(p, y));
        CHECK(goal_of(p, x) == goal_of(p, y));
      });
    }
  }
  CHECK(found > 90);
}

TEST_CASE("orbits of stabilizers against all members of the group", "[mip][symmetry][oracle]") {
  Random random(1402);
  int asked = 0, as_large = 0;
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const Index n = static_cast<Index>(random.between(4, 7));
    mip::Symmetry s;
    std::vector<Permutation> generators;
    for (std::int64_t k = random.between(1, 3); k > 0; --k) {
      Permutation p = dense({}, n);
      for (std::size_t a = p.size() - 1; a > 0; --a)
        std::swap(p[a],
                  p[static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(a)))]);
      mip::Symmetry::Permutation moves;
      for (Index j = 0; j < n; ++j)
        if (p[at(j)] != j) moves.push_back({j, p[at(j)]});
      s.generators.push_back(moves);
      generators.push_back(p);
    }
    const std::set<Permutation> all = members(generators, n);
    mip::Stabilizers group(s, n);
    WorkCounter work;
    std::vector<Index> points;
    for (int depth = 0; depth < 4; ++depth) {
      const std::vector<Index> orbit = group.orbits(points, work);
      for (Index a = 0; a < n; ++a)
        for (Index b = 0; b < n; ++b) {
          if (group.place(a) < 0 || group.place(b) < 0 || a == b) continue;
          const bool together = orbit[at(group.place(a))] == orbit[at(group.place(b))];
          const bool truly = std::any_of(all.begin(), all.end(), [&](const Permutation& g) {
            return g[at(a)] == b && std::all_of(points.begin(), points.end(),
                                                [&](Index k) { return g[at(k)] == k; });
          });
          ++asked;
          as_large += together == truly ? 1 : 0;
          if (together) CHECK(truly);
        }
      if (random.chance(0.3)) points.clear();
      points.push_back(static_cast<Index>(random.between(0, n - 1)));
    }
  }
  CHECK(as_large > asked * 95 / 100);
}

TEST_CASE("what is decided to be 0 takes its orbit along, unless a 1 holds it", "[mip][symmetry]") {
  mip::Problem p;
  for (int j = 0; j < 4; ++j) p.add_column(0.0, 1.0, true, 1.0);
  p.add_row({{{0, 1.0}, {1, 1.0}, {2, 1.0}, {3, 1.0}}, 1.0, kInf, true});
  mip::OrbitalFixing orbits(symmetry_of(p), p.num_columns());
  mip::Domain domain(p);
  std::int64_t fixed = 0;
  WorkCounter work;
  CHECK(orbits.fix(domain, fixed, work));
  CHECK(fixed == 0);
  REQUIRE(domain.raise_lower(3, 1.0));
  REQUIRE(domain.drop_upper(0, 0.0));
  CHECK(orbits.fix(domain, fixed, work));
  CHECK(fixed == 2);
  CHECK(domain.upper(1) == 0.0);
  CHECK(domain.upper(2) == 0.0);
  CHECK(domain.lower(3) == 1.0);
  CHECK(domain.trail().back().reason.by == mip::Reason::By::orbit);
}

TEST_CASE("searches with symmetries end where those without do, sooner", "[mip][symmetry]") {
  std::int64_t with = 0, without = 0;
  for (const std::uint64_t seed : {1U, 2U, 3U, 4U}) {
    const mip::Problem p = loads(9, 6, seed);
    mip::SearchOptions options;
    options.presolving.brief_look = options.node.enumeration = options.node.strong =
        options.finding.dives = false;
    options.finding.near_plan = options.finding.rounding = options.finding.core =
        options.finding.construction = false;
    options.cuts = mip::CutSwitches::none();
    const mip::SearchResult a = mip::Search(p, exact_judge(p), options).run();
    options.presolving.orbits = false;
    const mip::SearchResult b = mip::Search(p, exact_judge(p), options).run();
    REQUIRE(a.outcome == Outcome::optimal);
    REQUIRE(b.outcome == Outcome::optimal);
    CHECK(a.goal == b.goal);
    with += a.counts.nodes;
    without += b.counts.nodes;
  }
  CHECK(with < without);
}
