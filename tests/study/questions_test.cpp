// Why not, how firm, and trade-offs: small random models against enumeration of all plans.
#include <algorithm>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

// Four whole decisions from 0 to 2 (two of them binary), sums as rules, one rule of logic.
struct Small {
  using Values = std::vector<int>;
  Model model{"Small"};
  std::vector<Decision> x;
  std::vector<int> worth;
  struct Row {
    std::vector<int> c;
    int limit;
    bool at_most;
  };
  std::vector<Row> rows;
  bool maximize = true, with_logic = false;
  std::vector<Values> plans;  // those that meet all rules

  explicit Small(Random& random) {
    const auto draw = [&](int a, int b) { return static_cast<int>(random.between(a, b)); };
    for (int k = 0; k < 4; ++k)
      x.push_back(k < 2 ? model.binary(fmt::format("b{}", k)).only()
                        : model.integer(fmt::format("n{}", k), {}, between(0, 2)).only());
    Expression goal;
    for (const Decision& d : x) {
      worth.push_back(draw(-9, 9));
      goal += worth.back() * Expression(d);
    }
    maximize = draw(0, 1) == 1;
    model.add_goal("goal", maximize ? Sense::maximize : Sense::minimize, goal);
    for (int r = draw(1, 3); r > 0; --r) {
      Row row{{}, draw(0, 8), draw(0, 1) == 1};
      Expression e;
      for (const Decision& d : x) {
        row.c.push_back(draw(-1, 4));
        e += row.c.back() * Expression(d);
      }
      model.rule(fmt::format("r{}", r),
                 row.at_most ? std::move(e) <= row.limit : std::move(e) >= row.limit);
      rows.push_back(std::move(row));
    }
    with_logic = draw(0, 1) == 1;
    if (with_logic) model.rule("logic", implies(x[0], Expression(x[2]) >= 1));
    for (int code = 0; code < 36; ++code)
      if (Values v = {code % 2, code / 2 % 2, code / 4 % 3, code / 12}; meets(v, -1))
        plans.push_back(std::move(v));
  }

  static int dot(const std::vector<int>& c, const Values& v) {
    int sum = 0;
    for (std::size_t k = 0; k < v.size(); ++k) sum += c[k] * v[k];
    return sum;
  }
  // `without`: this row does not count; rows.size(): the condition.
  bool meets(const Values& v, int without) const {
    for (std::size_t r = 0; r < rows.size(); ++r) {
      const int sum = dot(rows[r].c, v);
      if (static_cast<int>(r) != without &&
          (rows[r].at_most ? sum > rows[r].limit : sum < rows[r].limit))
        return false;
    }
    return !with_logic || without == static_cast<int>(rows.size()) || v[0] == 0 || v[2] >= 1;
  }
  // Larger is better, whatever the sense.
  [[nodiscard]] int value(const Values& v) const { return (maximize ? 1 : -1) * dot(worth, v); }
  [[nodiscard]] int best(const std::vector<Values>& of) const {
    int most = -1000;
    for (const Values& v : of) most = std::max(most, value(v));
    return most;
  }
};

Small::Values values_of(const Plan& plan) {
  Small::Values v;
  for (const Rational& r : plan.values()) v.push_back(static_cast<int>(r.to_double()));
  return v;
}

}  // namespace

