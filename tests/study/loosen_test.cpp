// Several clashes at once, the cheapest loosening and endless goals, against enumeration.
#include <algorithm>
#include <functional>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

constexpr int kDecisions = 4, kGreatest = 2, kPlans = 81;  // 3^4

// A model with one rule after another, and by how much a plan misses each.
struct Planted {
  Model model{"Planted"};
  std::vector<Decision> x;
  using Values = std::vector<int>;
  std::vector<std::function<int(const Values&)>> missed;
  std::vector<std::string> names;

  explicit Planted(Random& draw) : random(draw) {
    for (int k = 0; k < kDecisions; ++k)
      x.push_back(k < 2 ? model.binary(fmt::format("b{}", k)).only()
                        : model.integer(fmt::format("n{}", k), {}, between(0, kGreatest)).only());
  }
  static Values plan(int code) {
    Values v;
    for (int k = 0; k < kDecisions; ++k, code /= 3) v.push_back(code % 3);
    return v;
  }
  static bool in_bounds(const Values& v) { return v[0] <= 1 && v[1] <= 1; }

  void add(Condition c, std::function<int(const Values&)> by) {
    names.push_back(fmt::format("r{}", names.size()));
    model.rule(names.back(), std::move(c));
    missed.push_back(std::move(by));
  }
  int number(int a, int b) { return static_cast<int>(random.between(a, b)); }

  void any_rule() {
    const auto a = static_cast<std::size_t>(number(0, 3)),
               b = static_cast<std::size_t>(number(0, 3));
    const int c = number(-2, 2), d = number(-2, 2), limit = number(-3, 3);
    const auto bit = static_cast<std::size_t>(number(0, 1));
    switch (number(0, 4)) {
      case 0:  // a sum
        return add(c * Expression(x[a]) + d * Expression(x[b]) <= limit,
                   [=](const Values& v) { return std::max(0, c * v[a] + d * v[b] - limit); });
      case 1:  // an equation of a chain
        return add(Expression(x[a]) == Expression(x[b]) + c,
                   [=](const Values& v) { return std::abs(v[a] - v[b] - c); });
      case 2:  // logic
        return add(implies(x[bit], Expression(x[a]) <= limit),
                   [=](const Values& v) { return v[bit] == 1 && v[a] > limit ? 1 : 0; });
      case 3: {  // a curve: 3 once and 2 each
        const Curve f = Curve::tiers({{2}}, 3);
        return add(f(x[a]) >= limit + 3, [=](const Values& v) {
          return std::max(0, limit + 3 - (v[a] > 0 ? 3 + 2 * v[a] : 0));
        });
      }
      default:  // a count
        return add(
            at_least(2, {x[0], Expression(x[a]) >= 1, Expression(x[b]) <= 1}),
            [=](const Values& v) { return (v[0] == 1) + (v[a] >= 1) + (v[b] <= 1) >= 2 ? 0 : 1; });
    }
  }
  bool fits(const std::vector<std::size_t>& some) const {
    for (int code = 0; code < kPlans; ++code) {
      const Values v = plan(code);
      if (in_bounds(v) &&
          std::all_of(some.begin(), some.end(), [&](std::size_t r) { return missed[r](v) == 0; }))
        return true;
    }
    return false;
  }

  Random& random;
};

}  // namespace

