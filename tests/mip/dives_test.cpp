// Heuristics that solve relaxations or parts of the problem: they find plans where nothing else
// does, and what they find is a plan.
#include <catch2/catch.hpp>

#include "mip/heuristics/chooser.hpp"
#include "support/brute_force.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

mip::SearchOptions alone(std::int64_t nodes) {
  mip::SearchOptions o;
  o.finding.construction = o.finding.core = o.node.enumeration = o.finding.rounding =
      o.finding.dives = o.finding.near_plan = o.finding.pump = false;
  o.cuts = mip::CutSwitches::none();  // more is left to the tree
  o.budget.nodes = nodes;
  return o;
}

const mip::Tally* tally_of(const mip::SearchResult& r, std::string_view name) {
  for (const mip::PartTally& p : r.parts)
    if (p.name == name) return &p.tally;
  return nullptr;
}

}  // namespace

TEST_CASE("a dive finds a plan at the root, over whole columns and with real ones",
          "[mip][dives]") {
  int found = 0, with_real = 0;
  for (const std::uint64_t seed : {1U, 2U, 3U, 4U}) {
    for (const bool real : {false, true}) {
      CAPTURE(seed, real);
      mip::Problem p = real ? lots(3, 8, seed) : cover(50, 120, 0.06, seed);
      if (real) {  // stocks and lots may be split
        mip::Problem mixed;
        for (linalg::Index j = 0; j < p.num_columns(); ++j)
          mixed.add_column(p.lower(j), p.upper(j), p.upper(j) <= 1.0, p.cost(j));
        for (linalg::Index i = 0; i < p.num_rows(); ++i) {
          mip::LinearRow row{{}, p.row_lower(i), p.row_upper(i), true};
          for (std::size_t k = 0; k < p.row(i).index.size(); ++k)
            row.entries.push_back({p.row(i).index[k], p.row(i).value[k]});
          mixed.add_row(row);
        }
        p = mixed;
      }
      mip::SearchOptions o = alone(1);
      CHECK_FALSE(mip::Search(p, judge_of(p), o).run().plan);
      o.finding.dives = true;
      const mip::SearchResult r = mip::Search(p, judge_of(p), o).run();
      if (!r.plan) continue;
      ++(real ? with_real : found);
      CHECK(satisfies(p, *r.plan));
      CHECK(r.found_by == "a dive");
      REQUIRE(tally_of(r, "a dive") != nullptr);
      CHECK(tally_of(r, "a dive")->steps > 0);
    }
  }
  CHECK(found >= 3);
  CHECK(with_real >= 3);
}

TEST_CASE("small searches near the best plan find better ones", "[mip][dives]") {
  int better = 0;
  for (const std::uint64_t seed : {1U, 2U, 3U, 4U, 5U}) {
    CAPTURE(seed);
    const mip::Problem p = assignment(10, 60, seed);
    mip::SearchOptions o = alone(1'000);
    o.finding.dives = true;
    const mip::SearchResult without = mip::Search(p, judge_of(p), o).run();
    o.finding.near_plan = true;
    const mip::SearchResult with = mip::Search(p, judge_of(p), o).run();
    if (!without.plan || !with.plan) continue;  // no dive came through: nothing to be near to
    CHECK(satisfies(p, *with.plan));
    CHECK(with.goal.to_double() >= with.bound);
    const mip::Tally* tally = tally_of(with, "a search near the best plan");
    REQUIRE(tally != nullptr);
    better += tally->steps > 0 && with.goal < without.goal ? 1 : 0;
  }
  CHECK(better >= 2);
}

TEST_CASE("rounding to and fro, and a search near the relaxed point, find plans at the root",
          "[mip][dives]") {
  int pumped = 0, searched = 0;
  for (const std::uint64_t seed : {1U, 2U, 3U, 4U, 5U, 6U}) {
    CAPTURE(seed);
    const mip::Problem p = seed % 2 == 0 ? cover(50, 120, 0.06, seed) : lots(3, 8, seed);
    for (const bool pump : {true, false}) {
      mip::SearchOptions o = alone(pump ? 1 : 300);
      o.presolving.brief_look = o.presolving.on = false;
      (pump ? o.finding.pump : o.finding.near_plan) = true;
      const mip::SearchResult r = mip::Search(p, judge_of(p), o).run();
      if (!r.plan) continue;
      CHECK(satisfies(p, *r.plan));
      const mip::Tally* by =
          tally_of(r, pump ? "rounding to and fro" : "a search near the relaxed point");
      REQUIRE(by != nullptr);
      (pump ? pumped : searched) += by->steps > 0 ? 1 : 0;
    }
  }
  CHECK(pumped >= 3);
  CHECK(searched >= 3);
}

TEST_CASE("every way near the best plan finds better ones", "[mip][dives]") {
  // From a poor plan, all kinds of small searches have something to find.
  const mip::Problem p = many_knapsacks(5, 60, 3);
  std::vector<Rational> none(at(p.num_columns()), Rational(0));
  mip::SearchOptions o = alone(400);
  o.given.plans.push_back(none);
  o.finding.near_plan = true;
  const mip::SearchResult r = mip::Search(p, judge_of(p), o).run();
  REQUIRE(r.plan);
  CHECK(satisfies(p, *r.plan));
  const mip::Tally* near = tally_of(r, "a search near the best plan");
  REQUIRE(near != nullptr);
  CHECK(near->calls >= 3);
  CHECK(near->steps >= 1);
}

TEST_CASE("ways that succeed are taken again, each is tried", "[mip][dives]") {
  mip::Chooser chooser(3);
  const auto any = [](std::size_t) { return true; };
  std::vector<int> taken(3, 0);
  for (int k = 0; k < 30; ++k) {
    const std::size_t way = chooser.next(any);
    ++taken[way];
    chooser.tried(way, way == 1);
  }
  CHECK(taken[0] >= 1);
  CHECK(taken[2] >= 1);
  CHECK(taken[1] > 20);
  CHECK(chooser.next([](std::size_t k) { return k == 2; }) == 2);
}
