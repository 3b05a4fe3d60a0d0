#include "model/lowering.hpp"

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/plan.hpp"

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
