// Each kind of constraint on its own: what it concludes, and that it never concludes too much.
#include "mip/kinds.hpp"

#include <catch2/catch.hpp>

#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using mip::Domain;
using mip::State;

namespace {

bool inside(const Domain& d, std::span<const Rational> x) {
  for (linalg::Index j = 0; j < d.problem().num_columns(); ++j)
    if (x[static_cast<std::size_t>(j)] < Rational(d.lower(j)) ||
        x[static_cast<std::size_t>(j)] > Rational(d.upper(j)))
      return false;
  return true;
}

}  // namespace

TEST_CASE("propagation never cuts a feasible point off, under any branching", "[mip][kinds]") {
  Random random(31);
  int narrowed = 0;
  for (int round = 0; round < 3000; ++round) {
    const mip::Problem p = draw_problem(random, {});
    const auto kinds = mip::make_kinds(p);
    Domain d(p);
    d.touch_all();
    bool possible = true;
    for (int step = 0; step < 3 && possible; ++step) {
      const auto j = static_cast<linalg::Index>(random.between(0, p.num_columns() - 1));
      possible = random.chance(0.5) ? d.raise_lower(j, std::min(d.lower(j) + 1.0, d.upper(j)))
                                    : d.drop_upper(j, std::max(d.upper(j) - 1.0, d.lower(j)));
    }
    Domain before = d;
    WorkCounter work;
    possible = possible && propagate(d, kinds, work);
    each_point(p, [&](std::span<const Rational> x) {
      if (!inside(before, x) || !satisfies(p, x)) return;
      REQUIRE(possible);
      REQUIRE(inside(d, x));
    });
    for (linalg::Index j = 0; j < p.num_columns(); ++j)
      narrowed += d.lower(j) > before.lower(j) || d.upper(j) < before.upper(j);
  }
  CHECK(narrowed > 500);
}

TEST_CASE("undoing a domain brings every bound and state back", "[mip][kinds]") {
  mip::Problem p;
  p.add_column(0.0, 1.0, true, 0.0);
  p.add_column(-5.0, 5.0, true, 0.0);
  p.add_condition(0);
  p.add_condition();
  Domain d(p);
  const std::size_t mark = d.mark();
  REQUIRE(d.settle(0, true));
  CHECK(d.lower(0) == 1.0);  // the column follows its condition
  REQUIRE(d.drop_upper(1, 2.5));
  CHECK(d.upper(1) == 2.0);
  REQUIRE(d.settle(1, false));
  CHECK_FALSE(d.settle(1, true));
  d.undo_to(mark);
  CHECK(d.lower(0) == 0.0);
  CHECK(d.upper(1) == 5.0);
  CHECK(d.state(0) == State::open);
  CHECK(d.state(1) == State::open);
  REQUIRE(d.drop_upper(0, 0.0));
  CHECK(d.state(0) == State::fails);  // and the condition its column
}

TEST_CASE(
    "a conditional row binds only while its literal holds, and settles the literal when it cannot",
    "[mip][kinds]") {
  mip::Problem p;
  p.add_column(0.0, 1.0, true, 0.0);
  p.add_column(0.0, 10.0, true, 0.0);
  p.add_condition(0);
  p.add_conditional_row({{0, true}, {{{1, 1.0}}, -kInf, 4.0, true}});
  const auto kinds = mip::make_kinds(p);
  WorkCounter work;
  Domain d(p);
  REQUIRE(d.raise_lower(0, 1.0));
  REQUIRE(propagate(d, kinds, work));
  CHECK(d.upper(1) == 4.0);
  Domain e(p);
  REQUIRE(e.raise_lower(1, 5.0));
  REQUIRE(propagate(e, kinds, work));
  CHECK(e.upper(0) == 0.0);
}

TEST_CASE("an ordered set keeps a window and splits a point that is spread too wide",
          "[mip][kinds]") {
  mip::Problem p;
  for (int j = 0; j < 5; ++j) p.add_column(0.0, 1.0, false, 0.0);
  p.add_ordered_set({{0, 1, 2, 3, 4}, 2});
  mip::OrderedSets kind(p);
  Domain d(p);
  WorkCounter work;
  REQUIRE(d.raise_lower(2, 0.5));
  REQUIRE(kind.propagate(d, {}, work));
  CHECK(d.upper(0) == 0.0);
  CHECK(d.upper(1) == 1.0);
  CHECK(d.upper(4) == 0.0);
  const Domain fresh(p);
  const std::vector<double> spread = {0.5, 0.0, 0.0, 0.0, 0.5};
  CHECK_FALSE(kind.check(fresh, spread));
  mip::Branching branching;
  REQUIRE(kind.branch(fresh, spread, branching));
  REQUIRE(branching.children.size() == 2);
  for (const auto& changes : branching.children) {  // both children exclude the point
    Domain child = fresh;
    for (const mip::Change& c : changes) REQUIRE(child.apply(c));
    CHECK((child.upper(0) == 0.0 || child.upper(4) == 0.0));
  }
}

TEST_CASE("a mixed problem with ordered sets over reals finds the best window", "[mip][kinds]") {
  // maximise 3a + 5b + 4c + 6d, each at most 1, sum at most 1.5, at most two neighbours: c = .5, d
  // = 1.
  mip::Problem p;
  for (const double c : {-3.0, -5.0, -4.0, -6.0}) p.add_column(0.0, 1.0, false, c);
  p.set_goal_facts(true, 0.0);
  p.add_row({{{0, 1.0}, {1, 1.0}, {2, 1.0}, {3, 1.0}}, -kInf, 1.5, true});
  p.add_ordered_set({{0, 1, 2, 3}, 2});
  const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
  REQUIRE(found.outcome == Outcome::optimal);
  CHECK(found.goal == Rational(-8));
}

TEST_CASE("activity ranges enclose every value of a row", "[mip][kinds]") {
  Random random(33);
  for (int round = 0; round < 300; ++round) {
    mip::Problem p = draw_problem(random, {.conditional = 0.0, .ordered = 0.0});
    const Domain d(p);
    for (linalg::Index i = 0; i < p.num_rows(); ++i) {
      const mip::Activity range =
          mip::activity({p.rows().index(i), p.rows().value(i), 0.0, 0.0, true}, d);
      each_point(p, [&](std::span<const Rational> x) {
        Rational value = 0;
        for (std::size_t k = 0; k < p.rows().index(i).size(); ++k)
          value +=
              Rational(p.rows().value(i)[k]) * x[static_cast<std::size_t>(p.rows().index(i)[k])];
        REQUIRE(Rational::exactly(range.low) <= value);
        REQUIRE(value <= Rational::exactly(range.high));
      });
    }
  }
}
