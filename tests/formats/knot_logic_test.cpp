// The Knot language beyond sums: logic, curves, ordered tables, pairs, goals in order. Models are
// read and judged under plans; what a statement means is said by the plans it lets through.
#include <fstream>

#include <catch2/catch.hpp>

#include "kiteknot/kiteknot.hpp"
#include "model/model_data.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

namespace {

Model read(const std::string& text) {
  const Reading<Model> r = parse_knot(text, "m.knot", "");
  INFO(r.notes().text());
  REQUIRE(r.ok());
  return r.value();
}

// The plans of n binaries a, b, c, ... that meet the rule, as numbers with bit 0 for a.
std::vector<int> met(const std::string& rule, int n = 3) {
  std::string text;
  for (int k = 0; k < n; ++k)
    text += std::string("decide ") + static_cast<char>('a' + k) + " binary\n";
  const Model m = read(text + "rule r: " + rule + "\n");
  std::vector<int> plans;
  for (int bits = 0; bits < (1 << n); ++bits) {
    Plan p(m);
    for (int k = 0; k < n; ++k)
      p.set(m.decision(std::string(1, static_cast<char>('a' + k))), (bits >> k) & 1);
    if (check(m, p).feasible) plans.push_back(bits);
  }
  return plans;
}

}  // namespace

TEST_CASE("words between conditions bind as the reference says", "[formats][knot][logic]") {
  using V = std::vector<int>;
  CHECK(met("a implies b", 2) == V{0, 2, 3});
  CHECK(met("not a and b", 2) == V{2});  // not binds before and
  CHECK(met("not (a and b)", 2) == V{0, 1, 2});
  CHECK(met("a or b and c") == V{1, 3, 5, 6, 7});  // and before or
  CHECK(met("(a or b) and c") == V{5, 6, 7});
  CHECK(met("a xor b or c") == met("(a xor b) or c"));
  CHECK(met("a or b implies c") == met("(a or b) implies c"));
  CHECK(met("a implies b implies c") == met("a implies (b implies c)"));
  CHECK(met("a iff b implies c") == met("a iff (b implies c)"));
  CHECK(met("a + b <= 1 implies c") == V{3, 4, 5, 6, 7});
  CHECK(met("exactly 1 of (a, b, c)") == V{1, 2, 4});
  CHECK(met("at least 2 of (a, b, c)") == V{3, 5, 6, 7});
  CHECK(met("at most 1 of (a, b and c)") == met("not (a and b and c)"));
  CHECK(met("a", 1) == V{1});
  CHECK(met("max(a, b) + min(b, c) = 1") == V{1, 2, 3, 5});
  CHECK(met("abs(a - b) >= 1", 2) == V{1, 2});
  CHECK(met("a * b + c <= 1") == V{0, 1, 2, 3, 4, 5, 6});
}

TEST_CASE("counts over rows, data in conditions, and rules that data decide", "[formats][knot]") {
  const std::string head =
      "table shows key show rows\n  show,size\n  glow,3\n  race,5\n  tea,1\n"
      "decide run[s in shows] binary\n";
  const auto feasible = [&](const std::string& rule, const std::string& chosen) {
    const Model m = read(head + rule + "\n");
    Plan p(m);
    for (const std::string name : {"glow", "race", "tea"})
      if (chosen.find(name) != std::string::npos) p.set(m.decision("run[" + name + "]"), 1);
    return check(m, p).feasible;
  };
  CHECK(feasible("rule r: at most 1 of (run[s] over s in shows where s.size >= 3)", "glow tea"));
  CHECK_FALSE(
      feasible("rule r: at most 1 of (run[s] over s in shows where s.size >= 3)", "glow race"));
  CHECK(feasible("rule r[s in shows]: s.size >= 5 implies run[s]", "race"));
  CHECK_FALSE(feasible("rule r[s in shows]: s.size >= 5 implies run[s]", "glow tea"));
  CHECK(feasible("rule r: largest(s.size * run[s] over s in shows) <= 3", "glow tea"));
  CHECK_FALSE(feasible("rule r: smallest(run[s] over s in shows) >= 1", "glow tea"));
  CHECK(feasible("rule r[s in shows]: run[s] <= if s.size > 2 then 1 else 0", "glow"));
  CHECK_FALSE(feasible("rule r[s in shows]: run[s] <= if s.size > 2 then 1 else 0", "tea"));
  CHECK(feasible("rule r: total(run[s] over s in shows) <= count(over s in shows where s.size > 2)",
                 "glow tea"));
  CHECK(feasible("rule r: shows has (\"glow\") and not shows has (\"pie\")", ""));
  CHECK(feasible("rule r: sqrt(9) + round(2.5) + floor(-0.5) + ceil(0.2) + max(1, 2) = 8", ""));
}