TEST_CASE("what a condition costs, and its break-even, by enumeration", "[why]") {
  Random random(61);
  int costly = 0, even = 0, impossible = 0, held = 0;
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    const Small s(random);
    const auto d = static_cast<std::size_t>(random.between(0, 3));
    const int k = static_cast<int>(random.between(0, 2));
    const bool least = random.chance(0.5);
    const auto is = [&](const Small::Values& v) { return least ? v[d] >= k : v[d] <= k; };
    const Why w = why(s.model, least ? Expression(s.x[d]) >= k : Expression(s.x[d]) <= k);
    if (s.plans.empty()) {
      CHECK(w.best.outcome == Outcome::infeasible);
      continue;
    }
    std::vector<Small::Values> with, without;
    for (const auto& v : s.plans) (is(v) ? with : without).push_back(v);
    const Small::Values found = values_of(*w.best.plan);
    REQUIRE(w.holds == is(found));
    const auto &own = w.holds ? with : without, &other = w.holds ? without : with;
    if (other.empty()) {
      CHECK(w.other.outcome == Outcome::infeasible);
      CHECK(w.clash.has_value() == !w.holds);
      ++impossible;
      continue;
    }
    held += w.holds ? 1 : 0;
    REQUIRE(w.cost.has_value());
    CHECK(*w.cost == Rational(s.best(own) - s.best(other)));
    if (w.cost->is_zero()) continue;
    ++costly;
    REQUIRE(w.break_even.has_value());
    CHECK(w.break_even->confirmed);
    // The least t at which the other side catches up: tried at the value told, and close to it.
    const bool more = (w.break_even->needed > w.break_even->now) == s.maximize;
    const auto reach = [&](const std::vector<Small::Values>& of, const Rational& coefficient) {
      const Rational t = (coefficient - w.break_even->now).abs();
      Rational most = -1000;
      for (const auto& v : of)
        most = std::max(most, Rational(s.value(v)) + t * Rational(more ? v[d] : -v[d]));
      return most;
    };
    const BreakEven& b = *w.break_even;
    CHECK(b.now == Rational(s.worth[d]));
    CHECK(reach(own, b.needed) == reach(other, b.needed));
    CHECK(reach(own, b.outside) > reach(other, b.outside));
    CHECK(reach(own, b.inside) < reach(other, b.inside));
    ++even;
  }
  CHECK(costly > 300);
  CHECK(even == costly);
  CHECK(impossible > 50);
  CHECK(held > 200);
}

TEST_CASE("the figures over which a plan stays best, by enumeration", "[firm]") {
  Random random(62);
  int ends = 0, limits = 0, conditional = 0;
  for (int round = 0; round < 700; ++round) {
    CAPTURE(round);
    const Small s(random);
    const Firmness f = firmness(s.model);
    if (s.plans.empty()) {
      CHECK(f.figures.empty());
      continue;
    }
    CHECK(f.not_reached == 0);
    const Small::Values p = values_of(*f.best.plan);
    REQUIRE(s.value(p) == s.best(s.plans));
    double before = -1.0;
    for (const FirmFigure& one : f.figures) {
      CHECK(one.tightness() >= before);
      before = one.tightness();
      std::optional<Rational> low, high;
      if (one.kind == FirmFigure::Kind::coefficient) {
        const auto d = static_cast<std::size_t>(one.decision);
        for (const auto& q : s.plans) {
          // Moved by t, q is as good where value(p) - value(q) = t (q_d - p_d), in the goal's
          // sense.
          const int by = (q[d] - p[d]) * (s.maximize ? 1 : -1);
          if (by == 0) continue;
          const Rational at = one.now + Rational::ratio(s.value(p) - s.value(q), std::abs(by)) *
                                            Rational(by > 0 ? 1 : -1);
          auto& end = by > 0 ? high : low;
          if (!end || (by > 0 ? at < *end : at > *end)) end = at;
        }
      } else {
        ++limits;
        const auto r = static_cast<std::size_t>(one.row.family);
        const bool most = one.kind == FirmFigure::Kind::most, logic = r == s.rows.size();
        // "b0 implies n2 >= 1" counts for plans with b0 only.
        const auto sum = [&](const Small::Values& q) {
          return logic ? q[2] : Small::dot(s.rows[r].c, q);
        };
        conditional += logic ? 1 : 0;
        CHECK((one.decision >= 0) == logic);
        if (!logic || p[0] == 1) (most ? low : high) = Rational(sum(p));
        for (int code = 0; code < 36; ++code) {
          const Small::Values q = {code % 2, code / 2 % 2, code / 4 % 3, code / 12};
          if (!s.meets(q, static_cast<int>(r)) || s.value(q) <= s.value(p)) continue;
          if (logic && q[0] == 0) continue;
          const Rational at = sum(q);
          auto& end = most ? high : low;
          if (!end || (most ? at < *end : at > *end)) end = at;
        }
      }
      CHECK(one.low == low);
      CHECK(one.high == high);
      ends += (low ? 1 : 0) + (high ? 1 : 0);
    }
  }
  CHECK(ends > 2000);
  CHECK(limits > 500);
  CHECK(conditional > 100);
}

