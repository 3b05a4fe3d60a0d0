// Prices and stretches against solving again: inside a stretch the price holds and the plan stays,
// beyond its ends they do not.
#include <cmath>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "lp/simplex.hpp"
#include "support/random_programs.hpp"

using namespace kiteknot;

namespace {

struct Drawn {
  Model model{"Prices"};
  std::vector<Number> limits, coefficients;
  std::vector<Decision> x;
};

Drawn draw(Random& random) {
  Drawn d;
  Expression goal;
  for (int j = 0; j < 4; ++j) {
    const std::string name = "x" + std::to_string(j);
    d.x.push_back(d.model.real(name, {}, between(0, random.between(3, 9))));
    d.coefficients.push_back(
        d.model.number("c" + std::to_string(j), Rational::ratio(random.between(10, 90), 7)));
    goal += Expression(d.coefficients.back()) * Expression(d.x.back());
  }
  for (int i = 0; i < 3; ++i) {
    Expression sum;
    for (const Decision& x : d.x) sum += Rational::ratio(random.between(1, 40), 9) * Expression(x);
    d.limits.push_back(
        d.model.number("limit" + std::to_string(i), Rational::ratio(random.between(100, 400), 11)));
    d.model.rule("rule" + std::to_string(i), sum <= Expression(d.limits.back()));
  }
  if (random.chance(0.5))
    d.model.maximize("gain", goal);
  else
    d.model.minimize("loss", -goal);  // the same plan, every sign turned
  return d;
}

double goal_after(Model m, const Number& n, double value) {
  m.set(n, Rational(value));
  return solve(m).goal().to_double();
}

}  // namespace

TEST_CASE("a price holds within its stretch and changes beyond it", "[methods][sensitivity]") {
  Random random(101);
  int ends = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random);
    const Result r = solve(d.model);
    REQUIRE(r.outcome == Outcome::optimal);
    REQUIRE(r.relaxed.limit_stretches.size() == 3);
    if (r.relaxed.degenerate) continue;
    const double goal = r.goal().to_double();
    for (std::size_t i = 0; i < 3; ++i) {
      const double price = r.relaxed.shadow_prices[i], now = d.model.value(d.limits[i]).to_double();
      const Stretch s = r.relaxed.limit_stretches[i];
      if (!r.report->rules[i].binding) {
        CHECK(price == Approx(0.0).margin(1e-9));
        continue;
      }
      for (const double end : {s.from, s.to}) {
        if (std::isinf(end)) continue;
        const double inside = now + 0.9 * (end - now), outside = end + 0.5 * (end - now);
        CHECK(goal_after(d.model, d.limits[i], inside) ==
              Approx(goal + price * (inside - now)).epsilon(1e-9));
        if (outside < 0.0 || std::abs(end - now) < 1e-6) continue;
        ++ends;
        CHECK(std::abs(goal_after(d.model, d.limits[i], outside) -
                       (goal + price * (outside - now))) > 1e-9);
      }
    }
  }
  CHECK(ends > 50);
}

TEST_CASE("rules with decisions on both sides have stretches of their right side's change",
          "[methods][sensitivity]") {
  Random random(102);
  int ends = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    Model m{"Both sides"};
    const auto x = m.real("x", {}, between(0, 9)), y = m.real("y", {}, between(0, 9)),
               z = m.real("z", {}, between(0, random.between(2, 9)));
    const Number more = m.number("more", 0);
    const auto figure = [&] { return Rational::ratio(random.between(5, 60), 7); };
    const bool at_least = random.chance(0.5);
    const Expression left = figure() * Expression(x) + figure() * Expression(y),
                     right = figure() * Expression(z) + Expression(more);
    m.rule("both", at_least ? right >= left : left <= right);
    m.rule("room", figure() * Expression(x) + figure() * Expression(z) <= 20);
    m.maximize("gain", figure() * Expression(x) + figure() * Expression(y) -
                           Rational::ratio(random.between(1, 20), 9) * Expression(z));
    const Result r = solve(m);
    REQUIRE(r.outcome == Outcome::optimal);
    const RuleValue& v = r.report->rules[0];
    REQUIRE(v.two_sided);
    if (r.relaxed.degenerate || !v.binding) continue;
    const double price = r.relaxed.shadow_prices[0], goal = r.goal().to_double();
    const Stretch s = r.relaxed.limit_stretches[0];
    // "right >= left" is read as it stands: its own right side is the one of x and y.
    for (const double end : {s.from, s.to}) {
      if (std::isinf(end)) continue;
      const double inside = 0.9 * end;
      ++ends;
      CHECK(goal_after(m, more, at_least ? -inside : inside) ==
            Approx(goal + price * inside).epsilon(1e-9));
    }
    CHECK(answer_page(r).find("one more on its right side changes gain by") != std::string::npos);
  }
  CHECK(ends > 100);
}

