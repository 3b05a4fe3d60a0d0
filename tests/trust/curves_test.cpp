// Curves at their ends: jumps there, and arguments that are kept inside, wherever a curve stands.
#include "base/random.hpp"
#include "support/knot.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

TEST_CASE("a jump at the first or last point of a curve counts", "[trust][curves]") {
  const Curve c = Curve::through({{0, 0}, {0, 50}, {4, 60}, {4, 10}});
  CHECK((c.at(0) == Rational(0) && c.at(1) == *Rational::parse("52.5") && c.at(4) == Rational(10)));
  const Curve middle = Curve::through({{0, 5}, {2, 9}, {2, 1}, {2, 7}, {3, 8}});
  CHECK(
      (middle.at(2) == Rational(1) && middle.at(Rational::ratio(5, 2)) == *Rational::parse("7.5")));
  CHECK_THROWS_AS(Curve::through({{1, 0}, {1, 2}}), UsageError);
  const std::string head =
      "curve c through (0, 0), (0, 50), (4, 60), (4, 10)\n"
      "decide x integer 0 .. 4\n";
  CHECK(proven(head + "minimize g: c(x)\n") == Rational(0));
  CHECK(proven(head + "minimize g: c(x)\nrule r: x >= 1\n") == Rational(10));
  CHECK(proven(head + "maximize g: c(x)\n") == *Rational::parse("57.5"));
  CHECK(proven(head + "minimize g: c(x) - 3*x\nrule r: x <= 3\n") == Rational(0));
}

TEST_CASE("a fixed charge by a jump at 0 with a real argument takes the stated side",
          "[trust][curves]") {
  const std::string text = "curve c through (0, 0), (0, 50), (4, 60)\ndecide x real 0 .. 4\n";
  CHECK(proven(text + "minimize g: c(x) - x\n") == Rational(0));
  CHECK(proven(text + "minimize g: c(x) - 20*x\n") == Rational(-20));
}

TEST_CASE("the argument of a curve is kept inside wherever the curve stands", "[trust][curves]") {
  const std::string head =
      "curve c through (0, 0), (10, 10)\ndecide x integer 0 .. 99\n"
      "decide d binary\n";
  const std::string goal = "maximize g: x\n";
  for (const char* rule :
       {"rule r: c(x) <= 20 or d", "rule r: d or c(x) <= 20", "rule r: d implies c(x) >= 3",
        "rule r: 0 * c(x) <= 1", "rule r: at least 1 of (d, c(x) <= 4)", "maximize h: c(x)",
        "minimize h: max(c(x), d)", "rule r: not (c(x) >= 11)", "rule r: d xor c(x) >= 4",
        "rule r: c(x) >= 5 or pay 3 each"}) {
    INFO(rule);
    const Model m = model_of(head + goal + rule + "\n");
    const Result r = solve(m);
    REQUIRE(r.outcome == Outcome::optimal);
    CHECK(r[m.decision("x")] == Rational(10));
    Plan plan(m);
    plan.set(m.decision("x"), 11);
    plan.set(m.decision("d"), 1);
    const PlanReport report = check(m, plan);
    CHECK_FALSE(report.feasible);
    REQUIRE(report.faults.size() == 1);
    CHECK(report.faults[0].what == "c(11) is not stated: the curve goes from 0 to 10");
  }
  Model off = model_of(head + goal + "rule r: c(x) <= 20 or d\n");
  off.without("r");
  CHECK(solve(off).goal() == Rational(99));
}

TEST_CASE("random curves with jumps anywhere, in any part, agree with trying all",
          "[trust][curves]") {
  Random random(99);
  for (int round = 0; round < 400; ++round) {
    std::string curve = "curve c through ";
    auto x = random.between(-3, 1);
    const auto points = random.between(2, 5);
    std::vector<Curve::Point> list;
    for (std::int64_t k = 0; k < points || list.front().x == list.back().x; ++k) {
      if (k > 0 && random.chance(0.7)) x += random.between(1, 3);
      list.push_back({x, random.between(-9, 9)});
      curve += (k > 0 ? ", (" : "(") + std::to_string(x) + ", " + list.back().y.text() + ")";
    }
    const Curve c = Curve::through(list);
    const auto low = random.between(-4, 0), high = low + random.between(0, 8);
    const auto slope = random.between(-3, 3), weight = random.between(-2, 2);
    const bool either = random.chance(0.5);
    const std::string text =
        curve + "\ndecide x integer " + std::to_string(low) + " .. " + std::to_string(high) +
        "\ndecide d binary\n" + (random.chance(0.5) ? "minimize" : "maximize") +
        " g: " + std::to_string(slope) + " * x + " + std::to_string(weight) + " * c(x) + 2 * d\n" +
        (either ? "rule r: c(x) <= 2 or d\n" : "rule r: c(x) - d >= -4\n");
    const bool least = text.find("minimize") != std::string::npos;
    std::optional<Rational> best;
    for (auto v = low; v <= high; ++v)
      for (int d = 0; d <= 1; ++d) {
        if (Rational(v) < c.from() || Rational(v) > c.to()) continue;
        const Rational y = c.at(v);
        if (either ? !(y <= Rational(2) || d == 1) : y - Rational(d) < Rational(-4)) continue;
        const Rational g = Rational(slope * v + 2 * d) + Rational(weight) * y;
        if (!best || (least ? g < *best : g > *best)) best = g;
      }
    const Result r = solve(model_of(text));
    INFO(text);
    REQUIRE(r.outcome == (best ? Outcome::optimal : Outcome::infeasible));
    if (best) REQUIRE(r.goal() == *best);
  }
}