TEST_CASE("capacities that multiply a decision, by enumeration", "[firm]") {
  Random random(65);
  int lows = 0, highs = 0, none = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    const auto draw = [&](int a, int b) { return static_cast<int>(random.between(a, b)); };
    const int caps[2] = {draw(2, 6), draw(2, 6)};
    int worth[6], rents[2] = {draw(1, 12), draw(1, 12)};
    for (int& w : worth) w = draw(-2, 7);
    const int all = draw(3, 9);
    const bool turned = draw(0, 1) == 1;
    Model m{"Depots"};
    std::vector<Decision> open, ship;
    for (int k = 0; k < 2; ++k) open.push_back(m.binary(fmt::format("open{}", k)).only());
    for (int k = 0; k < 4; ++k)
      ship.push_back(m.integer(fmt::format("ship{}", k), {}, between(0, 3)).only());
    Expression goal;
    for (int k = 0; k < 4; ++k) goal += worth[k] * Expression(ship[static_cast<std::size_t>(k)]);
    for (int k = 0; k < 2; ++k) goal += -rents[k] * Expression(open[static_cast<std::size_t>(k)]);
    m.maximize("gain", goal);
    m.rule("all", Expression(ship[0]) + ship[1] + ship[2] + ship[3] <= all);
    for (std::size_t k = 0; k < 2; ++k) {
      const Expression sum = Expression(ship[2 * k]) + ship[2 * k + 1];
      const Expression cap = caps[k] * Expression(open[k]);
      m.rule(fmt::format("cap{}", k), turned ? cap >= sum : sum <= cap);
    }
    const Firmness f = firmness(m);
    REQUIRE(f.not_reached == 0);
    const auto value = [&](std::size_t d) {
      return static_cast<int>((*f.best.plan)[static_cast<std::int32_t>(d)].to_double());
    };
    const int p[6] = {value(2), value(3), value(4), value(5), value(0), value(1)};
    const auto gain = [&](const int(&q)[6]) {
      int sum = -rents[0] * q[4] - rents[1] * q[5];
      for (int k = 0; k < 4; ++k) sum += worth[k] * q[k];
      return sum;
    };
    int seen = 0;
    for (const FirmFigure& one : f.figures) {
      if (one.kind != FirmFigure::Kind::multiplier) continue;
      ++seen;
      const auto k = static_cast<std::size_t>(one.row.family - 1);
      CHECK(one.now == Rational(caps[k]));
      std::optional<Rational> low, high;
      if (p[4 + k] == 1) low = Rational(p[2 * k] + p[2 * k + 1]);
      for (int code = 0; code < 256 * 4; ++code) {
        const int q[6] = {code % 4,      code / 4 % 4,   code / 16 % 4,
                          code / 64 % 4, code / 256 % 2, code / 512};
        const std::size_t other = 1 - k;
        if (q[0] + q[1] + q[2] + q[3] > all || q[4 + k] == 0 || gain(q) <= gain(p)) continue;
        if (q[2 * other] + q[2 * other + 1] > caps[other] * q[4 + other]) continue;
        const Rational at = q[2 * k] + q[2 * k + 1];
        if (!high || at < *high) high = at;
      }
      const auto text = [](const std::optional<Rational>& v) { return v ? v->text() : "none"; };
      CHECK(text(one.low) == text(low));
      CHECK(text(one.high) == text(high));
      lows += low ? 1 : 0;
      highs += high ? 1 : 0;
      none += low || high ? 0 : 1;
    }
    CHECK(seen == 2);
  }
  CHECK(lows > 50);
  CHECK(highs > 50);
  CHECK(none > 5);
}

