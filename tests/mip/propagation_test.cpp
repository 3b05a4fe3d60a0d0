// Propagation: what it concludes, that it never concludes too much, and that what it keeps on the
// way follows every step and every step back.

#include <catch2/catch.hpp>

#include "mip/branching/disjunction.hpp"
#include "mip/propagators/probing.hpp"
#include "mip/relaxation/relaxation.hpp"
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

TEST_CASE("propagation never cuts a feasible point off, under any branching",
          "[mip][propagation]") {
  Random random(31);
  int narrowed = 0;
  for (int round = 0; round < 3000; ++round) {
    const mip::Problem p = draw_problem(random, {});
    Domain d(p);
    mip::Propagation propagation(d);
    bool possible = true;
    for (int step = 0; step < 3 && possible; ++step) {
      const auto j = static_cast<linalg::Index>(random.between(0, p.num_columns() - 1));
      possible = random.chance(0.5) ? d.raise_lower(j, std::min(d.lower(j) + 1.0, d.upper(j)))
                                    : d.drop_upper(j, std::max(d.upper(j) - 1.0, d.lower(j)));
    }
    Domain before = d;
    WorkCounter work;
    possible = possible && propagation.run(d, work);
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

TEST_CASE("undoing a domain brings every bound and state back", "[mip][propagation]") {
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
    "[mip][propagation]") {
  mip::Problem p;
  p.add_column(0.0, 1.0, true, 0.0);
  p.add_column(0.0, 10.0, true, 0.0);
  p.add_condition(0);
  mip::add_indicator_row(p, {{0, true}, {{{1, 1.0}}, -kInf, 4.0, true}});
  WorkCounter work;
  Domain d(p);
  mip::Propagation in_d(d);
  REQUIRE(d.raise_lower(0, 1.0));
  REQUIRE(in_d.run(d, work));
  CHECK(d.upper(1) == 4.0);
  Domain e(p);
  mip::Propagation in_e(e);
  REQUIRE(e.raise_lower(1, 5.0));
  REQUIRE(in_e.run(e, work));
  CHECK(e.upper(0) == 0.0);
}

TEST_CASE("an ordered set keeps a window and splits a point that is spread too wide",
          "[mip][propagation]") {
  mip::Problem p;
  for (int j = 0; j < 5; ++j) p.add_column(0.0, 1.0, false, 0.0);
  mip::add_special_ordered_set(p, {{0, 1, 2, 3, 4}, 2});
  const auto kind = std::move(mip::disjunctions_of(p).front());
  Domain d(p);
  mip::Propagation propagation(d);
  WorkCounter work;
  REQUIRE(d.raise_lower(2, 0.5));
  REQUIRE(propagation.run(d, work));
  CHECK(d.upper(0) == 0.0);
  CHECK(d.upper(1) == 1.0);
  CHECK(d.upper(4) == 0.0);
  const Domain fresh(p);
  const std::vector<double> spread = {0.5, 0.0, 0.0, 0.0, 0.5};
  CHECK_FALSE(kind->met(fresh, spread));
  mip::Branching branching;
  REQUIRE(kind->split(fresh, spread, branching));
  REQUIRE(branching.children.size() == 2);
  for (const auto& changes : branching.children) {  // both children exclude the point
    Domain child = fresh;
    for (const mip::Change& c : changes) REQUIRE(child.apply(c));
    CHECK((child.upper(0) == 0.0 || child.upper(4) == 0.0));
  }
}

TEST_CASE("a mixed problem with ordered sets over reals finds the best window",
          "[mip][propagation]") {
  // maximise 3a + 5b + 4c + 6d, each at most 1, sum at most 1.5, at most two neighbours: c = .5, d
  // = 1.
  mip::Problem p;
  for (const double c : {-3.0, -5.0, -4.0, -6.0}) p.add_column(0.0, 1.0, false, c);
  p.set_goal_facts(true, 0.0);
  p.add_row({{{0, 1.0}, {1, 1.0}, {2, 1.0}, {3, 1.0}}, -kInf, 1.5, true});
  mip::add_special_ordered_set(p, {{0, 1, 2, 3}, 2});
  const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
  REQUIRE(found.outcome == Outcome::optimal);
  CHECK(found.goal == Rational(-8));
}

TEST_CASE("activity ranges enclose every value of a row", "[mip][propagation]") {
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

namespace {

// A walk through the domain as a search takes it: steps, propagation, steps back.
template <class Look>
void walk(Random& random, Domain& d, mip::Propagation& propagation, const Look& look) {
  WorkCounter work;
  if (!propagation.run(d, work)) return;
  std::vector<std::size_t> marks = {d.mark()};
  for (int step = 0; step < 25; ++step) {
    if (random.chance(0.35)) {
      const auto back =
          static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(marks.size()) - 1));
      d.undo_to(marks[back]);
      marks.resize(back + 1);
    }
    const auto j = static_cast<linalg::Index>(random.between(0, d.problem().num_columns() - 1));
    const double middle = std::floor((d.lower(j) + d.upper(j)) / 2.0);
    bool possible = true;
    if (d.problem().num_conditions() > 0 && random.chance(0.2))
      possible =
          d.settle(static_cast<linalg::Index>(random.between(0, d.problem().num_conditions() - 1)),
                   random.chance(0.5));
    else
      possible = random.chance(0.5) ? d.raise_lower(j, std::min(middle + 1.0, d.upper(j)))
                                    : d.drop_upper(j, std::max(middle, d.lower(j)));
    possible = possible && propagation.run(d, work);
    look(possible);
    if (!possible) {
      d.undo_to(marks.back());
      continue;
    }
    marks.push_back(d.mark());
  }
}

}  // namespace

TEST_CASE("activities follow every step and every step back", "[mip][propagation]") {
  Random random(34);
  int looks = 0;
  for (int round = 0; round < 400; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_problem(random, {});
    Domain d(p);
    mip::Propagation propagation(d);
    walk(random, d, propagation, [&](bool possible) {
      if (!possible) return;
      propagation.check_invariants(d);
      Domain same = d;
      WorkCounter work;
      CHECK(mip::Propagation(same).run(same, work));
      for (linalg::Index j = 0; j < p.num_columns(); ++j) {  // as from scratch
        CHECK(d.lower(j) >= same.lower(j));
        CHECK(d.upper(j) <= same.upper(j));
      }
      ++looks;
    });
  }
  CHECK(looks > 2000);
}

TEST_CASE("every step of propagation names a row that implies it", "[mip][propagation]") {
  Random random(35);
  int checked = 0;
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_problem(random, {});
    Domain d(p);
    mip::Propagation propagation(d);
    WorkCounter work;
    if (!propagation.run(d, work)) continue;
    for (std::size_t k = 0; k < d.trail().size(); ++k) {
      const Domain::Step step = d.trail()[k];
      CHECK(step.reason.by != mip::Reason::By::decision);
      if (step.reason.by != mip::Reason::By::constraint || step.reason.kind != 0 ||
          step.change.what == mip::Change::What::condition)
        continue;
      // All that was known before, and one side of the row alone.
      const auto implied = [&](mip::RowView row) {
        Domain before(p);
        for (std::size_t e = 0; e < k; ++e) REQUIRE(before.apply(d.trail()[e].change));
        const linalg::Index j = step.change.index;
        return !mip::tighten(row, before) || (step.change.what == mip::Change::What::lower
                                                  ? before.lower(j) >= step.change.value
                                                  : before.upper(j) <= step.change.value);
      };
      mip::RowView below = p.row(step.reason.place), above = below;
      below.lower = -kInf;
      above.upper = kInf;
      CHECK((implied(below) || implied(above)));
      ++checked;
    }
  }
  CHECK(checked > 300);
}

