// Random models with logic, products, largest, curves and soft rules against plain enumeration. The
// oracle evaluates drawn trees of its own; nothing of the model layer but its interface is used.
#include <functional>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/solve.hpp"

using namespace kiteknot;

namespace {

using Values = std::vector<int>;

// The same thing twice: as the library's condition (expression), and as a plain function.
struct DrawnCondition {
  Condition stated;
  std::function<bool(const Values&)> holds;
};
struct DrawnExpression {
  Expression stated;
  std::function<Rational(const Values&)> value;
};

struct Draw {
  Random& random;
  std::vector<Decision> decisions;
  std::vector<int> most;  // decision k takes 0 .. most[k]
  bool bounded = true;    // or a rule says so, and the lowering has no bound to use

  int between(int a, int b) { return static_cast<int>(random.between(a, b)); }

  DrawnExpression sum(int terms) {
    DrawnExpression e{between(-2, 2), {}};
    std::vector<std::pair<int, int>> picked;
    const Rational constant = e.stated.constant();
    for (int k = 0; k < terms; ++k) {
      const int d = between(0, static_cast<int>(decisions.size()) - 1), c = between(-3, 3);
      e.stated += Expression(decisions[static_cast<std::size_t>(d)]) * Expression(c);
      picked.emplace_back(d, c);
    }
    e.value = [=](const Values& x) {
      Rational v = constant;
      for (const auto& [d, c] : picked) v += Rational(c * x[static_cast<std::size_t>(d)]);
      return v;
    };
    return e;
  }

  int binary_decision() { return between(0, 2); }

  Curve curve() {
    switch (between(0, 3)) {
      case 0:
        return Curve::tiers({{between(-2, 4), 2}, {between(-2, 4), 1}, {between(-2, 4)}},
                            between(0, 1) == 0 ? 0 : between(-3, 5));
      case 1:
        return Curve::all_units({{between(0, 5), 0}, {between(0, 5), 2}, {between(0, 5), 3}});
      case 2:  // with a jump
        return Curve::through(
            {{-20, between(-3, 3)}, {1, between(-4, 4)}, {1, between(-4, 4)}, {30, between(0, 9)}});
      default: {  // many pieces
        std::vector<Curve::Point> points;
        for (int x = -20; x <= 30; x += 5) points.push_back({x, between(-9, 9)});
        return Curve::through(points);
      }
    }
  }

  DrawnExpression expression(int depth) {
    const int kind = depth <= 0 ? 0 : between(0, bounded ? 6 : 5);
    if (kind == 0) return sum(between(1, 3));
    DrawnExpression a = sum(between(1, 3));
    switch (kind) {
      case 1: {
        const int d = binary_decision();
        const DrawnExpression b = expression(depth - 1);
        return {Expression(decisions[static_cast<std::size_t>(d)]) * b.stated,
                [=](const Values& x) {
                  return x[static_cast<std::size_t>(d)] ? b.value(x) : Rational(0);
                }};
      }
      case 2: {
        const DrawnExpression b = expression(depth - 1), c = sum(2);
        return {largest({a.stated, b.stated, c.stated}), [=](const Values& x) {
                  return std::max({a.value(x), b.value(x), c.value(x)});
                }};
      }
      case 3:
        return {absolute(a.stated), [=](const Values& x) { return a.value(x).abs(); }};
      case 4: {
        const DrawnCondition c = condition(depth - 1);
        return {truth_of(c.stated) * Expression(3) - a.stated,
                [=](const Values& x) { return Rational(c.holds(x) ? 3 : 0) - a.value(x); }};
      }
      case 5: {
        const DrawnExpression b = expression(depth - 1);
        return {smallest({a.stated, b.stated}),
                [=](const Values& x) { return std::min(a.value(x), b.value(x)); }};
      }
      default: {  // a curve over a sum that cannot be negative
        const Curve f = curve();
        const int d = between(0, static_cast<int>(decisions.size()) - 1);
        const int e = between(0, static_cast<int>(decisions.size()) - 1);
        return {f(Expression(decisions[static_cast<std::size_t>(d)]) +
                  Expression(decisions[static_cast<std::size_t>(e)]) * Expression(2)),
                [=](const Values& x) {
                  return f.at(x[static_cast<std::size_t>(d)] + 2 * x[static_cast<std::size_t>(e)]);
                }};
      }
    }
  }

  DrawnCondition comparison(int depth) {
    const DrawnExpression e = expression(depth);
    const int limit = between(-3, 4);
    switch (between(0, 3)) {
      case 0:
        return {e.stated <= limit, [=](const Values& x) { return e.value(x) <= Rational(limit); }};
      case 1:
        return {e.stated >= limit, [=](const Values& x) { return e.value(x) >= Rational(limit); }};
      case 2:
        return {e.stated == limit, [=](const Values& x) { return e.value(x) == Rational(limit); }};
      default:
        return {within(limit - 2, e.stated, limit), [=](const Values& x) {
                  return e.value(x) <= Rational(limit) && e.value(x) >= Rational(limit - 2);
                }};
    }
  }