TEST_CASE("figures of curves over which a plan stays best, by enumeration", "[firm][curve]") {
  Random random(66);
  int ends = 0, seen = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    const auto draw = [&](int a, int b) { return static_cast<int>(random.between(a, b)); };
    const int shape = draw(0, 2), split = draw(2, 4), limit = draw(4, 9), other = draw(-4, 6);
    const bool up = draw(0, 1) == 1;
    std::vector<Rational> figures;  // in the order of their names
    for (int k = 0; k < 3; ++k) figures.emplace_back(draw(-3, 6));
    const auto curve = [&](const std::vector<Rational>& f) {
      if (shape == 0) return Curve::tiers({{f[1], split}, {f[2]}}, f[0]);
      if (shape == 1) return Curve::all_units({{f[0], 0}, {f[1], split}, {f[2], split + 2}});
      return Curve::through({{0, f[0]}, {split, f[1]}, {7, f[2]}});
    };
    const std::vector<std::string> names =
        shape == 0
            ? std::vector<std::string>{"what is charged once of c", "rate 1 of c", "rate 2 of c"}
        : shape == 1 ? std::vector<std::string>{"rate 1 of c", "rate 2 of c", "rate 3 of c"}
                     : std::vector<std::string>{"the value at 0 of c",
                                                fmt::format("the value at {} of c", split),
                                                "the value at 7 of c"};
    if (shape == 0 && figures[0].is_zero()) figures[0] = 1;  // else there is no such figure
    Model m{"Curves"};
    const Decision x = m.integer("x", {}, between(0, 7)).only(),
                   y = m.integer("y", {}, between(0, 3)).only();
    const Curve c = m.curve("c", curve(figures));
    m.add_goal("goal", up ? Sense::maximize : Sense::minimize,
               2 * c(x) + c(y) + other * Expression(x) + Expression(y));
    m.rule("limit", Expression(x) + 2 * Expression(y) <= limit);
    const Firmness f = firmness(m);
    REQUIRE(f.best.outcome == Outcome::optimal);
    const auto best_with = [&](const std::vector<Rational>& changed) {
      const Curve now = curve(changed);
      const auto value = [&](int a, int b) {
        return (Rational(2) * now.at(a) + now.at(b) + Rational(other * a + b)) *
               Rational(up ? 1 : -1);
      };
      const Rational own = value(static_cast<int>((*f.best.plan)[x.id].to_double()),
                                 static_cast<int>((*f.best.plan)[y.id].to_double()));
      for (int a = 0; a <= 7; ++a)
        for (int b = 0; b <= 3; ++b)
          if (a + 2 * b <= limit && value(a, b) > own) return false;
      return true;
    };
    REQUIRE(best_with(figures));
    for (const FirmFigure& one : f.figures) {
      if (one.kind != FirmFigure::Kind::curve) continue;
      ++seen;
      const auto k = static_cast<std::size_t>(std::find(names.begin(), names.end(), one.curve) -
                                              names.begin());
      REQUIRE(k < names.size());
      CHECK(one.now == figures[k]);
      const auto stays = [&](const Rational& at) {
        std::vector<Rational> changed = figures;
        changed[k] = at;
        return best_with(changed);
      };
      const Rational hair = Rational::ratio(1, 1000), far = 10000;
      CAPTURE(one.curve, shape);
      CHECK((one.low ? stays(*one.low) && !stays(*one.low - hair) : stays(-far)));
      CHECK((one.high ? stays(*one.high) && !stays(*one.high + hair) : stays(far)));
      ends += (one.low ? 1 : 0) + (one.high ? 1 : 0);
    }
  }
  CHECK(seen > 300);
  CHECK(ends > 150);
}