TEST_CASE("the relaxation follows the domain, step by step or all at once", "[mip][propagation]") {
  Random random(36);
  int followed = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_problem(random, {});
    Domain d(p);
    mip::Propagation propagation(d);
    mip::Relaxation relaxation(p);
    walk(random, d, propagation, [&](bool possible) {
      if (!possible || random.chance(0.4)) return;
      const bool loose = random.chance(0.3);
      relaxation.follow(d, loose);
      mip::Relaxation fresh(p);
      fresh.take(d, loose);
      const lp::Program &a = relaxation.simplex().program(), &b = fresh.simplex().program();
      for (linalg::Index j = 0; j < a.num_columns(); ++j) {
        CHECK(a.lower(j) == b.lower(j));
        CHECK(a.upper(j) == b.upper(j));
      }
      for (linalg::Index i = 0; i < a.num_rows(); ++i) {
        CHECK(a.row_lower(i) == b.row_lower(i));
        CHECK(a.row_upper(i) == b.row_upper(i));
      }
      ++followed;
    });
  }
  CHECK(followed > 1500);  // compilers draw in different orders
}

TEST_CASE("copies of a problem share what was stated and nothing else", "[mip][propagation]") {
  Random random(37);
  const mip::Problem p = draw_problem(random, {});
  mip::Problem q = p;
  CHECK(q.shares_statement(p));
  q.set_bounds(0, 0.0, 0.0);
  q.clear_goal();
  CHECK(q.round_limits());
  CHECK(q.shares_statement(p));
  const linalg::Index columns = p.num_columns();
  q.add_column(0.0, 1.0, true, 0.0);  // what is added is not seen by the other
  CHECK_FALSE(q.shares_statement(p));
  CHECK(p.num_columns() == columns);
  CHECK(q.num_columns() == columns + 1);
}

TEST_CASE("probing cuts no plan off, and finds more than propagation does", "[mip][propagation]") {
  Random random(38);
  int more = 0, excluded = 0;
  for (int round = 0; round < 3000; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_problem(random, {.columns = 7, .rows = 6});
    Domain d(p);
    mip::Propagation propagation(d);
    WorkCounter work;
    if (!propagation.run(d, work)) continue;
    const Domain before = d;
    mip::Implications implied;
    const bool possible = mip::probe(d, propagation, 100'000, work, implied);
    excluded += possible ? 0 : 1;
    each_point(p, [&](std::span<const Rational> x) {
      if (!satisfies(p, x)) return;
      REQUIRE(possible);
      REQUIRE(inside(d, x));
      for (const mip::Implication& i : implied) {
        const bool holds = x[at(mip::column_of(i.when))] == Rational(mip::is_no(i.when) ? 0 : 1);
        const Rational bound = Rational::exactly(i.bound);
        if (holds) REQUIRE((i.upper ? x[at(i.column)] <= bound : x[at(i.column)] >= bound));
      }
    });
    if (!possible) continue;
    REQUIRE(propagation.run(d, work));  // reads that the last trial was taken back
    propagation.check_invariants(d);
    for (linalg::Index j = 0; j < p.num_columns(); ++j)
      more += d.lower(j) > before.lower(j) || d.upper(j) < before.upper(j);
  }
  CHECK(more > 30);
  CHECK(excluded > 1);
}