  DrawnCondition condition(int depth) {
    if (depth <= 0 && between(0, 1) == 0) {
      const int d = binary_decision();
      return {decisions[static_cast<std::size_t>(d)],
              [=](const Values& x) { return x[static_cast<std::size_t>(d)] == 1; }};
    }
    if (depth <= 0) return comparison(0);
    const int kind = between(0, 8);
    if (kind <= 1) return comparison(between(0, 1));
    const DrawnCondition a = condition(depth - 1), b = condition(depth - 1);
    switch (kind) {
      case 2:
        return {negated(a.stated), [=](const Values& x) { return !a.holds(x); }};
      case 3:
        return {all_of({a.stated, b.stated}),
                [=](const Values& x) { return a.holds(x) && b.holds(x); }};
      case 4:
        return {any_of({a.stated, b.stated}),
                [=](const Values& x) { return a.holds(x) || b.holds(x); }};
      case 5:
        return {exclusive(a.stated, b.stated),
                [=](const Values& x) { return a.holds(x) != b.holds(x); }};
      case 6:
        return {implies(a.stated, b.stated),
                [=](const Values& x) { return !a.holds(x) || b.holds(x); }};
      case 7:
        return {same(a.stated, b.stated),
                [=](const Values& x) { return a.holds(x) == b.holds(x); }};
      default: {
        const DrawnCondition c = condition(depth - 1);
        const int n = between(0, 3), how = between(0, 2);
        const std::vector<Condition> all = {a.stated, b.stated, c.stated};
        return {how == 0   ? at_least(n, all)
                : how == 1 ? at_most(n, all)
                           : exactly(n, all),
                [=](const Values& x) {
                  const int held = int{a.holds(x)} + int{b.holds(x)} + int{c.holds(x)};
                  return how == 0 ? held >= n : how == 1 ? held <= n : held == n;
                }};
      }
    }
  }
};

}  // namespace

TEST_CASE("logic, products, largest and curves come out as enumeration says", "[model][logic]") {
  Random random(4711);
  int feasible = 0, infeasible = 0;
  for (int round = 0; round < 8000; ++round) {
    CAPTURE(round);
    Model m{"Drawn"};
    Draw draw{random, {}, {}, round % 4 != 0};
    for (int k = 0; k < 5; ++k) {
      const bool binary = k < 3;
      draw.most.push_back(binary ? 1 : draw.between(1, 3));
      draw.decisions.push_back(
          binary ? m.binary(fmt::format("b{}", k)).only()
                 : m.integer(fmt::format("n{}", k), {},
                             draw.bounded ? between(0, draw.most.back()) : from(0))
                       .only());
      if (!binary && !draw.bounded)
        m.rule(fmt::format("cap{}", k), draw.decisions.back() <= draw.most.back());
    }
    std::vector<DrawnCondition> rules;
    const int num_rules = draw.between(1, 3);
    for (int r = 0; r < num_rules; ++r) {
      rules.push_back(draw.condition(draw.between(1, 3)));
      m.rule(fmt::format("r{}", r), rules.back().stated);
    }
    // One rule in two may be missed at a price.
    const bool soft = draw.between(0, 1) == 0;
    const DrawnExpression limit = draw.sum(3);
    if (soft) {
      m.rule("soft", limit.stated <= 0);
      m.or_pay("soft", 2);
    }
    const DrawnExpression goal = draw.expression(2);
    const bool maximize = draw.between(0, 1) == 0;
    maximize ? m.maximize("goal", goal.stated) : m.minimize("goal", goal.stated);

    std::optional<Rational> best;
    Values x(5, 0);
    const auto visit = [&](const auto& self, std::size_t k) -> void {
      if (k < x.size()) {
        for (x[k] = 0; x[k] <= draw.most[k]; ++x[k]) self(self, k + 1);
        return;
      }
      for (const DrawnCondition& r : rules)
        if (!r.holds(x)) return;
      Rational value = goal.value(x);
      if (soft) {
        const Rational charge = std::max(limit.value(x), Rational(0)) * Rational(2);
        maximize ? value -= charge : value += charge;
      }
      if (!best || (maximize ? value > *best : value < *best)) best = value;
    };
    visit(visit, 0);

    const Result r = solve(m);
    INFO(r.reason);
    if (!best) {
      ++infeasible;
      REQUIRE(r.outcome == Outcome::infeasible);
      continue;
    }
    ++feasible;
    REQUIRE(r.outcome == Outcome::optimal);
    REQUIRE(r.goal() == *best);
    Values found;
    for (const Decision& d : draw.decisions) found.push_back(static_cast<int>(r[d].to_double()));
    for (const DrawnCondition& rule : rules) REQUIRE(rule.holds(found));
  }
  CHECK(feasible > 1000);
  CHECK(infeasible > 100);
}
