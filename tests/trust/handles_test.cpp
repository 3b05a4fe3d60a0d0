// Wrong handles are refused where they are used: nothing is read that is not there.
#include "base/random.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

TEST_CASE("plans, numbers and decisions of another model are refused", "[trust][handles]") {
  Model m{"One"}, n{"Two"};
  const Decisions x = m.binary("x");
  const Number k = m.number("k", 3);
  m.maximize("g", x);
  for (int i = 0; i < 9; ++i) (void)n.binary("y" + std::to_string(i));
  CHECK_THROWS_AS(check(n, Plan(m)), UsageError);
  CHECK_THROWS_AS(n.value(k), UsageError);
  CHECK_THROWS_AS(n.set(k, 1), UsageError);
  CHECK_THROWS_AS(n.rule("r", x <= k), UsageError);
  CHECK_THROWS_AS(n.name(x.only()), UsageError);
  CHECK_THROWS_AS(n.or_pay("r", k), UsageError);
  CHECK_THROWS_AS(Expression(x) + n.decision("y1"), UsageError);
}

TEST_CASE("what a copy states later is its own", "[trust][handles]") {
  Model first{"Same"};
  const Decisions x = first.binary("x");
  const Number k = first.number("k", 1);
  Model second = first;
  const Decisions late = first.binary("late");  // stated after the copy was made
  const Decisions other = second.integer("other", {}, between(0, 7));
  CHECK_THROWS_AS(second.rule("r", Expression(late) <= 0), UsageError);
  CHECK_THROWS_AS(first.rule("r", Expression(other) <= 0), UsageError);
  CHECK_THROWS_AS(Expression(late) + Expression(other), UsageError);
  first.rule("old", x + late <= k);  // what both know goes with either
  second.rule("old", x + other <= k);
  second.maximize("g", Expression(other) + x);
  first.maximize("g", Expression(late) + x);
  CHECK(solve(first).goal() == Rational(1));
  CHECK(solve(second).goal() == Rational(1));
  Model third = second;
  (void)third.binary("fresh");
  CHECK_THROWS_AS(check(second, Plan(third)), UsageError);
  Result before = solve(first);
  const Decisions later = first.binary("later");
  CHECK(before[x] + before[late] == Rational(1));
  CHECK_THROWS_AS(before[later], UsageError);
  CHECK_THROWS_AS(check(first, *before.plan), UsageError);
}

TEST_CASE("handles that were never stated, or were moved from, crash nothing", "[trust][handles]") {
  Model m{"One"};
  const Table t = Table::parse("t", "k\na\nb\n", {.key = {"k"}});
  Decisions x = m.binary("x", t);
  CHECK_THROWS_AS(x.member(2), UsageError);
  CHECK_THROWS_AS(x.member(-1), UsageError);
  CHECK_THROWS_AS(Expression(Decision{}), UsageError);
  CHECK_THROWS_AS(Expression(Number{}), UsageError);
  CHECK_THROWS_AS(m.rule("r", Condition(Decision{})), UsageError);
  CHECK_THROWS_AS(Rational::infinity() * Expression(x.member(0)), UsageError);
  CHECK_THROWS_AS(Rational::infinity() + Rational(1), UsageError);
  Expression e;
  CHECK_THROWS_AS(e.add(Rational::infinity(), x.member(0)), UsageError);
  CHECK_THROWS_AS(Plan(m)[99], UsageError);
  Model taken = std::move(m);
  const Decisions moved = std::move(x);
  CHECK(m.title() == "One");  // NOLINT: it is meant to stay usable
  CHECK(x["a"].id == moved["a"].id);
  taken.maximize("g", total(moved));
  CHECK(solve(taken).goal() == Rational(2));
}

TEST_CASE("only a yes-or-no decision stands for a condition", "[trust][handles]") {
  Model m{"One"};
  const Decisions x = m.integer("x", {}, between(0, 5)), y = m.binary("y"),
                  z = m.integer("z", {}, between(0, 1));
  const auto refused = Catch::Contains("x is not a yes-or-no decision");
  CHECK_THROWS_WITH(m.rule("r", implies(x, y)), refused);
  CHECK_THROWS_WITH(m.rule("r", negated(all_of({x, y}))), refused);
  CHECK_THROWS_WITH(m.rule("r", truth_of(x) <= 1), refused);
  CHECK_THROWS_WITH(m.maximize("g", truth_of(negated(x))), refused);
  m.rule("fine", implies(z, y));
  m.maximize("g", truth_of(z) - 2 * Expression(y) + 3);
  CHECK(solve(m).goal() == Rational(3));
}

TEST_CASE("a model that changes while it is solved is answered as it was", "[trust][handles]") {
  struct Meddler final : Observer {
    explicit Meddler(Model& model) : m(model) {}
    void better_plan(const Progress&, const Plan&) override {
      (void)m.binary("more" + std::to_string(++calls));
      m.rule("never" + std::to_string(calls), Expression(m.decision("x")) >= 2);
    }
    Model& m;
    int calls = 0;
  };
  Model m{"One"};
  const Decisions x = m.integer("x", {}, between(0, 9));
  m.maximize("g", x);
  m.rule("r", 2 * Expression(x) <= 9);
  Meddler meddler(m);
  const Result r = solve(m, {}, &meddler);
  CHECK(r.goal() == Rational(4));
  CHECK(meddler.calls > 0);
  CHECK(r.model().num_decisions() == 1);
}
