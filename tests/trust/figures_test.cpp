// Figures computed from numbers count wherever a figure may stand.
#include "support/knot.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

TEST_CASE("functions of numbers have their value wherever a figure may stand", "[trust][figures]") {
  const std::string head =
      "number n = -6\nnumber m = 4\ncurve c through (-10, 100), (0, 0), (10, 100)\n"
      "decide x integer 0 .. 10\nmaximize g: x\n";
  for (const std::string rule :
       {"rule r: x <= abs(n)",
        "rule r: x <= max(n, 6)",
        "rule r: x <= min(m * m, 6)",
        "rule r: x <= c(n) / 10",
        "rule r: 0 <= x <= max(n, m) + 2",
        "rule r: abs(n) >= x",
        "rule r: x * max(n, m) <= 24",
        "rule r: x <= 1.5 * max(m, abs(n) - 3)",
        "rule r: not (x >= max(7, n))",
        "rule r: x <= 1 or x <= max(n, m) + 2",
        "rule r: x <= max(n, m) + min(2, m)",
        "rule r: x <= 6 + abs(n) * 0",
        "rule r: x <= largest(abs(n) over t in three)\ntable three key k rows\n  k\n  1",
        "let l = max(n, m)\nrule r: x <= l + 2",
        "number k = abs(n)\nrule r: x <= k",
        "number k = c(n)\nnumber j = max(k, m) / 10\nrule r: x <= j",
        "rule r: x = max(m, 6)",
        "rule r: x <= n * n / 6",
        "rule r: x <= 36 / abs(n)",
        "rule r: x / max(n, 2) <= 3"}) {
    INFO(rule);
    CHECK(proven(head + rule + "\n") == Rational(6));
  }
}

TEST_CASE("functions of numbers stand in bounds, goals and charges", "[trust][figures]") {
  const std::string numbers = "number n = -6\nnumber m = 4\n";
  CHECK(proven(numbers + "decide x integer 0 .. abs(n)\nmaximize g: x\n") == Rational(6));
  CHECK(proven(numbers + "decide x integer n .. min(n, m) + 9\nmaximize g: x\n") == Rational(3));
  CHECK(proven(numbers + "decide x integer 0 .. 2\nmaximize g: max(n, m) * x + abs(n)\n") ==
        Rational(14));
  CHECK(proven(numbers + "decide x integer 0 .. 9\nminimize g: x\n"
                         "rule r: x >= 3 or pay abs(n) / 12 each\n") == Rational::ratio(3, 2));
  CHECK(
      proven(numbers + "decide b binary\ndecide x real 0 .. 9\nmaximize g: max(n, m) * b * x\n") ==
      Rational(36));
}

TEST_CASE("a number set again moves what is computed from it", "[trust][figures]") {
  Model m = model_of(
      "number n = -6\nnumber k = max(n, 2)\ndecide x integer 0 .. 100\nmaximize g: x\n"
      "rule r: x <= abs(n) + k\n");
  for (const auto& [n, best] : {std::pair(-6, 8), {3, 6}, {0, 2}, {-50, 52}}) {
    m.set("n", n);
    CHECK(solve(m).goal() == Rational(best));
    Plan plan(m);
    plan.set(m.decision("x"), best);
    CHECK(check(m, plan).feasible);
    plan.set(m.decision("x"), best + 1);
    CHECK_FALSE(check(m, plan).feasible);
  }
  const Variation v = sweep(m, {"n", -9, 0, 10});
  for (const Variant& at : v.variants)
    CHECK(*at.goal == at.at.abs() + std::max(at.at, Rational(2)));
}

TEST_CASE("ranges may have decisions in their limits", "[trust][figures]") {
  const std::string head = "decide x integer 0 .. 9\ndecide y integer 0 .. 9\n";
  CHECK(proven(head + "maximize g: x + y\nrule r: x <= y <= 5\n") == Rational(10));
  CHECK(proven(head + "maximize g: y - x\nrule r: x <= y <= x + 3\n") == Rational(3));
  const Model m = model_of(head + "maximize g: x\nrule r: x <= y <= 5\n");
  Plan plan(m);
  plan.set(m.decision("x"), 1);
  plan.set(m.decision("y"), 4);
  CHECK(check(m, plan).feasible);
  plan.set(m.decision("y"), 6);
  CHECK_FALSE(check(m, plan).feasible);
}

TEST_CASE("figures of numbers may be as deep as a program makes them", "[trust][figures]") {
  Model m{"Deep"};
  const Number n = m.number("n", 1);
  Expression product = 1, least = n;
  for (int k = 0; k < 400'000; ++k) product *= n;
  for (int k = 0; k < 60; ++k) least = smallest({least, least + 1});  // shared, not copied
  const Decisions x = m.integer("x", {}, between(0, 10));
  m.maximize("g", x * product);
  m.rule("r", x <= least + 2);
  CHECK(solve(m).goal() == Rational(3));
}