TEST_CASE("ordered tables know what is before and after", "[formats][knot]") {
  const std::string head =
      "table weeks key week ordered rows\n  week,need\n  w1,3\n  w2,4\n  w3,5\n"
      "decide make[w in weeks] integer 0 .. 20\n"
      "decide store[w in weeks] integer 0 .. 20\n";
  const Model m =
      read(head +
           "rule balance[w in weeks]: (if first(w) then 2 else store[before(w)]) + make[w] = "
           "w.need + store[w]\n"
           "rule end[w in weeks where last(w)]: store[w] = 0\n"
           "rule ahead[w in weeks where not last(w)]: make[w] >= after(w).need - w.need\n"
           "minimize made: total(make[w] over w in weeks)\n");
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal() == Rational(10));
  CHECK(m.data().rules[1]->index.count == 1);
  const Reading<Model> bad =
      parse_knot(head + "rule r[w in weeks]: store[before(w)] <= 3\nminimize x: store[\"w1\"]\n",
                 "m.knot", "");
  REQUIRE_FALSE(bad.ok());
  CHECK(bad.notes().text().find("nothing comes before w1, the first row of weeks") !=
        std::string::npos);
}

TEST_CASE("pairs and products are tables with keys of their own", "[formats][knot]") {
  const Model m = read(
      "table fields key field rows\n  field,km\n  cove,1\n  dune,3\n  reef,9\n"
      "table crews key crew rows\n  crew\n  red\n  blue\n"
      "table near pairs of fields where abs(a.km - b.km) <= 6\n"
      "table shifts product of crews, fields where fields.km < 5\n"
      "decide use[f in fields] binary\n"
      "decide go[s in shifts] binary\n"
      "rule apart[p in near]: at most 1 of (use[p.a], use[p.b])\n"
      "rule once[c in crews]: total(go[s] over s in shifts where s.crew = c) <= 1\n"
      "maximize all: total(use[f] over f in fields) + total(go[s] over s in shifts)\n");
  CHECK(m.data().rules[0]->index.count == 2);
  CHECK(m.num_decisions() == 3 + 4);
  CHECK(m.decision("go[red, dune]").id >= 0);
  CHECK(solve(m).goal() == Rational(4));
}

TEST_CASE("curves cost what their words say", "[formats][knot][curve]") {
  const auto value = [](const std::string& curve, const std::string& x) {
    const Model m =
        read(curve + "\ndecide n integer 0 .. 40\nrule at: n = " + x + "\nminimize cost: f(n)\n");
    const Result low = solve(m);
    REQUIRE(low.outcome == Outcome::optimal);
    Model up =
        read(curve + "\ndecide n integer 0 .. 40\nrule at: n = " + x + "\nmaximize cost: f(n)\n");
    CHECK(solve(up).goal() == low.goal());
    return low.goal();
  };
  const std::string tiers =
      "curve f tiers: 50 once, 120 each for first 4, 95 each for next 6, 80 each after";
  CHECK(value(tiers, "0") == Rational(0));
  CHECK(value(tiers, "1") == Rational(170));
  CHECK(value(tiers, "4") == Rational(530));
  CHECK(value(tiers, "7") == Rational(815));
  CHECK(value(tiers, "15") == Rational(50 + 480 + 570 + 400));
  const std::string units = "curve f all units: 120 below 10, 80 from 10, 70 from 20";
  CHECK(value(units, "9") == Rational(1080));
  CHECK(value(units, "10") == Rational(800));
  CHECK(value(units, "25") == Rational(1750));
  CHECK(value("curve f through (0, 0), (4, 60), (10, 96), (40, 96)", "7") == Rational(78));
  CHECK(value("table t key k rows\n  k,x,y\n  a,0,5\n  b,20,45\n  c,40,5\n"
              "curve f from t at x value y",
              "30") == Rational(25));
}

