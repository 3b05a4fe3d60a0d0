// Goals in order against enumeration, with and without yielding.
#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

TEST_CASE("each goal is best among the plans that the goals before it leave", "[goals]") {
  Random random(515);
  for (int round = 0; round < 400; ++round) {
    CAPTURE(round);
    Model m{"Ordered"};
    std::vector<Decision> x;
    for (int k = 0; k < 4; ++k)
      x.push_back(m.integer(fmt::format("x{}", k), {}, between(0, 2)).only());
    const auto coefficients = [&] {
      std::vector<int> c;
      for (int k = 0; k < 4; ++k) c.push_back(static_cast<int>(random.between(-4, 4)));
      return c;
    };
    const auto sum = [&](const std::vector<int>& c) {
      Expression e;
      for (std::size_t k = 0; k < 4; ++k) e += c[k] * Expression(x[k]);
      return e;
    };
    const std::vector<int> row = coefficients();
    const int limit = static_cast<int>(random.between(-2, 5));
    m.rule("row", sum(row) <= limit);
    struct Stated {
      std::vector<int> c;
      bool maximize;
      Rational yields;
    };
    std::vector<Stated> goals;
    for (int g = 0; g < 3; ++g) {
      goals.push_back(
          {coefficients(), random.chance(0.5),
           random.chance(0.4) ? Rational::ratio(random.between(1, 5), 10) : Rational(0)});
      const Stated& s = goals.back();
      s.maximize ? m.maximize(fmt::format("g{}", g), sum(s.c))
                 : m.minimize(fmt::format("g{}", g), sum(s.c));
      if (!s.yields.is_zero()) m.yielding(s.yields);
    }
    std::vector<std::vector<int>> left;
    for (int code = 0; code < 81; ++code) {
      std::vector<int> plan;
      int activity = 0;
      for (int k = 0, rest = code; k < 4; ++k, rest /= 3) {
        plan.push_back(rest % 3);
        activity += row[static_cast<std::size_t>(k)] * plan.back();
      }
      if (activity <= limit) left.push_back(plan);
    }
    const Result r = solve(m);
    if (left.empty()) {
      REQUIRE(r.outcome == Outcome::infeasible);
      continue;
    }
    REQUIRE(r.outcome == Outcome::optimal);
    for (std::size_t g = 0; g < goals.size(); ++g) {
      const auto worth = [&](const std::vector<int>& plan) {
        int w = 0;
        for (std::size_t k = 0; k < 4; ++k) w += goals[g].c[k] * plan[k];
        return goals[g].maximize ? w : -w;
      };
      int best = worth(left[0]);
      for (const auto& plan : left) best = std::max(best, worth(plan));
      CHECK(*r.goals[g].reached == Rational(goals[g].maximize ? best : -best));
      const Rational least = Rational(best) - Rational(best).abs() * goals[g].yields;
      std::erase_if(left, [&](const auto& plan) { return Rational(worth(plan)) < least; });
    }
    std::vector<int> found;
    for (const Decision& d : x) found.push_back(static_cast<int>(r[d].to_double()));
    CHECK(std::find(left.begin(), left.end(), found) != left.end());
  }
}

TEST_CASE("greedy minds needs, exclusions and counts of plain decisions", "[greedy][logic]") {
  Model m{"Greedy"};
  const auto shows = Table::parse("shows", "show,worth\na,9\nb,8\nc,7\nd,1\n", {.key = {"show"}});
  const auto worth = shows.numbers("worth");
  const auto run = m.binary("run", shows);
  m.maximize("worth", total(shows, [&](Row s) { return worth[s] * run[s]; }));
  m.rule("room", total(run) <= 3);
  m.rule("apart", negated(all_of({run["a"], run["b"]})));
  m.rule("needs", implies(run["c"], run["d"]));
  m.rule("some", at_least(2, {run["a"], run["c"], run["d"]}));
  const auto answers = method("greedy").run(m, {}, nullptr);
  REQUIRE(answers.size() == 1);
  CHECK(answers[0].report->feasible);
}
