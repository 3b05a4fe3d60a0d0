// What is told as proven is proven: sums beyond the doubles, units far apart, steps of the goal.
#include "base/random.hpp"
#include "support/knot.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

TEST_CASE("sums beyond 2^53 are not added up in doubles", "[trust][proof]") {
  CHECK(proven("decide a binary\ndecide b binary\ndecide c binary\n"
               "maximize g: 7*a + 5*b + 8*c\n"
               "rule r: 9007199254740989*a + 9007199254740990*b + 3*c <= 18014398509481982\n") ==
        Rational(20));
}

TEST_CASE("random models with figures from 1 to 10^15 end as trying all plans does",
          "[trust][proof]") {
  Random random(4711);
  const auto figure = [&] {
    Rational v = random.between(1, 9);
    for (auto k = random.between(0, 15); k > 0; --k) v *= Rational(10);
    if (random.chance(0.3)) v = Rational(9007199254740992LL) - Rational(random.between(0, 9));
    if (random.chance(0.3)) v += Rational(random.between(-1, 1));
    if (random.chance(0.1)) v /= Rational(1000);
    return random.chance(0.3) ? -v : v;
  };
  for (int round = 0; round < 1500; ++round) {
    const int n = static_cast<int>(random.between(2, 6));
    Model m{"Random"};
    std::vector<Decisions> x;
    std::vector<int> most;
    for (int j = 0; j < n; ++j) {
      most.push_back(random.chance(0.7) ? 1 : 2);
      x.push_back(m.integer("x" + std::to_string(j), {}, between(0, most.back())));
    }
    if (random.chance(0.3)) {  // a real decision changes nothing about rules over whole ones
      const Decisions z = m.real("z", {}, between(0, 1));
      m.rule("z", Expression(z) <= Rational::ratio(1, 3));
    }
    const auto sum = [&](std::vector<Rational>& a) {
      Expression e;
      for (const Decisions& d : x) {
        a.push_back(random.chance(0.8) ? figure() : Rational(0));
        e += Expression(a.back()) * d;
      }
      return e;
    };
    std::vector<Rational> cost;
    m.maximize("g", sum(cost));
    std::vector<std::pair<std::vector<Rational>, Rational>> rows;
    for (int r = 0; r < 2; ++r) {
      std::vector<Rational> a;
      const Expression e = sum(a);
      Rational limit = 0;  // what some plan uses, or a hair less
      for (int j = 0; j < n; ++j) limit += a[static_cast<std::size_t>(j)] * random.between(0, 1);
      if (random.chance(0.3)) limit -= 1;
      m.rule("r" + std::to_string(r), e <= limit);
      rows.emplace_back(a, limit);
    }
    std::optional<Rational> best;
    std::vector<int> at(static_cast<std::size_t>(n), 0);
    while (true) {
      const auto value = [&](const std::vector<Rational>& a) {
        Rational v = 0;
        for (std::size_t j = 0; j < at.size(); ++j) v += a[j] * Rational(at[j]);
        return v;
      };
      bool fits = true;
      for (const auto& [a, limit] : rows) fits = fits && value(a) <= limit;
      if (fits && (!best || value(cost) > *best)) best = value(cost);
      std::size_t j = 0;
      while (j < at.size() && ++at[j] > most[j]) at[j++] = 0;
      if (j == at.size()) break;
    }
    const Result r = solve(m);
    INFO("round " << round);
    REQUIRE(r.outcome == (best ? Outcome::optimal : Outcome::infeasible));
    if (best) REQUIRE(r.goal() == *best);
    if (best) CHECK(*r.goals[0].gap == 0.0);
  }
}

TEST_CASE("units far apart do not hide what a column is worth", "[trust][proof]") {
  const std::string real = "real 0 .. 1\n", rest =
                                                "maximize g: 9*x + 7*y\n"
                                                "rule r: 10*x + 8000000000*y <= 6447350000\n";
  CHECK(proven("decide x " + real + "decide y " + real + rest).to_double() ==
        Approx(14.64143124125).epsilon(1e-12));
  const Result r = solve(model_of("decide x integer 0 .. 1\ndecide y real 0 .. 1\n" + rest));
  CHECK(*r.relaxed.value == Approx(14.64143124125).epsilon(1e-9));
}

