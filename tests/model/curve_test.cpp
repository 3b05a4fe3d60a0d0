// Curves by themselves: what they are worth at a place, and which words make none.
#include "kiteknot/curve.hpp"

#include <catch2/catch.hpp>

#include "kiteknot/model.hpp"
#include "model/evaluation.hpp"

using namespace kiteknot;

TEST_CASE("tiers add up, and a charge once falls due for anything above 0", "[model][curve]") {
  const Curve c = Curve::tiers({{120, 4}, {95, 6}, {80}}, 50);
  CHECK(c.at(0) == Rational(0));
  CHECK(c.at(Rational::ratio(1, 2)) == Rational(110));
  CHECK(c.at(4) == Rational(530));
  CHECK(c.at(10) == Rational(1100));
  CHECK(c.at(12) == Rational(1260));
  CHECK(c.from() == Rational(0));
  CHECK_FALSE(c.to().is_finite());
  const Curve ends = Curve::tiers({{3, 2}, {1, 2}});
  CHECK(ends.to() == Rational(4));
  CHECK_THROWS_WITH(ends.at(5), Catch::Contains("goes from 0 to 4"));
  CHECK_THROWS_WITH(ends.named("hire").at(-1), Catch::Contains("hire(-1)"));
}

TEST_CASE("one rate for all counts from its own place on", "[model][curve]") {
  const Curve c = Curve::all_units({{12, 0}, {8, 10}, {9, 20}});
  CHECK(c.at(9) == Rational(108));
  CHECK(c.at(10) == Rational(80));
  CHECK(c.at(19) == Rational(152));
  CHECK(c.at(20) == Rational(180));  // dearer, but said so
}

TEST_CASE("points are joined by lines, and at a jump the lower value counts", "[model][curve]") {
  const Curve up = Curve::through({{0, 0}, {4, 8}, {4, 20}, {6, 30}});
  CHECK(up.at(3) == Rational(6));
  CHECK(up.at(4) == Rational(8));
  CHECK(up.at(5) == Rational(25));
  const Curve down = Curve::through({{0, 0}, {4, 8}, {4, 2}, {6, 3}});
  CHECK(down.at(4) == Rational(2));
  CHECK(down.at(Rational::ratio(7, 2)) == Rational(7));
}

TEST_CASE("words that make no curve are refused", "[model][curve]") {
  CHECK_THROWS_WITH(Curve::tiers({}), Catch::Contains("at least one"));
  CHECK_THROWS_WITH(Curve::tiers({{3}, {4, 2}}), Catch::Contains("only the last tier"));
  CHECK_THROWS_WITH(Curve::tiers({{3, -2}}), Catch::Contains("-2 units wide"));
  CHECK_THROWS_WITH(Curve::all_units({{3, 1}}), Catch::Contains("counts from 0"));
  CHECK_THROWS_WITH(Curve::all_units({{3, 0}, {2, 5}, {1, 5}}), Catch::Contains("rising order"));
  CHECK_THROWS_WITH(Curve::through({{0, 1}}), Catch::Contains("two points"));
  CHECK_THROWS_WITH(Curve::through({{3, 1}, {2, 1}}), Catch::Contains("rising order"));
}

TEST_CASE("conditions and terms that are no sums have exact values under a plan",
          "[model][evaluation]") {
  Model m{"Values"};
  const auto a = m.binary("a"), b = m.binary("b");
  const auto n = m.integer("n", {}, between(0, 9));
  const Number k = m.number("k", 3);
  const Expression product = a * Expression(n) * Expression(k) + 1;
  const Expression spread = largest({n, 4}) - smallest({n, 4}) + absolute(Expression(n) - 6);
  const std::vector<Rational> plan = {1, 0, 7};
  const Evaluation at(m.data(), plan, false);
  CHECK(at.value(product) == Rational(22));
  CHECK(at.value(spread) == Rational(4));
  CHECK(at.value(truth_of(implies(a, b))) == Rational(0));
  CHECK(at.value(violation_of(within(1, n, 5))) == Rational(2));
  CHECK(at.value(violation_of(exclusive(a, b))) == Rational(0));
  CHECK(at.is(same(a, negated(b))));
  CHECK(at.is(at_most(1, {a, b, n >= 9})));
  CHECK_FALSE(at.is(at_least(2, {a, b, n >= 9})));
  CHECK(at.is(n == 7) != at.is(n == 7, false));
  // Constants fold, whatever they are made of.
  CHECK(largest({2, 5, 3}).constant() == Rational(5));
  CHECK(smallest({2, 5, 3}).constant() == Rational(2));
  CHECK(Curve::tiers({{2}})(7).constant() == Rational(14));
  CHECK_THROWS_WITH(largest({}), Catch::Contains("of nothing"));
  CHECK_THROWS_WITH(at_least(-1, {a}), Catch::Contains("negative"));
}

TEST_CASE("between reals the edge of a comparison belongs to both sides", "[model][evaluation]") {
  Model m{"Edges"};
  const auto x = m.real("x", {}, between(0, 9));
  const std::vector<Rational> edge = {5}, above = {6};
  CHECK(Evaluation(m.data(), edge, true).is(x <= 5));
  CHECK(Evaluation(m.data(), edge, true).is(x <= 5, false));
  CHECK_FALSE(Evaluation(m.data(), above, true).is(x <= 5));
}
