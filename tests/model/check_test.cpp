// Plans just inside and just outside of a rule, judged in exact arithmetic.
#include <catch2/catch.hpp>

#include "kiteknot/plan.hpp"
#include "kiteknot/result.hpp"

using namespace kiteknot;

TEST_CASE("whole decisions have no tolerance at all", "[model][check]") {
  // 0.1 x <= limit with x = 3: 0.3 exactly.
  for (const double distance : {1e-7, 1e-10, 1e-13}) {
    CAPTURE(distance);
    Model m{"Exact"};
    const Decisions x = m.integer("x", {}, between(0, 10));
    m.rule("outside", 0.1 * Expression(x) <= Rational(0.3) - Rational(distance));
    m.rule("inside", 0.1 * Expression(x) <= Rational(0.3) + Rational(distance));
    m.rule("on", 0.1 * Expression(x) <= 0.3);
    Plan plan(m);
    plan.set(x, 3);
    const PlanReport report = check(m, plan);
    CHECK_FALSE(report.feasible);
    CHECK_FALSE(report.rules[0].met);
    CHECK(report.rules[0].slack == -Rational(distance));
    CHECK(report.rules[1].met);
    CHECK_FALSE(report.rules[1].binding);
    CHECK(report.rules[2].met);
    CHECK(report.rules[2].binding);
    CHECK(report.num_missed() == 1);
    CHECK(report.largest_violation == Approx(distance));
  }
}

TEST_CASE("real decisions have 1e-9 relative to their terms, and the violation is told",
          "[model][check]") {
  const auto judged = [](double violation) {
    Model m{"Reals"};
    const Decisions x = m.real("x", {}, between(0, 1000));
    m.rule("cap", 2 * Expression(x) <= 200);
    Plan plan(m);
    plan.set(x, Rational(100) + Rational(violation) / 2);
    return check(m, plan);
  };
  // The largest term of a real decision is 200: the tolerance is 1e-9 x (1 + 200).
  CHECK_FALSE(judged(1e-6).feasible);
  CHECK_FALSE(judged(2.1e-7).feasible);
  CHECK(judged(1.9e-7).feasible);
  CHECK_FALSE(judged(1.9e-7).exact);
  CHECK(judged(1.9e-7).largest_violation == Approx(1.9e-7));
  CHECK(judged(1e-10).feasible);
  CHECK(judged(0.0).exact);
}

TEST_CASE("bounds and wholeness are part of the check", "[model][check]") {
  Model m{"Bounds"};
  const Decisions x = m.integer("x", {}, between(1, 3)), z = m.binary("z");
  Plan plan(m);
  plan.set(z, 0.9999999);
  const PlanReport report = check(m, plan);
  REQUIRE(report.faults.size() == 2);
  CHECK(report.faults[0].what == "is below 1");
  CHECK(report.faults[1].what == "is not whole");
  plan.set(x, 4);
  plan.set(z, 1);
  CHECK(check(m, plan).faults[0].what == "is above 3");
  CHECK_THROWS_AS(plan.set(x, Rational::infinity()), UsageError);
}

TEST_CASE("rules with decisions on both sides tell both", "[model][check]") {
  Model m{"Both"};
  const Decisions load = m.integer("load", {}, between(0, 50)), open = m.binary("open");
  m.rule("capacity", Expression(load) <= 40 * Expression(open));
  m.rule("even", 2 * Expression(load) == Expression(load) + 38 * Expression(open));
  Plan plan(m);
  plan.set(load, 38);
  plan.set(open, 1);
  const PlanReport report = check(m, plan);
  CHECK(report.feasible);
  CHECK(report.rules[0].two_sided);
  CHECK(report.rules[0].left == Rational(38));
  CHECK(report.rules[0].right == Rational(40));
  CHECK(report.rules[0].slack == Rational(2));
  CHECK(report.rules[1].binding);
}

TEST_CASE("the goal keeps the user's sense and constant, and rules switched off are left out",
          "[model][check]") {
  Model m{"Goal"};
  const Decisions x = m.integer("x", {}, between(0, 5));
  const Number cap = m.number("cap", 2);
  m.maximize("gain", 3 * Expression(x) - 7);
  m.rule("few", Expression(x) <= cap);
  Plan plan(m);
  plan.set(x, 4);
  CHECK(check(m, plan).goal == Rational(5));
  CHECK_FALSE(check(m, plan).feasible);
  m.set(cap, 4);
  CHECK(check(m, plan).feasible);
  m.set(cap, 1);
  m.without("few");
  CHECK(check(m, plan).feasible);
  CHECK(check(m, plan).rules.empty());
}
