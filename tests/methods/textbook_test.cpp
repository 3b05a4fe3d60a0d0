// Every lowering of logic against its plain textbook form: one binary for each part of a condition,
// equivalent to it by generous bounds. The optimum must be the same, and the relaxation no weaker.
#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/solve.hpp"

using namespace kiteknot;

namespace {

class Textbook {
 public:
  explicit Textbook(Model model, int greatest) : model_(std::move(model)), greatest_(greatest) {}

  void require(const Condition& c) { rule(truth(c) >= 1); }
  [[nodiscard]] const Model& model() const { return model_; }

 private:
  void rule(const Condition& c) { model_.rule(fmt::format("t{}", ++rules_), c); }
  Expression binary() { return model_.binary(fmt::format("h{}", ++binaries_)).only(); }

  // The most that |e| can be, generously.
  int size(const Expression& e) const {
    Rational sum = e.constant().abs();
    for (const auto& t : e.terms()) sum += t.coefficient.abs() * Rational(greatest_);
    return static_cast<int>(sum.to_double()) + 1;
  }

  // 1 where e <= limit, else 0; all figures are whole.
  Expression at_most_truth(const Expression& e, int limit) {
    const Expression y = binary();
    const int bound = size(e) + std::abs(limit) + 1;
    rule(e <= limit + bound * (1 - y));
    rule(e >= limit + 1 - bound * y);
    return y;
  }
  Expression both(const Expression& a, const Expression& b) {
    const Expression y = binary();
    rule(y <= a);
    rule(y <= b);
    rule(y >= a + b - 1);
    return y;
  }
  Expression either(const Expression& a, const Expression& b) { return 1 - both(1 - a, 1 - b); }

  Expression truth(const Condition& c) {
    using K = Condition::Kind;
    const auto whole = [](const Expression& e) {
      return static_cast<int>(e.constant().to_double());
    };
    switch (c.kind) {
      case K::truth:
        return c.body;
      case K::compare: {
        Expression y = 1;
        if (c.has_high) y = at_most_truth(c.body, whole(c.high));
        if (c.has_low) {
          const Expression below = at_most_truth(-c.body, -whole(c.low));
          y = c.has_high ? both(y, below) : below;
        }
        return y;
      }
      case K::negation:
        return 1 - truth(c.parts[0]);
      case K::all:
        return both(truth(c.parts[0]), truth(c.parts[1]));
      case K::any:
        return either(truth(c.parts[0]), truth(c.parts[1]));
      case K::implies:
        return either(1 - truth(c.parts[0]), truth(c.parts[1]));
      case K::same:
      case K::exclusive: {
        const Expression a = truth(c.parts[0]), b = truth(c.parts[1]);
        const Expression alike = either(both(a, b), both(1 - a, 1 - b));
        return c.kind == K::same ? alike : 1 - alike;
      }
      case K::count: {
        Expression held = 0;
        for (const Condition& part : c.parts) held += truth(part);
        return both(at_most_truth(held, c.most), at_most_truth(-held, -c.least));
      }
      case K::tour:
        break;  // none is drawn
    }
    return 0;
  }

  Model model_;
  int greatest_, rules_ = 0, binaries_ = 0;
};

Condition draw(Random& random, const std::vector<Decision>& decisions, int depth) {
  const auto between = [&](int a, int b) { return static_cast<int>(random.between(a, b)); };
  const auto any_decision = [&](std::size_t among) {
    return decisions[static_cast<std::size_t>(between(0, static_cast<int>(among) - 1))];
  };
  if (depth == 0 && between(0, 1) == 0) return any_decision(4);
  if (depth == 0) {
    Expression e;
    for (int k = between(1, 3); k > 0; --k)
      e += any_decision(decisions.size()) * Expression(between(1, 3) * (between(0, 1) * 2 - 1));
    const int limit = between(-2, 3);
    switch (between(0, 2)) {
      case 0:
        return std::move(e) <= limit;
      case 1:
        return std::move(e) >= limit;
      default:
        return within(limit - 1, std::move(e), limit);
    }
  }
  Condition a = draw(random, decisions, depth - 1), b = draw(random, decisions, depth - 1);
  switch (between(0, 6)) {
    case 0:
      return negated(std::move(a));
    case 1:
      return all_of({std::move(a), std::move(b)});
    case 2:
      return any_of({std::move(a), std::move(b)});
    case 3:
      return implies(std::move(a), std::move(b));
    case 4:
      return same(std::move(a), std::move(b));
    case 5:
      return exclusive(std::move(a), std::move(b));
    default:
      return at_least(1 + between(0, 1), {std::move(a), std::move(b), draw(random, decisions, 0)});
  }
}

}  // namespace

TEST_CASE("the lowering of logic is as right as the textbook's and never weaker",
          "[logic][textbook]") {
  Random random(808);
  int compared = 0, tighter = 0;
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    Model plain{"Plain"};
    std::vector<Decision> decisions;
    for (int k = 0; k < 4; ++k) decisions.push_back(plain.binary(fmt::format("b{}", k)).only());
    for (int k = 0; k < 2; ++k)
      decisions.push_back(plain.integer(fmt::format("n{}", k), {}, between(0, 3)).only());
    Expression goal;
    for (const Decision& d : decisions)
      goal += Expression(static_cast<int>(random.between(-5, 5))) * Expression(d);
    plain.minimize("goal", goal);
    Model tight = plain;
    Textbook textbook(plain, 3);
    for (int r = static_cast<int>(random.between(1, 2)); r > 0; --r) {
      const Condition c = draw(random, decisions, static_cast<int>(random.between(1, 3)));
      tight.rule(fmt::format("r{}", r), c);
      textbook.require(c);
    }
    const Result a = solve(tight), b = solve(textbook.model());
    REQUIRE(a.outcome == b.outcome);
    if (a.outcome != Outcome::optimal) continue;
    REQUIRE(a.goal() == b.goal());
    if (!a.relaxed.value || !b.relaxed.value) continue;
    ++compared;
    CHECK(*a.relaxed.value >= *b.relaxed.value - 1e-6);
    tighter += *a.relaxed.value > *b.relaxed.value + 1e-6 ? 1 : 0;
  }
  CHECK(compared > 500);
  CHECK(tighter > compared / 4);
}
