// Curves at their ends: jumps there, and arguments that are kept inside, wherever a curve stands.
#include <algorithm>

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
    for (std::int64_t k = 0; k < points || list.front().x.constant() == list.back().x.constant();
         ++k) {
      if (k > 0 && random.chance(0.7)) x += random.between(1, 3);
      list.push_back({x, random.between(-9, 9)});
      curve +=
          (k > 0 ? ", (" : "(") + std::to_string(x) + ", " + list.back().y.constant().text() + ")";
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

TEST_CASE("numbers in curves move them, wherever they stand", "[curve][numbers]") {
  const std::string text = R"(model "Hire"
number setup = 20
number block = 6
table days key day rows
 day, need
 sat, 12
 sun, 9
curve hire tiers: setup once, 9 each for first block, 7 each for next 2 * block
curve bulk all units: 4 below block, 3 from block
curve glow through (0, 0), (block, 30), (3 * block, 42)
number pair = hire(2)
decide lamps[d in days] integer 0 .. 40
maximize joy: total(4 * glow(lamps[d]) - hire(lamps[d]) - bulk(lamps[d]) over d in days) - pair
rule enough[d in days]: lamps[d] >= d.need
)";
  const Model m = model_of(text);
  CHECK(m.scenarios().empty());
  // Swept (warm) and set (cold) are the model with that figure written in.
  for (const bool which : {false, true}) {
    const std::string name = which ? "block" : "setup";
    const Variation v = sweep(m, {name, which ? 4 : 0, which ? 9 : 50, 6, false});
    REQUIRE(v.variants.size() == 6);
    for (const Variant& one : v.variants) {
      std::string written = text;
      const std::string was = which ? "block = 6" : "setup = 20";
      written.replace(written.find(was), was.size(), name + " = " + one.at.text());
      const Result fresh = solve(model_of(written));
      Model set = m;
      set.set(name, one.at);
      CAPTURE(name, one.at.text());
      REQUIRE(fresh.outcome == Outcome::optimal);
      CHECK(*one.goal == *fresh.report->goal);
      CHECK(*solve(set).report->goal == *fresh.report->goal);
      CHECK(*check(set, Plan(set, fresh.plan->values())).goal == *fresh.report->goal);
    }
  }
  Model wrong = m;
  wrong.set("block", -1);
  CHECK_THROWS_WITH(solve(wrong), Catch::Contains("as its numbers stand"));
  CHECK(refusal("model \"m\"\nnumber a = 5\nnumber b = 5\ncurve c all units: 4 below a, 3 from b\n"
                "decide x integer 0 .. 9\nminimize goal: c(x)\n")
            .find("these two figures differ") != std::string::npos);
  // In C++ a model states it first.
  Model own{"Own"};
  const Number rate = own.number("rate", 3);
  const Curve c = Curve::tiers({{Expression(rate), 4}, {2}});
  CHECK_THROWS_WITH(c.at(2), Catch::Contains("a model states it before"));
  const Curve stated = own.curve("c", c);
  CHECK(stated.at(5) == Rational(14));
  const Decisions x = own.integer("x", {}, between(0, 9));
  CHECK_THROWS_WITH(Curve::tiers({{Expression(x)}}), Catch::Contains("a decision stands in one"));
  Model other{"Other"};
  CHECK_THROWS_AS(other.curve("c", c), UsageError);
}

TEST_CASE("a curve's end that holds back the plan is told", "[curve][page]") {
  const Model m = model_of(R"(model "Ends"
curve glow through (2, 4), (6, 30)
decide lamps integer 0 .. 40
decide few integer 2 .. 40
maximize joy: glow(lamps) - glow(few)
)");
  const Result r = solve(m);
  CHECK(*r.report->goal == Rational(26));
  const std::string page = answer_page(r);
  INFO(page);
  CHECK(page.find("glow: lamps is 6, where the curve ends; more of that is not stated.") !=
        std::string::npos);
  CHECK(page.find("where the curve begins") == std::string::npos);  // few stops there by itself
  const auto remarks = worth_a_look(m);
  CHECK(std::any_of(remarks.begin(), remarks.end(), [](const Remark& remark) {
    return remark.text ==
           "glow is stated to 6 and used of what could be up to 40: its end is a "
           "limit like a rule";
  }));
}
