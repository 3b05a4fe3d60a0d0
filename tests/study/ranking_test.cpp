// The plans that come next, against all plans there are.
#include <algorithm>
#include <map>
#include <regex>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

struct Drawn {
  Model model{"Drawn"};
  std::vector<Decision> x;
  std::vector<std::pair<std::int64_t, std::int64_t>> bounds;
  int named = 0;  // the first of them are of family a, the others of family b
};

Drawn draw_whole(Random& random) {
  Drawn d;
  const int n = static_cast<int>(random.between(2, 5));
  d.named = static_cast<int>(random.between(1, n - 1));
  std::string csv = "k\n";
  for (int j = 0; j < n; ++j) csv += "k" + std::to_string(j) + "\n";
  const Table keys = Table::parse("keys", csv, {.key = {"k"}});
  const bool binary = random.chance(0.4);
  const std::int64_t low = binary ? 0 : random.between(-2, 0),
                     high = binary ? 1 : random.between(1, 2);
  const auto part = [&](const char* name, int from, int to) {
    Over over(keys);
    over.where = by_rows<bool>([from, to](Row r) { return r.index() >= from && r.index() < to; });
    const Decisions own =
        binary ? d.model.binary(name, over) : d.model.integer(name, over, between(low, high));
    for (int j = from; j < to; ++j) {
      d.x.push_back(own["k" + std::to_string(j)]);
      d.bounds.emplace_back(low, high);
    }
  };
  part("a", 0, d.named);
  part("b", d.named, n);
  Expression goal, use;
  for (const Decision& v : d.x) {
    goal += Rational(random.between(-4, 6)) * Expression(v);
    use += Rational(random.between(-2, 5)) * Expression(v);
  }
  d.model.rule("use", use <= Rational(random.between(0, 9)));
  if (random.chance(0.3))
    d.model.rule("some", any_of({Expression(d.x[0]) >= 1, Expression(d.x[1]) >= 1}));
  random.chance(0.5) ? d.model.maximize("worth", goal) : d.model.minimize("cost", goal);
  return d;
}

// The best goal for every choice of the first `deciding` decisions, best first.
std::vector<Rational> all_in_order(const Drawn& d, int deciding) {
  std::map<std::vector<std::int64_t>, Rational> best;
  const bool up = d.model.goal_sense() == Sense::maximize;
  Plan plan(d.model);
  std::vector<std::int64_t> values(d.x.size());
  const auto go = [&](const auto& self, std::size_t j) -> void {
    if (j == d.x.size()) {
      const PlanReport report = check(d.model, plan);
      if (!report.feasible) return;
      const std::vector<std::int64_t> own(values.begin(), values.begin() + deciding);
      const auto [at, fresh] = best.emplace(own, *report.goal);
      if (!fresh)
        at->second = up ? std::max(at->second, *report.goal) : std::min(at->second, *report.goal);
      return;
    }
    for (std::int64_t v = d.bounds[j].first; v <= d.bounds[j].second; ++v) {
      values[j] = v;
      plan.set(d.x[j], v);
      self(self, j + 1);
    }
  };
  go(go, 0);
  std::vector<Rational> goals;
  for (const auto& [own, goal] : best) goals.push_back(goal);
  std::sort(goals.begin(), goals.end());
  if (up) std::reverse(goals.begin(), goals.end());
  return goals;
}

// What comes on the way.
struct Heard : Observer {
  std::vector<Plan> plans;
  void next_plan(std::size_t place, const Plan& plan) override {
    plans.push_back(plan);
    CHECK(place == plans.size() + 1);
  }
  // The same plans in the same places as in the end.
  [[nodiscard]] bool as_in(const Ranking& ranking) const {
    bool same = plans.size() + 1 == ranking.proven;
    for (std::size_t k = 0; same && k < plans.size(); ++k)
      same = plans[k].values() == ranking.plans[k + 1].plan.values();
    return same;
  }
};

}  // namespace