TEST_CASE("a real argument beside a jump that would pay is refused by name",
          "[formats][knot][curve]") {
  // From 10 all units cost more: just below 10 a plan would be better off.
  const Model m = read(
      "curve f all units: 5 below 10, 8 from 10\ndecide x real 0 .. 20\nrule much: x >= 10\n"
      "minimize cost: f(x)\n");
  CHECK_THROWS_WITH(solve(m), Catch::Contains("curve f jumps at 10 from 50 to 80"));
  CHECK(show_page(m).find("cost: curve f jumps at 10") != std::string::npos);
  const Model endless = read(
      "curve f tiers: 5 each for first 3, 2 each after\ndecide x integer 0 .. inf\n"
      "minimize cost: f(x) - x\n");
  CHECK_THROWS_WITH(solve(endless), Catch::Contains("x needs a finite bound"));
  const Model fine = read(
      "curve f all units: 8 below 10, 5 from 10\ndecide x real 0 .. 20\nrule much: x >= 9\n"
      "minimize cost: f(x)\n");
  CHECK(solve(fine).goal() == Rational(50));
  CHECK(solve(fine)[fine.decision("x")] == Rational(10));
}

TEST_CASE("decisions of listed values, and of nothing or at least some", "[formats][knot]") {
  const Model m = read(
      "decide size one of 4, 6, 9\ndecide boat real 0 or 2.5 .. 8\ndecide n integer 0 or 3 .. 5\n"
      "rule least: size + boat + n >= 12\n"
      "minimize cost: 3 * size + 2 * boat + n\n");
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal() == Rational(4 * 3 + 6 + 5));  // 4, 3, 5
  Plan p(m);
  p.set(m.decision("size"), 5);
  p.set(m.decision("boat"), 1);
  p.set(m.decision("n"), 2);
  const PlanReport report = check(m, p);
  REQUIRE(report.faults.size() == 3);
  CHECK(report.faults[0].what == "is none of 4, 6 and 9");
  CHECK(report.faults[1].what == "is below 2.5 without being 0");
  CHECK(report.faults[2].what == "is below 3 without being 0");
}

TEST_CASE("soft rules are paid for, rules that are off wait", "[formats][knot]") {
  const Model m = read(
      "decide n integer 0 .. 9\nrule few: n <= 3 or pay 4 each\nrule none off: n = 0\n"
      "maximize gain: 5 * n\n");
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal() == Rational(45 - 24));
  CHECK(r.report->rules.size() == 1);
  CHECK(r.report->rules[0].charge == Rational(24));
  Model with = m;
  with.with("none");
  CHECK(solve(with).goal() == Rational(0));
}

TEST_CASE("goals are met in order, and yield what they say", "[formats][knot][goals]") {
  const std::string text =
      "decide a integer 0 .. 10\ndecide b integer 0 .. 10\nrule room: a + b <= 12\n"
      "maximize first$: 3 * a + b\nminimize second: 2 * a + b\n";
  const auto with = [&](const std::string& yields) {
    std::string t = text;
    t.replace(t.find('$'), 1, yields);
    const Result r = solve(read(t));
    REQUIRE(r.outcome == Outcome::optimal);
    REQUIRE(r.goals.size() == 2);
    return r;
  };
  const Result strict = with("");
  CHECK(*strict.goals[0].value == Rational(32));
  CHECK(*strict.goals[1].value == Rational(22));
  CHECK(*strict.goals[1].alone == Rational(0));
  const Result loose = with(" yielding 25 %");
  CHECK(*loose.goals[0].value == Rational(24));
  CHECK(*loose.goals[0].reached == Rational(32));
  CHECK(answer_page(loose).find("first is 24. The best it can be is 32: it yields 8") !=
        std::string::npos);
  CHECK(
      answer_page(strict).find("Then second is 22; alone it could be 0, so what comes first costs "
                               "it 22.") != std::string::npos);
  CHECK(*loose.goals[1].value == Rational(16));
}

