#include "model/lowering.hpp"

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/plan.hpp"
#include "mip/kinds/indicator_rows.hpp"

using namespace kiteknot;

TEST_CASE("rows become whole numbers, scaled by their least common denominator",
          "[model][lowering]") {
  Model m{"Scaled"};
  const Decisions x = m.integer("x", {}, between(0, 9)), y = m.integer("y", {}, between(0, 9));
  m.rule("third", Expression(x) / 3 + 0.5 * Expression(y) <= 2.7);
  m.minimize("cost", 0.25 * Expression(x) + 1.5 * Expression(y) + 100);
  const Lowering low = lower(m.data());
  REQUIRE(low.problem.num_rows() == 1);
  CHECK(low.rows[0].scale == Rational(6));
  CHECK(low.problem.rows().value(0)[0] == 2.0);
  CHECK(low.problem.rows().value(0)[1] == 3.0);
  CHECK(low.problem.row_upper(0) == Approx(16.2));
  mip::Problem rounded = low.problem;
  REQUIRE(rounded.round_limits());
  CHECK(rounded.row_upper(0) == 16.0);  // only whole values can be taken
  CHECK(low.problem.row_exact(0));
  CHECK(low.problem.goal_step() == 1.0);
  CHECK(low.goal_scale == Rational(4));
  CHECK(low.to_user(Rational(4)) == Rational(101));
  CHECK(low.to_problem(101) == Rational(4));
}

TEST_CASE("maximising turns the sign inside and gives it back outside", "[model][lowering]") {
  Model m{"Sign"};
  const Decisions x = m.integer("x", {}, between(0, 9));
  m.maximize("gain", 3 * Expression(x) + 1);
  const Lowering low = lower(m.data());
  CHECK(low.problem.cost(0) < 0.0);
  CHECK(low.to_user(low.to_problem(28)) == Rational(28));
  CHECK(low.to_user(-INFINITY) == INFINITY);
}

TEST_CASE("rules that always hold are recorded and left out, impossible ones stay",
          "[model][lowering]") {
  Model m{"Trivial"};
  const Decisions x = m.integer("x", {}, between(0, 9));
  m.rule("always", Expression(x) - x <= 3);
  m.rule("never", Expression(x) - x >= 3);
  m.rule("parity", 2 * Expression(x) + 4 * Expression(x) == 7);
  const Lowering low = lower(m.data());
  REQUIRE(low.rows.size() == 3);
  CHECK(low.rows[0].always_holds);
  CHECK(low.rows[0].problem_row == -1);
  CHECK_FALSE(low.rows[1].always_holds);
  CHECK(low.problem.num_rows() == 2);
}

TEST_CASE("bounds are rounded outward, so that no value is lost", "[model][lowering]") {
  Model m{"Bounds"};
  (void)m.real("y", {}, between(Rational::ratio(1, 3), Rational::ratio(2, 3)));
  const Lowering low = lower(m.data());
  CHECK(Rational::exactly(low.problem.lower(0)) <= Rational::ratio(1, 3));
  CHECK(Rational::exactly(low.problem.upper(0)) >= Rational::ratio(2, 3));
}

TEST_CASE("an equation that no whole numbers meet is found without branching",
          "[model][lowering]") {
  Model m{"Parity"};
  const Decisions x = m.integer("x", {}, anything()), y = m.integer("y", {}, anything());
  m.rule("odd", 2 * Expression(x) + 4 * Expression(y) == 7);
  Lowering low = lower(m.data());
  CHECK_FALSE(low.problem.round_limits());
}

TEST_CASE("a plan meets the model exactly when its point meets the problem", "[model][lowering]") {
  Random random(61);
  for (int round = 0; round < 400; ++round) {
    Model m{"Random"};
    std::vector<Decision> x;
    for (int j = 0; j < 4; ++j) x.push_back(m.integer("x" + std::to_string(j), {}, between(-2, 3)));
    const auto figure_drawn = [&] {
      return Rational::ratio(random.between(-20, 20), random.between(1, 12));
    };
    for (int i = 0; i < 3; ++i) {
      Expression left, right;
      for (const Decision& d : x)
        (random.chance(0.7) ? left : right) += figure_drawn() * Expression(d);
      left += figure_drawn();
      right += figure_drawn();
      m.rule("r" + std::to_string(i), random.chance(0.2)
                                          ? left == right
                                          : (random.chance(0.5) ? left <= right : left >= right));
    }
    m.minimize("cost", figure_drawn() * Expression(x[0]) + figure_drawn() * Expression(x[1]) +
                           figure_drawn());
    const Lowering low = lower(m.data());
    for (int trial = 0; trial < 30; ++trial) {
      Plan plan(m);
      for (const Decision& d : x) plan.set(d, random.between(-3, 4));
      const PlanReport report = check(m, plan);
      REQUIRE(report.feasible == satisfies(low.problem, plan.values()));
      Rational goal = 0;
      for (std::size_t j = 0; j < x.size(); ++j)
        goal += Rational(low.problem.cost(static_cast<Index>(j))) * plan.values()[j];
      REQUIRE(low.to_user(goal) == *report.goal);
    }
  }
}