TEST_CASE("clashes are disjoint and irreducible, and the way out is the cheapest", "[explain]") {
  Random random(31);
  int infeasible = 0, several = 0, spread = 0;
  for (int round = 0; round < 500; ++round) {
    CAPTURE(round);
    Planted p(random);
    for (int r = p.number(4, 8); r > 0; --r) p.any_rule();
    p.model.maximize("goal", Expression(p.x[0]) + p.x[2]);
    std::vector<std::size_t> left;
    for (std::size_t r = 0; r < p.missed.size(); ++r) left.push_back(r);
    const Explanation e = explain(p.model);
    if (p.fits(left)) {
      REQUIRE(e.outcome == Outcome::optimal);
      continue;
    }
    ++infeasible;
    REQUIRE(e.outcome == Outcome::infeasible);
    for (const Clash& c : e.clashes.found) {
      REQUIRE(c.kind == Clash::Kind::found);
      std::vector<std::size_t> rows;
      for (const RuleRow& row : c.rows) {
        rows.push_back(static_cast<std::size_t>(row.family));
        CHECK(std::find(left.begin(), left.end(), rows.back()) != left.end());  // in no other clash
      }
      CHECK_FALSE(p.fits(rows));
      for (std::size_t k = 0; k < rows.size(); ++k) {
        std::vector<std::size_t> others = rows;
        others.erase(others.begin() + static_cast<std::ptrdiff_t>(k));
        CHECK(p.fits(others));
        std::erase(left, rows[k]);
      }
    }
    if (e.clashes.found.size() < 5) CHECK(e.clashes.rest == Clash::Kind::none);
    CHECK(p.fits(left) == (e.clashes.rest == Clash::Kind::none));
    several += e.clashes.found.size() > 1 ? 1 : 0;

    const Loosening& l = *e.loosening;
    REQUIRE(l.kind == Loosening::Kind::found);
    REQUIRE((l.least && l.fewest));
    int least = 1000, fewest = 1000;
    for (int code = 0; code < kPlans; ++code) {
      const auto v = Planted::plan(code);
      if (!Planted::in_bounds(v)) continue;
      int total = 0, rules = 0;
      for (const auto& by : p.missed) total += by(v), rules += by(v) > 0 ? 1 : 0;
      if (total < least || (total == least && rules < fewest)) least = total, fewest = rules;
    }
    CHECK(l.total == Rational(least));
    CHECK(l.misses.size() == static_cast<std::size_t>(fewest));
    spread += fewest > 1 ? 1 : 0;
    // What may not be missed is not, or there is no way out.
    const std::size_t kept = static_cast<std::size_t>(l.misses[0].row.family);
    const Loosening other = cheapest_loosening(p.model, {{p.names[kept]}, {}, {}});
    CHECK((other.kind == Loosening::Kind::impossible) == !p.fits({kept}));
    for (const auto& miss : other.misses) CHECK(static_cast<std::size_t>(miss.row.family) != kept);
    if (other.kind == Loosening::Kind::found) CHECK(other.total >= l.total);
  }
  CHECK(infeasible > 120);
  CHECK(several > 10);
  CHECK(spread > 20);
}

TEST_CASE("weights steer the way out", "[explain]") {
  Model m{"Weights"};
  const auto n = m.integer("n", {}, between(0, 9));
  m.rule("low", n.only() <= 2);
  m.rule("high", n.only() >= 5);
  const Loosening even = cheapest_loosening(m);
  CHECK(even.total == Rational(3));
  const Loosening low = cheapest_loosening(m, {{}, {{"high", 2}}, {}});
  REQUIRE(low.misses.size() == 1);
  CHECK(low.misses[0].row.family == 0);
  CHECK(low.misses[0].by == Rational(3));
  CHECK_THROWS_WITH(cheapest_loosening(m, {{"hig"}, {}, {}}), Catch::Contains("nearest is 'high'"));
  CHECK(cheapest_loosening(m, {{"low", "high"}, {}, {}}).kind == Loosening::Kind::impossible);
}

TEST_CASE("an endless goal is told by its direction", "[explain]") {
  Model m{"Endless"};
  const auto a = m.integer("a", {}, from(0)), b = m.real("b", {}, from(0)),
             c = m.integer("c", {}, between(0, 5));
  m.rule("twice", a.only() <= 2 * Expression(b));
  m.maximize("worth", 3 * Expression(a) - Expression(b) + Expression(c));
  const Explanation e = explain(m);
  REQUIRE(e.outcome == Outcome::unbounded);
  REQUIRE(e.direction.size() == 2);
  CHECK(e.direction[0].second == Rational(2) * e.direction[1].second);
  CHECK(e.goal_step == Rational(5) * e.direction[1].second);
  const std::string page = explanation_page(m, e);
  CHECK(page.find("worth has no end") != std::string::npos);
  CHECK(page.find("a greatest value for a and b") != std::string::npos);
}