TEST_CASE("every example of the reference is read and has a plan", "[formats][knot][docs]") {
  std::ifstream file(KITEKNOT_DOCS_DIR "/language.md");
  REQUIRE(file);
  std::string line, example;
  int examples = 0;
  bool inside = false;
  while (std::getline(file, line)) {
    if (line == "```knot") {
      inside = true;
      example.clear();
    } else if (inside && line == "```") {
      inside = false;
      ++examples;
      INFO(example);
      const Result r = solve(read(example));
      INFO(r.reason);
      CHECK(r.outcome == Outcome::optimal);
      CHECK(r.report->feasible);
    } else if (inside) {
      example += line + "\n";
    }
  }
  CHECK(examples >= 3);
}

TEST_CASE("MPS written from every demo model reads back with the same optimum", "[formats][mps]") {
  for (const std::string name :
       {"programme", "crate", "stewards", "judges", "depots", "lamps", "cord"}) {
    CAPTURE(name);
    const Model stated = read_model(std::string(KITEKNOT_DEMO_DIR) + "/" + name + ".knot").value();
    const MpsText text = mps_text(stated);
    const Reading<Model> back = parse_mps(text.problem, name + ".mps");
    INFO(back.notes().text());
    REQUIRE(back.ok());
    const Result a = solve(stated), b = solve(back.value());
    REQUIRE(b.outcome == Outcome::optimal);
    CHECK(a.goal() == b.goal());
    CHECK(text.names.find("x1,") != std::string::npos);
  }
}

TEST_CASE("what MPS cannot say is refused with the reason", "[formats][mps]") {
  CHECK_THROWS_WITH(
      mps_text(read(
          "decide a binary\ndecide x real 0 .. inf\nrule r: a implies x <= 3\nminimize c: a\n")),
      Catch::Contains("has no bound"));
  CHECK_THROWS_WITH(mps_text(read("decide a binary\nminimize c: a\nmaximize d: a\n")),
                    Catch::Contains("2 goals in order"));
}

TEST_CASE("a condition over decisions without a bound is branched on, not given a big number",
          "[formats][knot][logic]") {
  const Model m = read(
      "decide a binary\ndecide x real 0 .. inf\ndecide y integer -inf .. inf\n"
      "rule r: a implies x <= 3\nrule s: not a implies y >= 10\nrule t: x >= 2 * y - 30\n"
      "rule u: x >= 5 or y <= 2\nmaximize c: 20 * a - x - y\nrule low: y >= -4\n");
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal() == Rational(24));  // a, x = 0, y = -4
}

TEST_CASE("every later goal tells its turn, and what it yields to whom", "[formats][knot]") {
  const Model m = test::model_of(
      "decide a integer 0 .. 10\ndecide b integer 0 .. 20\ndecide c integer 0 .. 20\n"
      "maximize first: a\nminimize second yielding 20 %: b\nmaximize third: c\n"
      "rule tie: b >= a - 5\nrule more: c <= b + 1\n");
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  const GoalResult& second = r.goals[1];
  CHECK(*second.value == Rational(6));
  CHECK(*second.reached == Rational(5));
  CHECK(*second.alone == Rational(0));
  REQUIRE(second.yielded.size() == 1);
  CHECK(second.yielded[0] == std::pair<std::string, Rational>("third", 1));
  CHECK(
      answer_page(r, {.width = 1000})
          .find("Then second is 6; alone it could be 0, in its turn it was 5, so what comes first "
                "costs it 5, and it yields 1 to third.") != std::string::npos);
  CHECK(result_document(r).find("\"yielded\"") != std::string::npos);
}