TEST_CASE("a budget of solves is kept, and told", "[firm]") {
  Random random(63);
  const Small s(random);
  const Firmness f = firmness(s.model, {}, 2);
  CHECK(f.solves <= 2);
  CHECK(f.not_reached > 0);
  CHECK(firmness_page(f).find("not settled within the budget") != std::string::npos);
  CHECK_THROWS_AS(firmness(s.model, {}, 0), UsageError);
}

TEST_CASE("all points of a trade-off, by enumeration", "[trade]") {
  Random random(64);
  int several = 0, spread = 0;
  for (int round = 0; round < 500; ++round) {
    CAPTURE(round);
    const Small s(random);
    std::vector<int> c;
    Expression e;
    for (const Decision& d : s.x) {
      c.push_back(static_cast<int>(random.between(-4, 6)));
      e += c.back() * Expression(d);
    }
    const bool up = random.chance(0.5);
    const TradeGoal first = trade_goal(s.model, "goal");
    const TradeGoal second{"other", up ? Sense::maximize : Sense::minimize, e};
    const TradeOff t = trade_off(s.model, first, second);
    const auto other = [&](const Small::Values& v) { return (up ? 1 : -1) * Small::dot(c, v); };
    std::vector<std::pair<Rational, Rational>> wanted;
    for (const auto& v : s.plans) {
      const bool bettered = std::any_of(s.plans.begin(), s.plans.end(), [&](const auto& w) {
        return s.value(w) >= s.value(v) && other(w) >= other(v) &&
               (s.value(w) > s.value(v) || other(w) > other(v));
      });
      if (!bettered)
        wanted.emplace_back((s.maximize ? 1 : -1) * s.value(v), (up ? 1 : -1) * other(v));
    }
    std::sort(wanted.begin(), wanted.end(), [&](const auto& a, const auto& b) {
      return s.maximize ? a.first > b.first : a.first < b.first;
    });
    wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
    REQUIRE(t.points.size() == wanted.size());
    if (wanted.empty()) {
      CHECK(t.outcome == Outcome::infeasible);
      continue;
    }
    CHECK(t.all);
    for (std::size_t k = 0; k < wanted.size(); ++k) {
      CHECK(t.points[k].first == wanted[k].first);
      CHECK(t.points[k].second == wanted[k].second);
      CHECK(t.points[k].proven);
      CHECK(check(s.model, t.points[k].plan).feasible);
    }
    several += wanted.size() > 2 ? 1 : 0;
    // Fewer points are among them, with both ends.
    const TradeOff few = trade_off(s.model, first, second, 3);
    CHECK(few.points.size() <= 3);
    CHECK(few.points.front().first == wanted.front().first);
    CHECK(few.points.back().second == wanted.back().second);
    for (const TradePoint& p : few.points)
      spread +=
          std::find(wanted.begin(), wanted.end(), std::pair(p.first, p.second)) != wanted.end();
  }
  CHECK(several > 100);
  CHECK(spread > 700);
}

TEST_CASE("trade-offs over any amount, and figures of them", "[trade]") {
  Model m{"Amounts"};
  const auto x = m.real("x", {}, between(0, 10));
  const auto y = m.integer("y", {}, between(0, 3));
  m.let("spare", 10 - Expression(x));
  m.rule("both", Expression(x) + 2 * Expression(y) >= 6);
  m.minimize("cost", 2 * Expression(x) + 5 * Expression(y));
  const TradeGoal cost = trade_goal(m, "cost"), spare = trade_goal(m, "maximize spare");
  CHECK_THROWS_WITH(trade_off(m, cost, spare), Catch::Contains("any amount"));
  CHECK_THROWS_WITH(trade_goal(m, "cots"), Catch::Contains("nearest is 'cost'"));
  CHECK_THROWS_WITH(trade_goal(m, "maximize spar"), Catch::Contains("nearest is 'spare'"));
  const TradeOff t = trade_off(m, cost, spare, 4);
  REQUIRE(t.points.size() == 4);
  CHECK(t.points[0].first == Rational(12));
  CHECK(t.points[3].second == Rational(10));
  CHECK_FALSE(t.all);
  CHECK(trade_csv(m, t).find("cost,spare,proven,seconds,x,y\n") == 0);
  CHECK(trade_document(m, t).find("\"kiteknot-trade\"") != std::string::npos);
  CHECK(trade_figure(m, t, "f.svg").find("set terminal svg") == 0);
  CHECK_THROWS_WITH(trade_figure(m, t, "f.jpg"), Catch::Contains(".svg or .png"));
  // A second goal that nothing moves leaves one point.
  const TradeOff one = trade_off(m, cost, {"nothing", Sense::minimize, Expression(3)});
  REQUIRE(one.points.size() == 1);
  CHECK(one.all);
}

