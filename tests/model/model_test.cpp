#include "kiteknot/model.hpp"

#include <catch2/catch.hpp>

#include "model/model_data.hpp"

using namespace kiteknot;

namespace {

const Table& shows() {
  static const Table kShows =
      Table::parse("shows", "show,crew,crowd\nnight glow,9,118\nsled race,7,88\ntea tent,4,52\n",
                   {{"show"}, {}});
  return kShows;
}
const Table& days() {
  static const Table kDays = Table::parse("days", "day,hours\nSat,8\nSun,6\n", {{"day"}, {}});
  return kDays;
}

}  // namespace

TEST_CASE("names come from the data, and quote keys that could be misread", "[model]") {
  Model m{"Festival"};
  const Decisions on = m.binary("on", {shows(), days()});
  CHECK(m.name(on(shows()["sled race"], days()["Sun"])) == "on[sled race, Sun]");
  CHECK(on.size() == 6);
  CHECK(m.decision("on[sled race, Sun]").id == on(shows()["sled race"], days()["Sun"]).id);
  CHECK(full_name("x", {"a, b", "say \"hi\""}) == "x[\"a, b\", \"say \"\"hi\"\"\"]");
  CHECK_THROWS_WITH(m.decision("on[sled rac, Sun]"),
                    Catch::Contains("no show 'sled rac'; nearest is 'sled race'"));
  CHECK_THROWS_WITH(m.decision("onn"), Catch::Contains("nearest is 'on'"));
}

TEST_CASE("keys with commas and quotes find their decision again", "[model]") {
  const Table odd =
      Table::parse("odd", "name\n\"a, b\"\n\"say \"\"hi\"\"\"\n plain \n", {{"name"}, {}});
  Model m{"Odd"};
  const Decisions x = m.binary("x", odd);
  for (std::int32_t i = 0; i < x.size(); ++i)
    CHECK(m.decision(m.name(x.member(i))).id == x.member(i).id);
}

TEST_CASE("a family over combinations keeps only those that its condition allows", "[model]") {
  Model m{"Festival"};
  Over over{shows(), days()};
  over.where = [](std::span<const Row> r) { return r[0].number("crew") <= r[1].number("hours"); };
  const Decisions on = m.binary("on", over);
  CHECK(on.size() == 3);  // sled race on Sat, tea tent on both
  CHECK_THROWS_WITH(on(shows()["night glow"], days()["Sat"]),
                    Catch::Contains("there is no on[night glow, Sat]"));
}

TEST_CASE("expressions collect terms, fold figures and keep numbers apart", "[model]") {
  Model m{"Sums"};
  const Decisions run = m.binary("run", shows());
  const Number k = m.number("k", 3);
  const Expression e = 2 * run["tea tent"] + k * run["tea tent"] - run["sled race"] / 4 + k * 5 - 1;
  Collector collector(m.data());
  const LinearForm form = collector.collect(e);
  CHECK(form.constant == Rational(14));
  REQUIRE(form.terms.size() == 2);
  CHECK(form.terms[0].coefficient == Rational::ratio(-1, 4));
  CHECK(form.terms[1].coefficient == Rational(5));
  m.set(k, 10);
  Collector later(m.data());
  CHECK(later.collect(e).terms[1].coefficient == Rational(12));
  CHECK(later.collect(e - e).terms.empty());
}

TEST_CASE("numbers may be computed from numbers and follow them", "[model]") {
  Model m{"Numbers"};
  const Number a = m.number("a", 4);
  const Number b = m.number("b", 2 * Expression(a) + 1);
  const Number c = m.number("c", 1 / Expression(b));
  CHECK(m.value(c) == Rational::ratio(1, 9));
  m.set("a", 7);
  CHECK(m.value(b) == Rational(15));
  m.set(b, 2);
  CHECK(m.value(c) == Rational::ratio(1, 2));
  CHECK_THROWS_WITH(m.set("aa", 1), Catch::Contains("nearest is 'a'"));
}