TEST_CASE("plans come in the order of all plans, and end where there are no more",
          "[study][ranking][oracle]") {
  Random random(77);
  int ended = 0, tied = 0;
  for (int round = 0; round < 250; ++round) {
    CAPTURE(round);
    const Drawn d = draw_whole(random);
    const bool by_name = random.chance(0.4);
    const std::vector<Rational> all =
        all_in_order(d, by_name ? d.named : static_cast<int>(d.x.size()));
    const Result best = solve(d.model);
    if (all.empty()) {
      REQUIRE(best.outcome == Outcome::infeasible);
      continue;
    }
    RankingQuestion question{static_cast<int>(random.between(0, 6)), {}};
    if (by_name) question.differ = {"a"};
    Heard heard;
    const Ranking ranking = next_best(best, question, {}, &heard);
    REQUIRE(heard.as_in(ranking));
    REQUIRE(ranking.plans[0].plan.values() == best.plan->values());
    const std::size_t wanted = std::min(all.size(), static_cast<std::size_t>(question.count) + 1);
    REQUIRE(ranking.plans.size() == wanted);
    REQUIRE(ranking.no_more == (all.size() < static_cast<std::size_t>(question.count) + 1));
    REQUIRE(ranking.stopped_by.empty());
    ended += ranking.no_more ? 1 : 0;
    for (std::size_t k = 0; k < wanted; ++k) {
      REQUIRE(ranking.plans[k].goals.at(0) == all[k]);
      REQUIRE(check(d.model, ranking.plans[k].plan).feasible);
      for (std::size_t i = 0; i < k; ++i) {
        bool differs = false;
        for (int j = 0; j < (by_name ? d.named : static_cast<int>(d.x.size())); ++j)
          differs = differs || ranking.plans[k].plan[d.x[static_cast<std::size_t>(j)].id] !=
                                   ranking.plans[i].plan[d.x[static_cast<std::size_t>(j)].id];
        REQUIRE(differs);
      }
    }
    const std::string line = ties_line(next_best(best, {}));
    if (by_name) continue;
    if (all.size() > 1 && all[1] == all[0]) {
      ++tied;
      REQUIRE(line.find("Another plan is just as good: it ") == 0);
    } else {
      REQUIRE(line == (all.size() > 1
                           ? "The best other plan comes to " + all[1].text() + "."
                           : "Nothing else is possible: no other plan meets all rules."));
    }
  }
  CHECK(ended > 10);
  CHECK(tied > 10);
}

TEST_CASE("what cannot be ranked is told before the search", "[study][ranking]") {
  const Model m = parse_knot(R"(model "Kinds"
decide x real 0 .. 5
decide y integer 0 .. 5
minimize cost: x + y
rule r: x + 2 * y >= 3
)",
                             "m.knot")
                      .value();
  CHECK_THROWS_WITH(need_different(m, {1, {"z"}}), Catch::Contains("no decisions 'z'"));
  CHECK_THROWS_WITH(need_different(m, {1, {"x"}}), Catch::Contains("x are not whole"));
  CHECK_NOTHROW(need_different(m, {1, {"y"}}));
  const Model real =
      parse_knot("model \"R\"\ndecide x real 0 .. 5\nminimize c: x\n", "r.knot").value();
  CHECK_THROWS_WITH(need_different(real, {}), Catch::Contains("no decision is whole"));
  CHECK_THROWS_WITH(next_best(solve_relaxed(m), {}), Catch::Contains("proven best"));
  // Real decisions follow: y = 2 costs 2, y = 1 costs 2 as well.
  const Ranking ranking = next_best(solve(m), {2, {}});
  REQUIRE(ranking.plans.size() == 3);
  CHECK(ties_line(next_best(solve(m), {})).find("Other whole decisions are just as good: one ") ==
        0);
  CHECK(ranking.plans[2].goals[0] == Rational(3));
  const std::string page = ranking_page(ranking);
  CHECK(page.find("  2   cost 2   as good   ") != std::string::npos);
  CHECK(page.find("  3   cost 3   +1        ") != std::string::npos);
  SolveOptions none;
  none.seconds = 0.0;
  const Ranking cut = next_best(solve(m), {2, {}}, none);
  CHECK(cut.stopped_by == "time");
  CHECK(ranking_page(cut).find("stopped before its proof") != std::string::npos);
  CHECK(ties_line(cut).empty());
}

