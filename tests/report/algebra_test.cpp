// Expressions and conditions as they are read back, and why a condition fails.
#include "report/forms/algebra.hpp"

#include <catch2/catch.hpp>

using namespace kiteknot;

namespace {

// Blanks that hold terms together are plain ones on a page.
std::string plain(std::string text) {
  for (char& c : text)
    if (c == '\x1f') c = ' ';
  return text;
}

struct Small {
  Model m{"Small"};
  Decisions a = m.binary("a"), b = m.binary("b"), n = m.integer("n", {}, between(0, 9));
  Curve hire = m.curve("hire", Curve::tiers({{3, 4}, {2}}));
};

}  // namespace

TEST_CASE("terms that are no sums are told as they were stated", "[report][algebra]") {
  Small s;
  report::Algebra algebra(s.m.data());
  const auto text = [&](const auto& what) { return plain(algebra.text(what)); };
  CHECK(text(2 * Expression(s.n) - s.a + 3) == "-a + 2 n + 3");
  CHECK(text(largest({s.n, 4}) - 2 * smallest({s.n, 7})) == "max(n, 4) - 2 min(n, 7)");
  CHECK(text(absolute(Expression(s.n) - 5)) == "abs(n - 5)");
  CHECK(text(s.a * (Expression(s.n) + 2)) == "a * (n + 2)");
  CHECK(text(-s.hire(s.n)) == "-hire(n)");
  CHECK(text(implies(s.a, any_of({s.b, s.n >= 3}))) == "a implies (b or n >= 3)");
  CHECK(text(negated(all_of({s.a, s.b}))) == "not (a and b)");
  CHECK(text(same(s.a, negated(s.b))) == "a iff not b");
  CHECK(text(exactly(1, {s.a, s.b, within(2, s.n, 4)})) == "exactly 1 of (a, b, 2 <= n <= 4)");
  CHECK(text(exclusive(s.a, s.n == 0)) == "a xor n = 0");
}

TEST_CASE("the part of a condition that fails is named", "[report][algebra]") {
  Small s;
  report::Algebra algebra(s.m.data());
  const std::vector<Rational> plan = {1, 0, 5};
  const Evaluation at(s.m.data(), plan, false);
  const auto why = [&](const Condition& c) {
    REQUIRE_FALSE(at.is(c));
    return plain(algebra.why_not(c, at));
  };
  CHECK(why(implies(s.a, s.b)) == "a holds, but b is 0");
  CHECK(why(implies(s.a, s.n <= 3)) == "a holds, but n is 5, at most 3 is needed");
  CHECK(why(all_of({s.a, s.n >= 6})) == "n is 5, at least 6 is needed");
  CHECK(why(any_of({s.b, s.n >= 6})) == "none of its 2 ways: b is 0; n is 5, at least 6 is needed");
  CHECK(why(negated(s.a)) == "a is 1");
  CHECK(why(negated(s.n >= 3)) == "n >= 3 holds, and must not");
  CHECK(why(same(s.a, s.b)) == "a holds and b does not");
  CHECK(why(exclusive(s.a, s.n >= 1)) == "a and n >= 1 both hold");
  CHECK(why(at_least(2, {s.a, s.b})) == "only 1 holds (a), at least 2 must");
  CHECK(why(at_most(1, {s.a, s.n >= 1})) == "2 hold (a and n >= 1), at most 1 may");
  CHECK(why(at_least(1, {s.b, s.n <= 1})) == "none holds, at least 1 must");
}
