// The same random model said in three ways (C++, Knot, MPS) is the same model; random expressions
// in the language mean what rational arithmetic says.
#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

// A random arithmetic expression over x, y (decisions) and figures, with its value at a given plan.
struct Spoken {
  std::string text;
  Rational value;
  bool decides = false;
};

Spoken speak(Random& random, int depth, const Rational& x, const Rational& y) {
  if (depth == 0 || random.chance(0.2)) {
    switch (random.between(0, 3)) {
      case 0:
        return {"x", x, true};
      case 1:
        return {"y", y, true};
      default: {
        const Rational figure = Rational::ratio(random.between(0, 400), 8);
        return {figure.text(), figure, false};
      }
    }
  }
  const Spoken a = speak(random, depth - 1, x, y), b = speak(random, depth - 1, x, y);
  switch (random.between(0, 4)) {
    case 0:
      return {"(" + a.text + " + " + b.text + ")", a.value + b.value, a.decides || b.decides};
    case 1:
      return {a.text + " - (" + b.text + ")", a.value - b.value, a.decides || b.decides};
    case 2:
      return {"-(" + a.text + ")", -a.value, a.decides};
    case 3:
      if (a.decides && b.decides) return a;
      return {"(" + a.text + ") * (" + b.text + ")", a.value * b.value, a.decides || b.decides};
    default:
      if (b.decides || b.value.is_zero()) return a;
      return {"(" + a.text + ") / (" + b.text + ")", a.value / b.value, a.decides};
  }
}

}  // namespace

TEST_CASE("random expressions mean what rational arithmetic says", "[formats][knot]") {
  Random random(401);
  for (int round = 0; round < 800; ++round) {
    const Rational x = random.between(-9, 9), y = Rational::ratio(random.between(-40, 40), 8);
    const Spoken spoken = speak(random, 4, x, y);
    CAPTURE(spoken.text);
    const Model m = parse_knot("decide x integer -9 .. 9\ndecide y real -9 .. 9\nminimize value: " +
                                   spoken.text + "\n",
                               "m.knot")
                        .value();
    Plan plan(m);
    plan.set(m.decision("x"), x);
    plan.set(m.decision("y"), y);
    CHECK(check(m, plan).goal == spoken.value);
  }
}

TEST_CASE("one random model in C++, Knot and MPS has one optimum and one set of plans",
          "[formats]") {
  Random random(402);
  int solved = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const int n = static_cast<int>(random.between(1, 5)),
              rules = static_cast<int>(random.between(1, 4));
    const bool maximize = random.chance(0.5);
    Model direct{"Agreement"};
    std::string knot = "model \"Agreement\"\n", rows, columns, right, bounds;
    std::vector<Decision> x;
    std::vector<std::string> column(static_cast<std::size_t>(n));
    Expression goal;
    std::string knot_goal;
    for (int j = 0; j < n; ++j) {
      const std::string name = "x" + std::to_string(j);
      const auto low = random.between(-3, 1), high = low + random.between(0, 4);
      const bool integer = random.chance(0.7);
      x.push_back(integer ? direct.integer(name, {}, between(low, high)).only()
                          : direct.real(name, {}, between(low, high)).only());
      knot += "decide " + name + (integer ? " integer " : " real ") + std::to_string(low) + " .. " +
              std::to_string(high) + "\n";
      bounds += std::string(integer ? " LI" : " LO") + " B " + name + " " + std::to_string(low) +
                "\n" + (integer ? " UI" : " UP") + " B " + name + " " + std::to_string(high) + "\n";
      const Rational c = Rational::ratio(random.between(-30, 30), 4);
      goal += c * Expression(x.back());
      knot_goal += " + " + c.text() + " * " + name;
      column[static_cast<std::size_t>(j)] += " " + name + " goal " + c.text() + "\n";
    }
    for (int i = 0; i < rules; ++i) {
      const std::string name = "r" + std::to_string(i);
      Expression body;
      std::string text = "0";
      for (int j = 0; j < n; ++j) {
        const Rational a = Rational::ratio(random.between(-20, 20), 5);
        body += a * Expression(x[static_cast<std::size_t>(j)]);
        text += " + " + a.text() + " * x" + std::to_string(j);
        column[static_cast<std::size_t>(j)] +=
            " x" + std::to_string(j) + " " + name + " " + a.text() + "\n";
      }
      const Rational limit = Rational::ratio(random.between(-10, 30), 4);
      const auto kind = random.between(0, 8);  // equations seldom
      direct.rule(name, kind == 0
                            ? body == Expression(limit)
                            : (kind < 5 ? body <= Expression(limit) : body >= Expression(limit)));
      knot += "rule " + name + ": " + text + (kind == 0 ? " = " : (kind < 5 ? " <= " : " >= ")) +
              limit.text() + "\n";
      rows += std::string(" ") + (kind == 0 ? "E" : (kind < 5 ? "L" : "G")) + " " + name + "\n";
      right += " RHS " + name + " " + limit.text() + "\n";
    }
    knot += std::string(maximize ? "maximize" : "minimize") + " goal: 0" + knot_goal + "\n";
    maximize ? direct.maximize("goal", goal) : direct.minimize("goal", goal);
    std::string mps = std::string("NAME Agreement\nOBJSENSE\n ") + (maximize ? "MAX" : "MIN") +
                      "\nROWS\n N goal\n" + rows + "COLUMNS\n";
    for (const std::string& c : column) mps += c;
    mps += "RHS\n" + right + "BOUNDS\n" + bounds + "ENDATA\n";
    INFO(knot << mps);
    const Model from_knot = parse_knot(knot, "m.knot").value(),
                from_mps = parse_mps(mps, "m.mps").value();
    const Result a = solve(direct), b = solve(from_knot), c = solve(from_mps);
    REQUIRE(a.outcome == b.outcome);
    REQUIRE(a.outcome == c.outcome);
    for (int trial = 0; trial < 10; ++trial) {
      std::vector<Rational> values;
      for (int j = 0; j < n; ++j) values.emplace_back(random.between(-3, 5));
      const PlanReport p = check(direct, Plan(direct, values)),
                       q = check(from_knot, Plan(from_knot, values)),
                       s = check(from_mps, Plan(from_mps, values));
      CHECK(p.feasible == q.feasible);
      CHECK(p.feasible == s.feasible);
      CHECK(p.goal == q.goal);
      CHECK(p.goal == s.goal);
    }
    if (!a.has_plan()) continue;
    ++solved;
    CHECK(a.goal() == b.goal());
    CHECK(a.goal() == c.goal());
    CHECK(check(direct, Plan(direct, b.plan->values())).feasible);
  }
  CHECK(solved > 40);
}

TEST_CASE("plans survive being written and read, thirds included", "[formats]") {
  const Model m = parse_knot(
                      "decide x real 0 .. 9\ndecide n integer 0 .. 9\nmaximize g: x + n\nrule a: 3 "
                      "* x + n <= 7\nrule b: n <= 2.5\n",
                      "m.knot")
                      .value();
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal() == Rational::ratio(11, 3));
  CHECK(r.report->exact);
}
