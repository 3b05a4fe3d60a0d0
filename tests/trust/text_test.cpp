// Texts of any depth and length end with a model or a message.
#include "support/knot.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {
std::string repeated(const std::string& part, int times) {
  std::string all;
  for (int k = 0; k < times; ++k) all += part;
  return all;
}
}  // namespace

TEST_CASE("exponents of any size are figures or refused", "[trust][text]") {
  for (const char* text : {"1e-2147483648", "1.5e-2147483648", "1e2147483647", "1e-401", "1e401"})
    CHECK_FALSE(Rational::parse(text));
  CHECK(Rational::parse("1e-400"));
  CHECK(refusal("number n = 1e-2147483648\n").find("is not a figure") != std::string::npos);
}

TEST_CASE("a coefficient that no engine can hold is told with its place", "[trust][text]") {
  const std::string model = "decide x integer 0 .. 3\ndecide y real 0 .. 1\nmaximize g: x\n";
  CHECK_THROWS_WITH(
      solve(model_of(model + "rule q: x + 1e400 * y >= 1\n")),
      Catch::Contains("test.knot:4:") && Catch::Contains("rule q: a coefficient is not finite"));
  CHECK_THROWS_WITH(solve(model_of(model + "minimize h: x + 1e400 * y\n")),
                    Catch::Contains("test.knot:4:") && Catch::Contains("is not finite"));
  // Over whole decisions alone the sum is brought to figures that can be held.
  CHECK(proven("decide x integer 0 .. 3\nmaximize g: 1e400 * x\nrule r: 1e400 * x <= 2e400\n") ==
        *Rational::parse("2e400"));
}

TEST_CASE("long chains and deep nests are read or refused, never fatal", "[trust][text]") {
  const std::string x = "decide x binary\nmaximize g: x\n";
  for (const char* with : {" or x", " and x"}) {
    CHECK(proven(x + "rule r: x" + repeated(with, 4900) + "\n") == Rational(1));
    CHECK(refusal(x + "rule r: x" + repeated(with, 20'000) + "\n").find("in one chain") !=
          std::string::npos);
  }
  CHECK(refusal(x + "rule r: x" + repeated(" xor x", 5000) + "\n").find("in one chain") !=
        std::string::npos);
  CHECK(proven(x + "number n = 1" + repeated(" * 1", 4900) + "\nrule r: x <= n" +
               repeated(" / n", 4900) + "\n") == Rational(1));
  CHECK(refusal(x + "rule r: x" + repeated(" implies x", 5000) + "\n").find("deep") !=
        std::string::npos);
  for (const char* open : {"(", "not ", "-", "abs(", "if 1 = 1 then "})
    CHECK(refusal(x + "rule r: " + repeated(open, 100'000) + "x\n").find("deep") !=
          std::string::npos);
  // Nested as deep as is allowed, with a long sum on every level.
  std::string deep = "x";
  for (int level = 0; level < 30; ++level) deep = "(" + deep + repeated(" + x", 4000) + ")";
  CHECK(proven(x + "rule r: " + deep + " >= 0\n") == Rational(1));
}

TEST_CASE("conditions and functions nested by a program end with a word", "[trust][text]") {
  Model m{"Deep"};
  const Decisions x = m.integer("x", {}, between(0, 3)), b = m.binary("b");
  CHECK_THROWS_WITH(
      [&] {
        Condition c = b;
        for (int k = 0; k < 300'000; ++k) c = all_of({std::move(c), b});
      }(),
      Catch::Contains("more than 1000 deep"));
  CHECK_THROWS_WITH(
      [&] {
        Expression e = x;
        for (int k = 0; k < 300'000; ++k) e = largest({std::move(e), Expression(k)});
      }(),
      Catch::Contains("more than 1000 deep"));
  Condition c = b;
  Expression e = x;
  for (int k = 0; k < 900; ++k) {
    c = k % 2 == 0 ? any_of({std::move(c), Condition(b)}) : all_of({std::move(c), Condition(b)});
    e = largest({std::move(e), Expression(k % 2)});
  }
  m.rule("r", c);
  m.maximize("g", e);
  CHECK(solve(m).goal() == Rational(3));
}

TEST_CASE("products and sizes of decisions without limits end with an answer or a word",
          "[trust][text]") {
  const auto outcome = [](const std::string& text) {
    try {
      return std::string(word(solve(model_of(text), {.seconds = 20}).outcome));
    } catch (const UsageError& e) {
      return std::string(e.what());
    }
  };
  const std::string x = "decide x integer -inf .. inf\ndecide b binary\n";
  CHECK(outcome(x + "maximize g: abs(x - 7)\n") == "unbounded");
  CHECK(outcome(x + "maximize g: b * x\n") == "unbounded");
  CHECK(outcome(x + "minimize g: abs(x - 7) + b\n") == "optimal");
  CHECK(outcome("decide x real -inf .. inf\nmaximize g: max(x, 3)\n") == "unbounded");
  const Result far =
      solve(model_of("decide x integer 0 .. 1e400\nmaximize g: x\n"), {.seconds = 20});
  CHECK(far.outcome != Outcome::unbounded);
  CHECK(far.search.stopped_by.empty());
}