TEST_CASE("wrong statements throw with the names in them", "[model]") {
  Model m{"Festival"}, other{"Winter"};
  const Decisions run = m.binary("run", shows());
  const Decisions away = other.binary("away", shows());
  CHECK_THROWS_WITH(run["tea tent"] + Expression(away["tea tent"]),
                    Catch::Contains("Festival") && Catch::Contains("Winter"));
  CHECK_THROWS_WITH(m.rule("r", away["tea tent"] <= 1), Catch::Contains("Winter"));
  CHECK_THROWS_WITH(run[days()["Sat"]],
                    Catch::Contains("run is indexed by rows of shows, not of days"));
  CHECK_THROWS_WITH(run["tea tnt"], Catch::Contains("no show 'tea tnt'; nearest is 'tea tent'"));
  const Decisions boxes = m.integer("boxes", {}, between(0, 9));
  CHECK_THROWS_WITH(power(2, Expression(boxes)), Catch::Contains("exp(y * log(x))"));
  CHECK_THROWS_WITH(log(Expression(0)), Catch::Contains("the log of 0 has no value"));
  CHECK_THROWS_WITH(m.binary("run", days()), Catch::Contains("'run' is taken"));
  CHECK_THROWS_WITH(m.integer("n", {}, between(3, 2)), Catch::Contains("leave nothing"));
  CHECK_THROWS_WITH(m.number("free", run["tea tent"]), Catch::Contains("depend on a decision"));
  m.minimize("cost", run["tea tent"]);
  CHECK_THROWS_WITH(m.maximize("cost", 1), Catch::Contains("'cost' is taken"));
  CHECK_THROWS_WITH(m.yielding(-1), Catch::Contains("at least 0"));
  CHECK_THROWS_WITH(m.or_pay("none", 3), Catch::Contains("no rule 'none'"));
  m.rule("one", run["tea tent"] <= 1);
  CHECK_THROWS_WITH(m.rule("one", run["tea tent"] <= 1),
                    Catch::Contains("two rules with the name 'one'"));
  CHECK_THROWS_AS(Expression(INFINITY), UsageError);
  CHECK_THROWS_WITH(Expression(run), Catch::Contains("is a family over shows"));
}

TEST_CASE("a copy of a model does not see later changes, in either direction", "[model]") {
  Model m{"Festival"};
  const Decisions run = m.binary("run", shows());
  m.rule("first", run["tea tent"] <= 1);
  Model copy = m;
  copy.without("first");
  copy.rule("second", run["sled race"] <= 1);
  CHECK(m.data().rules.size() == 1);
  CHECK(m.data().rules_off.empty());
  CHECK(copy.data().rules.size() == 2);
  CHECK_THROWS_WITH(m.without("frist"), Catch::Contains("nearest is 'first'"));
}

TEST_CASE("comparisons put decisions on one side whatever way they were written", "[model]") {
  Model m{"Sides"};
  const Decisions x = m.integer("x", {}, between(0, 9)), y = m.integer("y", {}, between(0, 9));
  const auto lowered = [&](const Condition& c) {
    Collector collector(m.data());
    return linear_rule(collector, c);
  };
  const LinearRule a = lowered(3 >= Expression(x) + 1);
  CHECK(a.high == Rational(2));
  CHECK_FALSE(a.low.is_finite());
  const LinearRule b = lowered(Expression(x) + 2 == 3 * Expression(y) - 4);
  CHECK(b.low == Rational(-6));
  CHECK(b.high == Rational(-6));
  REQUIRE(b.terms.size() == 2);
  CHECK(b.terms[1].coefficient == Rational(-3));
  const LinearRule c = lowered(within(1, Expression(x) + Expression(y), 4));
  CHECK(c.low == Rational(1));
  CHECK(c.high == Rational(4));
  CHECK_THROWS_AS(lowered(within(Expression(y), Expression(x), 4)), UsageError);
}

TEST_CASE("every name is found among many, taken once, and free again when its goal is let go",
          "[model]") {
  Model m("names");
  for (int k = 0; k < 2000; ++k) {
    const std::string n = std::to_string(k);
    const Decision x = m.binary("x" + n).only();
    (void)m.number("n" + n, k);
    m.rule("r" + n, Expression(x) <= 1);
  }
  m.maximize("worth", m.decision("x7"));
  for (const char* taken : {"x1999", "n0", "worth"})
    CHECK_THROWS_WITH(m.binary(taken), Catch::Contains("taken already"));
  CHECK_THROWS_WITH(m.rule("r1234", Expression(m.decision("x0")) <= 1),
                    Catch::Contains("two rules with the name 'r1234'"));
  CHECK_THROWS_WITH(m.without("r2000"), Catch::Contains("no rule 'r2000'"));
  CHECK_THROWS_WITH(m.set("n2000", 1), Catch::Contains("no number 'n2000'"));
  CHECK_THROWS_WITH(m.decision("x2000"), Catch::Contains("no decision 'x2000'"));
  CHECK(m.name(m.decision("x1042")) == "x1042");
  m.set("n1042", 5);
  Model copy = m;
  copy.forget_goals();
  copy.minimize("worth", copy.decision("x1"));
  CHECK(copy.goal_name() == "worth");
  CHECK_THROWS_WITH(copy.minimize("worth", copy.decision("x1")), Catch::Contains("taken"));
  CHECK(m.goal_sense() == Sense::maximize);  // the original keeps its own
}
