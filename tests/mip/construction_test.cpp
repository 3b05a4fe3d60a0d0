// Plans that are built without a relaxation: they hold, against all points of small problems, and
// come before anything is relaxed on large ones.
#include "mip/heuristics/construction.hpp"

#include <catch2/catch.hpp>

#include "support/brute_force.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

struct Ground {
  explicit Ground(const mip::Problem& p) : domain(p), propagation(domain) {}
  std::optional<std::vector<double>> build(const mip::Problem& p, std::int64_t most,
                                           std::span<const double> wishes = {}) {
    mip::Construction construction(p, 1);
    return construction.build({domain, propagation, work, interrupt, most, wishes});
  }
  mip::Domain domain;
  mip::Propagation propagation;
  WorkCounter work;
  Interrupt interrupt;
};

std::vector<Rational> exactly(const std::vector<double>& point) {
  std::vector<Rational> exact;
  for (const double x : point) exact.push_back(Rational::exactly(x));
  return exact;
}

}  // namespace

TEST_CASE("plans that are built hold, and most problems with a plan get one",
          "[mip][construction]") {
  Random random(4101);
  int possible = 0, built = 0, others = 0;
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    const bool linear = round % 2 == 0;
    const ProblemShape shape{
        .columns = 7, .rows = 6, .conditional = linear ? 0.0 : 0.4, .ordered = linear ? 0.0 : 0.2};
    const mip::Problem p = draw_problem(random, shape);
    Ground ground(p);
    std::vector<double> wishes;
    if (round % 3 == 0)
      for (linalg::Index j = 0; j < p.num_columns(); ++j)
        wishes.push_back(p.lower(j) + random.fraction() * (p.upper(j) - p.lower(j)));
    const auto point = ground.build(p, 20'000, wishes);
    CHECK(ground.domain.mark() == 0);
    const bool any = best_by_trying(p).has_value();
    possible += any;
    if (!point) continue;
    // What other kinds ask is left to the judge where propagation does not see all of it.
    if (!p.linear()) {
      others += satisfies(p, exactly(*point));
      continue;
    }
    REQUIRE(any);
    REQUIRE(satisfies(p, exactly(*point)));
    ++built;
  }
  CHECK(built > 400);
  CHECK(others > 150);
  CHECK(built + others > 9 * possible / 10);
}

TEST_CASE("wishes are kept where nothing is in the way", "[mip][construction]") {
  mip::Problem p;
  for (int j = 0; j < 4; ++j) p.add_column(0.0, 5.0, j < 2, 1.0);
  p.add_row({{{0, 1.0}, {1, 1.0}, {2, 1.0}, {3, 1.0}}, -kInf, 9.0, true});
  p.set_goal_facts(true, 0.0);
  Ground ground(p);
  const std::vector<double> near = {2.2, 1.0, 0.5, 3.25};
  CHECK(ground.build(p, 1000, near) == std::vector<double>{2.0, 1.0, 0.5, 3.25});
  CHECK(ground.build(p, 1000) == std::vector<double>{0.0, 0.0, 0.0, 0.0});
}

TEST_CASE("tight machines are filled, and jobs without a place are told soon",
          "[mip][construction]") {
  for (const std::uint64_t seed : {1U, 2U, 3U, 4U}) {
    CAPTURE(seed);
    const mip::Problem p = assignment(8, 60, seed);
    Ground ground(p);
    const auto point = ground.build(p, 3'000'000);
    REQUIRE(point);
    CHECK(satisfies(p, exactly(*point)));
  }
  mip::Problem none;  // three things of 2 in two boxes of 3
  for (int k = 0; k < 6; ++k) none.add_column(0.0, 1.0, true, 0.0);
  for (linalg::Index box : {0, 1})
    none.add_row({{{box, 2.0}, {box + 2, 2.0}, {box + 4, 2.0}}, -kInf, 3.0, true});
  for (linalg::Index thing : {0, 2, 4})
    none.add_row({{{thing, 1.0}, {thing + 1, 1.0}}, 1.0, 1.0, true});
  Ground ground(none);
  CHECK_FALSE(ground.build(none, 20'000));
  CHECK(ground.work.units() < 40'000);
}

TEST_CASE("prices count in place of costs where they are given", "[mip][construction]") {
  mip::Problem p;
  for (const double cost : {3.0, 1.0, 2.0}) p.add_column(0.0, 1.0, true, cost);
  p.add_row({{{0, 1.0}, {1, 1.0}, {2, 1.0}}, 1.0, kInf, true});
  p.set_goal_facts(true, 1.0);
  Ground ground(p);
  mip::Construction construction(p, 1);
  mip::Construction::Site site{
      ground.domain, ground.propagation, ground.work, ground.interrupt, 1000, {}};
  CHECK(construction.build(site) == std::vector<double>{0.0, 1.0, 0.0});
  // Exchanges go by the costs again, so it takes a row that keeps them out.
  p.add_row({{{1, 1.0}, {2, 1.0}}, -kInf, 0.0, true});
  const std::vector<double> prices = {9.0, 7.0, 8.0};
  Ground other(p);
  mip::Construction again(p, 1);
  mip::Construction::Site priced{
      other.domain, other.propagation, other.work, other.interrupt, 1000, {}, prices};
  CHECK(again.build(priced) == std::vector<double>{1.0, 0.0, 0.0});
}

TEST_CASE("large problems have a plan before their relaxation", "[mip][construction]") {
  const mip::Problem p = cover(400, 3000, 0.03, 1);
  mip::SearchOptions o;
  o.budget.nodes = 0;
  const mip::SearchResult r = mip::Search(p, exact_judge(p), o).run();
  REQUIRE(r.plan);
  CHECK(satisfies(p, *r.plan));
  CHECK(r.history.front().found_by == "a greedy construction");
  CHECK(r.history.front().nodes == 0);
  o.finding.construction = false;
  CHECK_FALSE(mip::Search(p, exact_judge(p), o).run().plan);
}
