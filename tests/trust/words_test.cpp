// Words that could mislead: comparisons that no row meets, unproven changes, relaxed answers.
#include "kiteknot/pages.hpp"
#include "support/knot.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {
bool has(const std::string& text, const std::string& part) {
  return text.find(part) != std::string::npos;
}
std::string notes_of(const std::string& text) {
  const Reading<Model> read = parse_knot(text, "test.knot", "");
  return read.notes().text();
}
const std::string kDays =
    "table days key day rows\n  day,kind\n  d1,sun\n  d2,rain\n"
    "table foods key food rows\n  food\n  soup\n"
    "table nutrients key nutrient rows\n  nutrient\n  salt\n"
    "table content key food in foods, nutrient in nutrients rows\n  food,nutrient,amount\n"
    "  soup,salt,3\n"
    "decide run[d in days] binary\nmaximize g: total(run[d] over d in days)\n";
}  // namespace

TEST_CASE("a comparison that no row can meet is told with the nearest text", "[trust][words]") {
  const std::string told =
      notes_of(kDays + "rule r[d in days where d.kind = \"Sun\"]: run[d] <= 0\n");
  CHECK(has(told, "days.kind and \"Sun\" are never the same; nearest is 'sun'"));
  CHECK(has(told, "rule r has no rows: nothing meets its 'where'"));
  CHECK(notes_of(kDays + "rule r[d in days where d.kind = \"sun\"]: run[d] <= 0\n").empty());
  CHECK(has(refusal(kDays + "rule r[n in nutrients]: total(c.amount over c in content "
                            "where c.food = n) <= 2\n"),
            "rows of different tables, foods and nutrients"));
}

TEST_CASE("a guarded neighbour is not looked for where there is none", "[trust][words]") {
  CHECK(proven("table weeks key week ordered rows\n  week\n  w1\n  w2\n  w3\n"
               "table stock key s rows\n  s,k\n  a,w1\n  b,w2\n"
               "decide x[r in stock] integer 0 .. 5\nmaximize g: total(x[r] over r in stock)\n"
               "rule r[w in weeks]: total(x[z] over z in stock where not first(w) and "
               "z.k = before(w)) <= 2\n") == Rational(4));
}

TEST_CASE("not not of a comparison is missed by 1", "[trust][words]") {
  const std::string head = "decide x integer 0 .. 9\nminimize g: x\n";
  CHECK(proven(head + "rule r: not not (x >= 5) or pay 2 each\n") == Rational(2));
  CHECK(proven(head + "rule r: x >= 5 or pay 2 each\n") == Rational(5));
}

TEST_CASE("scenarios change figures exactly", "[trust][words]") {
  const std::string text =
      "table t key k rows\n  k,c\n  a,1\n  b,2\ndecide x[r in t] integer 0 .. 3\n"
      "maximize g: total(3 * r.c * x[r] over r in t)\nscenario \"third\": scale t.c by 1 / 3\n"
      "scenario \"seventh\": set t[\"a\"].c = 1 / 7\n";
  CHECK(solve(model_of(text, "third")).goal() == Rational(9));
  CHECK(solve(model_of(text, "seventh")).goal() == Rational::ratio(9, 7) + Rational(18));
}

TEST_CASE("scenarios with other rows tell what they have and have not", "[trust][words]") {
  const auto with = [](const std::string& rows) {
    return model_of("table t key k rows\n  k,c\n" + rows +
                    "decide x[r in t] binary\nmaximize g: total(r.c * x[r] over r in t)\n");
  };
  const Model base = with("  a,1\n  b,2\n");
  for (const std::string& rows : {std::string("  a,1\n  new,7\n"), std::string("  new,7\n")}) {
    const Variation v = compare_scenarios(base, {{"other", with(rows)}});
    const std::string page = variation_page(base, v);
    INFO(page);
    CHECK(has(page, "takes x[new]"));
    CHECK(has(page, "has no "));
    CHECK(has(page, "x[b]"));
    CHECK(has(variation_document(base, v), "x[new]"));
  }
}

TEST_CASE("a change from or to an unproven answer is a range", "[trust][words]") {
  Variation v;
  v.kind = Variation::Kind::rules;
  const Model m = model_of("decide x integer 0 .. 9\nmaximize g: x\nrule r: x <= 5\n");
  v.base.name = "as it stands";
  v.base.outcome = Outcome::unproven;
  v.base.goal = Rational(790);
  v.base.bound = 795.0;
  Variant one = v.base;
  one.name = "r";
  one.outcome = Outcome::optimal;
  one.goal = Rational(793);
  one.bound = 793.0;
  v.variants = {one};
  const std::string page = variation_page(m, v);
  INFO(page);
  CHECK(has(page, "0 to +3"));
  CHECK_FALSE(has(page, "  +3"));
  CHECK(has(variation_csv(v), "r,optimal,793,,"));
}

TEST_CASE("relaxed answers are told as relaxed", "[trust][words]") {
  const Model m = model_of("decide x integer 0 .. 9\nmaximize g: x\nrule r: 2 * x <= 9\n");
  const Result r = solve_relaxed(m);
  CHECK_FALSE(r.relaxed.integral);
  CHECK(solve_relaxed(model_of("decide x integer 0 .. 9\nmaximize g: x\n")).relaxed.integral);
  CHECK(has(result_document(r), "\"integral\": false"));
  CHECK(parse_answer(saved_answer(r, {}), "a.json").value().outcome == "optimal, relaxed");
}

TEST_CASE("documents give exact values beyond the doubles", "[trust][words]") {
  const Result big = solve(model_of("decide b binary\nmaximize g: 9007199254740993 * b\n"));
  CHECK(has(result_document(big), "9007199254740993"));
  const Result third = solve(model_of("decide x real 0 .. 9\nmaximize g: x\nrule r: 3 * x <= 1\n"));
  CHECK(has(result_document(third), "\"exact\": \"1/3\""));
}

TEST_CASE("prices of limits and of decisions' own limits add up to the goal", "[trust][words]") {
  const Model m = model_of(
      "decide x real 0 .. 4\ndecide y real 0 .. 9\n"
      "maximize minutes: 5 * x + 3 * y\nrule hall: x + y <= 10\n");
  const Result r = solve(m);
  CHECK(r.goal() == Rational(38));
  const std::string page = answer_page(r);
  INFO(page);
  CHECK(has(page, "What the decisions' own limits are worth\n  x   one more changes minutes by 2"));
  CHECK(has(page, "one more changes minutes by 3"));
}

TEST_CASE("explain sees an endless goal behind conditions", "[trust][words]") {
  const auto outcome = [](const std::string& text) {
    const Model m = model_of(text);
    return std::pair(explain(m).outcome, solve(m).outcome);
  };
  for (const char* text : {"decide x integer -inf .. inf\nmaximize g: abs(x - 7)\n",
                           "decide x real -inf .. inf\nmaximize g: max(x, 3)\n",
                           "decide x integer -inf .. inf\ndecide b binary\nmaximize g: b * x\n"}) {
    INFO(text);
    CHECK(outcome(text) == std::pair(Outcome::unbounded, Outcome::unbounded));
  }
}