TEST_CASE("a rule over whole decisions has no tolerance, whatever else is in the model",
          "[trust][proof]") {
  const Model m = model_of(
      "decide a binary\ndecide b integer 0 .. 2\ndecide z real 0 .. 1\n"
      "minimize g: a + b + z\n"
      "rule r: 1000000000 * a + b >= 1000000002\n"
      "rule s: z + 0 * a >= 0.5\nrule either: z >= 1 or b >= 1\n");
  Plan plan(m);
  plan.set(m.decision("a"), 1);
  plan.set(m.decision("b"), 2);
  const auto feasible = [&] { return check(m, plan).feasible; };
  plan.set(m.decision("z"), Rational::ratio(1, 2) - *Rational::parse("1e-9"));
  CHECK(feasible());
  CHECK_FALSE(check(m, plan).exact);
  plan.set(m.decision("z"), Rational::ratio(1, 2) - *Rational::parse("2e-9"));
  CHECK_FALSE(feasible());
  plan.set(m.decision("z"), 1);
  CHECK(feasible());
  plan.set(m.decision("b"), 0);
  CHECK_FALSE(feasible());
}

TEST_CASE("the goal's step comes from the model as stated", "[trust][proof]") {
  const std::string head =
      "decide a binary\ndecide b binary\ndecide c binary\n"
      "decide x integer 0 .. 6\ndecide y integer -3 .. 3\n";
  CHECK(proven(head + "maximize g: 1000000000*a + 30*b*c + 10*x\n") == Rational(1'000'000'090));
  CHECK(proven(head + "minimize g: -1000000000*a + 0.3*abs(y - 1) - max(x, y) / 7\n") ==
        Rational(-1'000'000'000) - Rational::ratio(6, 7));
  CHECK(proven("curve f through (0, 0), (2, 1), (4, 7)\n" + head +
               "maximize g: 1000000000*a + f(x)\n") == Rational(1'000'000'007));
  CHECK(proven("decide u real 0 .. 1\ndecide x binary\ndecide y binary\n"
               "maximize g: 1000000000*u + 0.0003*x + 0.0002*y\nrule r: x + y <= 1\n") ==
        Rational(1'000'000'000) + *Rational::parse("0.0003"));
}

TEST_CASE("later goals tell bound and gap too", "[trust][proof]") {
  const Result r =
      solve(model_of("decide x integer 0 .. 5\ndecide y integer 0 .. 5\n"
                     "maximize a: x\nmaximize b: x + 3*y\nrule r: x + y <= 7\n"));
  REQUIRE(r.outcome == Outcome::optimal);
  REQUIRE(r.goals.size() == 2);
  CHECK((*r.goals[1].value == Rational(11) && *r.goals[1].bound == 11.0 && *r.goals[1].gap == 0.0));
}

TEST_CASE("whole numbers that doubles cannot tell apart end with an honest word",
          "[trust][proof]") {
  for (const char* text :
       {"decide x integer 0 .. 9007199254740992\nmaximize g: x\n",
        "decide x integer 0 .. 9007199254740993\nmaximize g: x\n",
        "decide x integer 0 .. 1e300\nmaximize g: x\n",
        "decide x integer -1e40 .. 1e40\nmaximize g: x\nrule r: 3*x <= 1e39\n"}) {
    const Result r = solve(model_of(text), {.seconds = 20});
    INFO(text);
    CHECK(r.search.stopped_by.empty());
    if (r.outcome != Outcome::optimal) CHECK_FALSE(r.reason.empty());
  }
}

TEST_CASE("parity ends, without limits too", "[trust][proof]") {
  for (const char* high : {"inf", "1000000000"})
    CHECK(solve(model_of("decide x integer 0 .. " + std::string(high) + "\ndecide y integer 0 .. " +
                         high + "\ndecide a integer 0 .. " + high + "\ndecide b integer -" + high +
                         " .. " + high + "\nminimize g: x + y\nrule r: x + y - 2*a = 0\n" +
                         "rule s: x - y - 2*b = 1\n"),
                {.seconds = 20})
              .outcome == Outcome::infeasible);
}