TEST_CASE("several plans with real decisions are those of solving one after the other",
          "[study][ranking][oracle]") {
  Random random(79);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    Drawn d = draw_whole(random);
    const Decision y = d.model.real("y", {}, between(0, 3)).only();
    d.model.rule("tied", Expression(y) >= Rational::ratio(random.between(1, 5), 3) -
                                              Expression(d.x[0]) * Rational(random.between(1, 2)));
    d.model.add_to_goal(0, Rational(random.between(-2, 2)) * Expression(y));
    const Result best = solve(d.model);
    if (best.outcome != Outcome::optimal) continue;
    Heard heard;
    const Ranking few = next_best(best, {5, {}}, {}, &heard);
    CHECK(heard.as_in(few));
    CHECK(few.plans[0].plan.values() == best.plan->values());  // that which was told comes first
    // By single next ones, each with the plans before it ruled out.
    Model rest = d.model;
    std::vector<Rational> one_by_one = {*best.goals[0].value};
    for (std::size_t k = 0; k < few.plans.size(); ++k) {
      std::vector<Condition> other;
      for (const Decision& x : d.x) {
        const Rational v = few.plans[k].plan[x.id];
        other.push_back(Expression(x) <= Expression(v - Rational(1)));
        other.push_back(Expression(x) >= Expression(v + Rational(1)));
      }
      rest.rule("not " + std::to_string(k), any_of(std::move(other)));
      const Result next = solve(rest);
      if (next.outcome != Outcome::optimal) break;
      one_by_one.push_back(*next.goals[0].value);
    }
    for (std::size_t k = 0; k < few.plans.size(); ++k) {
      CHECK(check(d.model, few.plans[k].plan).feasible);
      CHECK(few.plans[k].goals[0] == one_by_one.at(k));
    }
    CHECK(few.no_more == (few.plans.size() < 6));
  }
}

TEST_CASE("a limit leaves the plans so far, those in their place and others", "[study][ranking]") {
  Model m{"Many"};
  Expression goal, use;
  Random random(5);
  std::string csv = "k\n";
  for (int j = 0; j < 24; ++j) csv += "k" + std::to_string(j) + "\n";
  const Table keys = Table::parse("keys", csv, {.key = {"k"}});
  const Decisions x = m.integer("x", keys, between(0, 3));
  for (int j = 0; j < 24; ++j) {
    const auto w = random.between(5, 40);
    goal += Rational(w + random.between(-3, 6)) * Expression(x["k" + std::to_string(j)]);
    use += Rational(w) * Expression(x["k" + std::to_string(j)]);
  }
  m.maximize("worth", goal);
  m.rule("use", use <= 300);
  const Result best = solve(m);
  REQUIRE(best.outcome == Outcome::optimal);
  const Ranking whole = next_best(best, {40, {}});
  REQUIRE(whole.plans.size() == 41);
  CHECK(whole.proven == 41);
  for (std::size_t k = 1; k < whole.plans.size(); ++k)
    CHECK(whole.plans[k].goals[0] <= whole.plans[k - 1].goals[0]);
  SolveOptions few;
  few.nodes = 120;
  Heard heard;
  const Ranking cut = next_best(best, {40, {}}, few, &heard);
  CHECK(heard.as_in(cut));
  // Told in pieces it is the same page, where no column has to become wider.
  RankingPieces pieces(m, whole.question, whole.plans[0].plan);
  const std::span<const RankedPlan> next(whole.plans);
  std::string told = pieces.more(next.subspan(1, 9));
  told += pieces.more({});
  told += pieces.more(next.subspan(10, 20));
  const auto blank = [](std::string page) {  // the first nine places are a digit shorter
    return std::regex_replace(page, std::regex(" +"), " ");
  };
  CHECK(blank(told + pieces.rest(whole)) == blank(ranking_page(whole)));
  CHECK(cut.stopped_by == "nodes");
  CHECK(cut.proven >= 1);
  CHECK(cut.proven <= cut.plans.size());
  for (std::size_t k = 0; k < cut.proven; ++k)
    CHECK(cut.plans[k].goals[0] == whole.plans[k].goals[0]);
}