namespace {

const LoweringNote& note_of(const Lowering& l, const std::string& name) {
  for (const LoweringNote& n : l.notes)
    if (n.of == name) return n;
  FAIL("no note of " << name);
  return l.notes[0];
}

}  // namespace

TEST_CASE("convex costs and concave gains need no binaries, whatever else does",
          "[model][lowering]") {
  const Curve rising = Curve::tiers({{2, 4}, {5, 4}, {9}}),
              falling = Curve::tiers({{9, 4}, {5, 4}, {2}});
  const auto binaries = [&](const Curve& curve, bool minimize) {
    Model m{"Curves"};
    const auto x = m.integer("x", {}, between(0, 30));
    m.rule("some", x.only() >= 3);
    minimize ? m.minimize("goal", curve(x)) : m.maximize("goal", curve(x));
    const Lowering l = lower(m.data());
    return note_of(l, "goal").binaries;
  };
  CHECK(binaries(rising, true) == 0);
  CHECK(binaries(falling, false) == 0);
  CHECK(binaries(rising, false) > 0);
  CHECK(binaries(falling, true) > 0);
  // Both sides of an equation pull: then both are held.
  Model m{"Both"};
  const auto x = m.integer("x", {}, between(0, 30)), y = m.integer("y", {}, between(0, 200));
  m.rule("same", rising(x) == Expression(y));
  CHECK(note_of(lower(m.data()), "same").binaries > 0);
}

TEST_CASE("largest needs no binaries where it is kept small, and one for two where it is not",
          "[model][lowering]") {
  Model m{"Largest"};
  const auto x = m.integer("x", {}, between(0, 9)), y = m.integer("y", {}, between(0, 9));
  m.rule("small", largest({x, y}) <= 5);
  m.rule("big", largest({x, y}) >= 4);
  const Lowering l = lower(m.data());
  CHECK(note_of(l, "small").binaries == 0);
  CHECK(note_of(l, "big").binaries == 1);
}

TEST_CASE("logic over binaries becomes clauses and sums, with no bound at all",
          "[model][lowering]") {
  Model m{"Logic"};
  const auto a = m.binary("a"), b = m.binary("b"), c = m.binary("c");
  m.rule("needs", implies(a, b));
  m.rule("never", negated(all_of({a, b, c})));
  m.rule("chain", implies(any_of({a, b}), c));
  m.rule("two", at_most(1, {a, b, c}));
  const Lowering l = lower(m.data());
  CHECK(l.problem.num_columns() == 3);
  CHECK(note_of(l, "needs").clauses == 1);
  CHECK(note_of(l, "never").clauses == 1);
  CHECK(note_of(l, "chain").clauses == 2);
  for (const LoweringNote& n : l.notes) CHECK(n.largest_bound == Rational(0));
}

TEST_CASE("a guarded row gets the least bound that the data allow", "[model][lowering]") {
  Model m{"Guarded"};
  const auto open = m.binary("open");
  const auto ship = m.real("ship", {}, between(0, 40));
  const auto far = m.real("far", {}, from(0));
  m.rule("link", implies(negated(open), ship.only() <= 0));
  m.rule("least", implies(open, ship.only() >= 8));
  m.rule("wide", implies(open, far.only() <= 3));
  const Lowering l = lower(m.data());
  CHECK(note_of(l, "link").largest_bound == Rational(40));
  CHECK(note_of(l, "least").largest_bound == Rational(8));
  CHECK(note_of(l, "wide").conditional == 1);
  CHECK(mip::num_indicator_rows(l.problem) == 1);
}

TEST_CASE("parts that occur twice share a binary", "[model][lowering]") {
  Model m{"Shared"};
  const auto x = m.integer("x", {}, between(0, 9)), y = m.integer("y", {}, between(0, 9));
  const auto a = m.binary("a"), b = m.binary("b");
  const Condition large = x + Expression(y) >= 7, small = Expression(x) - y <= -2;
  m.rule("first", any_of({large, small, a}));
  m.rule("second", any_of({large, small, b}));
  CHECK(lower(m.data()).problem.num_columns() == 4 + 2);
}

TEST_CASE("many pieces are told apart by a code of few binaries", "[model][lowering]") {
  std::vector<Curve::Point> points;
  for (int x = 0; x <= 32; ++x) points.push_back({x, (x * 7) % 11});
  Model m{"Code"};
  const auto x = m.real("x", {}, between(0, 32));
  m.minimize("goal", Curve::through(points)(x));
  const Lowering l = lower(m.data());
  CHECK(note_of(l, "goal").binaries == 5);
}