TEST_CASE("a repaired rounding is the nearest plan, and the best of those", "[methods]") {
  Random random(65);
  int mended = 0;
  for (int round = 0; round < 600; ++round) {
    CAPTURE(round);
    const Small s(random);
    const std::vector<MethodAnswer> ways = compare(s.model, {"rounded"}).answers;
    if (ways.size() < 4 || !ways[3].plan) continue;
    ++mended;
    const Small::Values from = values_of(*ways[0].plan), to = values_of(*ways[3].plan);
    const auto steps = [&](const Small::Values& v) {
      int sum = 0;
      for (std::size_t k = 0; k < v.size(); ++k) sum += std::abs(v[k] - from[k]);
      return sum;
    };
    CHECK(std::find(s.plans.begin(), s.plans.end(), to) != s.plans.end());
    for (const auto& v : s.plans) {
      CHECK(steps(v) >= steps(to));
      if (steps(v) == steps(to)) CHECK(s.value(v) <= s.value(to));
    }
  }
  CHECK(mended > 60);
}

TEST_CASE("how firm, and why not, are asked of the plan that is told", "[study][firm][why]") {
  const Model m = parse_knot(
                      "decide x0 integer 0 .. 4\ndecide x1 integer 0 .. 4\n"
                      "maximize g0: 0 * x0\nmaximize g1: 5 * x0 + x1\n"
                      "rule r: x0 + x1 <= 5\n",
                      "two.knot")
                      .value();
  const Result told = solve(m);
  CHECK(firmness(m).best.plan->values() == told.plan->values());
  const Model one = parse_knot(
                        "decide x0 integer 0 .. 4\ndecide x1 integer 0 .. 4\n"
                        "maximize g0: x0 + x1\nmaximize g1: 5 * x0 + x1\n"
                        "rule r: x0 + x1 <= 5\n",
                        "one.knot")
                        .value();
  const Result best = solve(one);
  const Why w = why(one, Expression(one.decision("x0")) <= 3);
  CHECK(w.best.plan->values() == best.plan->values());
  CHECK_FALSE(w.holds);  // it is 4 in the plan that is told
}

TEST_CASE("figures that are not settled are no advice, and limits have their turn",
          "[study][firm]") {
  Model m{"Many"};
  const auto t = Table::parse("t", "k\na\nb\nc\nd\ne\nf\ng\nh\n", {.key = {"k"}});
  const Decisions x = m.binary("x", t);
  Expression worth, weight;
  for (int k = 0; k < 8; ++k) {
    worth += (7 + k % 5) * Expression(x.member(k));
    weight += (3 + (k * 3) % 5) * Expression(x.member(k));
  }
  m.maximize("worth", worth);
  m.rule("fits", weight <= 17);
  const Firmness few = firmness(m, {}, 7);
  const bool limit = std::any_of(few.figures.begin(), few.figures.end(), [](const FirmFigure& f) {
    return f.kind == FirmFigure::Kind::most && f.high_reached;
  });
  CHECK(limit);
  CHECK(few.not_looked_at > 0);
  const std::string page = firmness_page(few);
  CHECK(page.find("(not settled)") == std::string::npos);
  CHECK(page.find("not looked at") != std::string::npos);
  CHECK(firmness(m).not_looked_at == 0);
}
