// Prices while the whole decisions stay, against solving again with limits and decisions moved.
#include <cmath>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "model/model_data.hpp"

using namespace kiteknot;

namespace {

// Places that are opened or not, serve real amounts within what they hold, and cost something.
struct Supply {
  Model model{"Supply"};
  std::vector<Decision> open, serve;
  std::vector<Number> needs;
  bool up = false;
};

Supply draw_supply(Random& random) {
  Supply s;
  s.up = random.chance(0.3);
  const int places = static_cast<int>(random.between(2, 4)),
            needs = static_cast<int>(random.between(1, 3));
  Expression goal;
  std::vector<Expression> served(static_cast<std::size_t>(needs));
  for (int p = 0; p < places; ++p) {
    const std::string name = std::to_string(p);
    s.open.push_back(s.model.binary("open" + name, {}).only());
    goal += Rational(random.between(5, 60)) * Expression(s.open.back());
    Expression load;
    for (int n = 0; n < needs; ++n) {
      s.serve.push_back(
          s.model.real("serve" + name + std::to_string(n), {}, between(0, 40)).only());
      served[static_cast<std::size_t>(n)] += s.serve.back();
      load += s.serve.back();
      goal += Rational(random.between(1, 9)) * Expression(s.serve.back());
    }
    s.model.rule("room" + name,
                 load <= Rational(random.between(8, 30)) * Expression(s.open.back()));
  }
  for (int n = 0; n < needs; ++n) {
    s.needs.push_back(s.model.number("need" + std::to_string(n), random.between(2, 12)));
    s.model.rule("served" + std::to_string(n),
                 served[static_cast<std::size_t>(n)] >= Expression(s.needs.back()));
  }
  s.up ? s.model.maximize("left", Rational(500) - goal) : s.model.minimize("cost", goal);
  return s;
}

// What is fixed and real costs nothing has no price, however the relaxation's basis falls.
TEST_CASE("nothing is worth anything where only whole decisions cost", "[held]") {
  Random random(77);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    Model m{"Vans"};
    Expression goal, all;
    for (int p = 0; p < 3; ++p) {
      const std::string name = std::to_string(p);
      const Decision open = m.binary("open" + name).only();
      const Decision runs = m.integer("runs" + name, {}, between(0, 4)).only();
      const Decision sent = m.real("sent" + name, {}, between(0, 40)).only();
      m.rule("load" + name, Expression(sent) <= Rational(random.between(5, 15)) * Expression(runs));
      m.rule("space" + name,
             Expression(sent) <= Rational(random.between(20, 40)) * Expression(open));
      goal += Rational(random.between(20, 60)) * Expression(open) +
              Rational(random.between(3, 9)) * Expression(runs);
      all += sent;
    }
    m.rule("need", all == Rational(random.between(10, 30)));
    m.minimize("cost", goal);
    const Result best = solve(m);
    if (best.outcome != Outcome::optimal) continue;
    const auto held = held_prices(best);
    REQUIRE(held);
    for (const double price : held->relaxed.relaxed.shadow_prices) CHECK(price == 0.0);
    CHECK(held_prices_page(*held).empty());
  }
}

// The best with every place as it is in the plan.
std::optional<double> with_places(const Supply& s, Model model, const Plan& plan) {
  for (std::size_t p = 0; p < s.open.size(); ++p)
    model.rule("keep" + std::to_string(p), Expression(s.open[p]) == plan[s.open[p].id]);
  const Result r = solve(model);
  if (r.outcome != Outcome::optimal) return std::nullopt;
  return r.goals.at(0).value->to_double();
}

}  // namespace

TEST_CASE("held prices tell what limits are worth, within their stretches",
          "[study][held][oracle]") {
  Random random(33);
  int priced = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    const Supply s = draw_supply(random);
    const Result best = solve(s.model);
    if (best.outcome != Outcome::optimal) continue;
    const auto held = held_prices(best);
    REQUIRE(held);
    const double value = best.goals[0].value->to_double();
    const Relaxed& x = held->relaxed.relaxed;
    for (std::size_t n = 0; n < s.needs.size(); ++n) {
      const std::size_t row = s.open.size() + n;
      const double now =
          s.model.data().number_values()[static_cast<std::size_t>(s.needs[n].id)].to_double();
      const Stretch stretch = x.limit_stretches.at(row);
      const RuleValue& v = best.report->rules.at(row);
      if (!v.binding || stretch.to <= now + 1e-6) continue;
      const double step = std::min(0.5, (stretch.to - now) / 2.0);
      Model more = s.model;
      more.set("need" + std::to_string(n), Rational::exactly(now + step));
      const auto moved = with_places(s, more, *best.plan);
      REQUIRE(moved);
      REQUIRE(std::abs(*moved - value - step * x.shadow_prices[row]) < 1e-6);
      ++priced;
    }
    const std::string page = held_prices_page(*held);
    REQUIRE(page.find("held ") == std::string::npos);  // the rules that hold are not the user's
  }
  CHECK(priced > 60);
}

TEST_CASE("held prices say nothing where they would say something wrong", "[study][held]") {
  const auto prices = [](const std::string& text) {
    return held_prices(solve(parse_knot("model \"H\"\n" + text, "h.knot").value())).has_value();
  };
  CHECK_FALSE(prices("decide x integer 0 .. 5\nminimize c: x\nrule r: x >= 2\n"));
  CHECK_FALSE(prices("decide x real 0 .. 5\nminimize c: x\nrule r: x >= 2\n"));
  CHECK_FALSE(
      prices("decide x real 0 .. 5\ndecide y binary\nminimize c: x\nminimize d: y\n"
             "rule r: x + y >= 2\n"));
  CHECK_FALSE(prices("decide x real 0 .. 5\ndecide y binary\nminimize c: x\nrule r: x >= 7\n"));
  CHECK(
      prices("decide x real 0 .. 5\ndecide y binary\nminimize c: x + 3 * y\nrule r: x + y >= 2\n"));
}