TEST_CASE("a plan stays while a coefficient is within its stretch and not beyond",
          "[methods][sensitivity]") {
  Random random(102);
  int ends = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random);
    const Result r = solve(d.model);
    REQUIRE(r.relaxed.coefficient_stretches.size() == 4);
    if (r.relaxed.degenerate) continue;
    const double turn = r.goals[0].sense == Sense::maximize ? 1.0 : -1.0;
    for (std::size_t j = 0; j < 4; ++j) {
      const Stretch s = r.relaxed.coefficient_stretches[j];
      const double now = d.model.value(d.coefficients[j]).to_double();
      CHECK(r.relaxed.coefficients[j] == Approx(turn * now));
      CHECK(s.from <= turn * now + 1e-9);
      CHECK(s.to >= turn * now - 1e-9);
      const double x = r[d.x[j]].to_double(), goal = r.goal().to_double();
      for (const double end : {turn * s.from, turn * s.to}) {
        if (std::isinf(end) || std::abs(end - now) < 1e-6) continue;
        const double inside = now + 0.9 * (end - now), outside = now + 1.5 * (end - now);
        // The old plan's own value under the new coefficient.
        CHECK(goal_after(d.model, d.coefficients[j], inside) ==
              Approx(goal + turn * (inside - now) * x).epsilon(1e-9));
        ++ends;
        CHECK(std::abs(goal_after(d.model, d.coefficients[j], outside) -
                       (goal + turn * (outside - now) * x)) > 1e-9);
      }
    }
  }
  CHECK(ends > 100);
}

TEST_CASE("degenerate plans say so", "[methods][sensitivity]") {
  Model m{"Corner"};
  const Decisions x = m.real("x", {}, from(0)), y = m.real("y", {}, from(0));
  m.maximize("gain", Expression(x) + Expression(y));
  m.rule("a", Expression(x) + Expression(y) <= 2);
  m.rule("b", Expression(x) <= 2);
  m.rule("c", Expression(x) + 2 * Expression(y) <= 2);
  const Result r = solve(m);
  CHECK(r.relaxed.degenerate);
  CHECK(answer_page(r).find("may hold in one direction only") != std::string::npos);
}

TEST_CASE("rows of the tableau and of the inverse agree with the matrix", "[lp][tableau]") {
  Random random(103);
  int rows = 0;
  for (int round = 0; round < 500; ++round) {
    const lp::Program p = test::draw_program(random, {.columns = 8, .rows = 6, .infinite = 0.0});
    lp::Simplex s(p);
    if (s.solve().status != lp::Status::optimal) continue;
    const lp::Basis basis = s.basis();
    for (lp::Index k = 0; k < p.num_columns() + p.num_rows(); ++k) {
      const lp::Index row_number = k - p.num_columns();
      const bool basic =
          row_number < 0
              ? basis.columns[static_cast<std::size_t>(k)] == lp::VariableStatus::basic
              : basis.rows[static_cast<std::size_t>(row_number)] == lp::VariableStatus::basic;
      if (!basic) continue;
      ++rows;
      const std::vector<double> inverse = s.inverse_row(k), tableau = s.tableau_row(k);
      for (lp::Index j = 0; j < p.num_columns(); ++j) {
        double expected = 0.0;
        for (std::size_t e = 0; e < p.columns().index(j).size(); ++e)
          expected +=
              inverse[static_cast<std::size_t>(p.columns().index(j)[e])] * p.columns().value(j)[e];
        CHECK(tableau[static_cast<std::size_t>(j)] == Approx(expected).margin(1e-9));
      }
      for (lp::Index i = 0; i < p.num_rows(); ++i)
        CHECK(tableau[static_cast<std::size_t>(p.num_columns() + i)] ==
              Approx(-inverse[static_cast<std::size_t>(i)]).margin(1e-9));
    }
  }
  CHECK(rows > 100);
}

TEST_CASE("an equation whose limit is no double holds back no coefficient", "[methods]") {
  Model m("Fifths");
  const Decision a = m.real("a", {}, from(0)), b = m.real("b", {}, between(0, 9));
  m.minimize("cost", Expression(6) * a + Expression(8) * b);
  m.rule("all", Expression(5) * a + Expression(5) * b == Expression(4));
  const Result r = solve(m);
  REQUIRE(r.relaxed.coefficient_stretches.size() == 2);
  CHECK(r.relaxed.coefficient_stretches[0].from == -HUGE_VAL);
  CHECK(r.relaxed.coefficient_stretches[0].to == 8.0);
  CHECK(r.relaxed.limit_stretches[0].from == 0.0);  // and not 8.9e-16
  CHECK(answer_page(r).find("as long as the limit is at least 0\n") != std::string::npos);
}
