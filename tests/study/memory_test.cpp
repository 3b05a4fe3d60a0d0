// What a study remembers changes how fast it answers, never what.
#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "methods/variants.hpp"
#include "model/limit_changes.hpp"

using namespace kiteknot;

namespace {

struct Packing {
  Model model{"Packing"};
  std::vector<Decision> x;
  Number room, least;

  explicit Packing(Random& random, int items)
      : room(model.number("room", 20)), least(model.number("least", 0)) {
    Expression weight, worth, count;
    for (int k = 0; k < items; ++k) {
      x.push_back(model.binary(fmt::format("x{}", k)).only());
      weight += Rational::ratio(random.between(2, 30), 2) * Expression(x.back());
      worth += Rational(random.between(1, 20)) * Expression(x.back());
      count += x.back();
    }
    model.maximize("worth", worth);
    model.rule("fits", weight <= Expression(room));
    model.rule("enough", count >= Expression(least));
    model.rule("pair", implies(x[0], x[1]));
  }
};

}  // namespace

TEST_CASE("bounds of looser and tighter limits never change an answer", "[study][memory]") {
  Random random(71);
  int none = 0, some = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    Packing p(random, 8);
    Study study(p.model);
    Model fresh = p.model;
    for (int step = 0; step < 10; ++step) {
      CAPTURE(step);
      // Thirds are no binary fractions: limits are compared as they are meant.
      const Rational room = Rational::ratio(random.between(0, 150), 3);
      const Rational least = random.between(0, 8);
      study.set(p.room, room).set(p.least, least);
      fresh.set(p.room, room);
      fresh.set(p.least, least);
      const Result warm = study.solve(), cold = solve(fresh);
      REQUIRE(warm.outcome == cold.outcome);
      ++(cold.has_plan() ? some : none);
      if (!cold.has_plan()) continue;
      CHECK(warm.goal() == cold.goal());
      CHECK(check(fresh, Plan(fresh, warm.plan->values())).feasible);
    }
  }
  CHECK(none > 150);
  CHECK(some > 300);
}

TEST_CASE("a study answers about variants and stays as it is", "[study][memory]") {
  Random random(72);
  Packing p(random, 7);
  Study study(p.model);
  const Rational best = study.solve().goal();
  Model other = p.model;
  other.only_goal(0);
  other.add_to_goal(0, Expression(100) * Expression(p.x[3]));
  const Result with = study.ask(other);
  CHECK(with.goal() == solve(other).goal());
  CHECK(with.goal() >= best);
  Model turned = p.model;
  turned.forget_goals();
  turned.minimize("cost", p.x[0]);
  (void)p.model.binary("unused");
  CHECK_THROWS_AS(study.ask(p.model), UsageError);  // one decision more by now
  CHECK(study.solve().goal() == best);
  CHECK(study.model().goal_name() == "worth");
  CHECK(study.model().goal_sense() == Sense::maximize);
  CHECK_THROWS_AS(other.add_to_goal(1, Expression(p.x[0])), UsageError);
}

TEST_CASE("limits let go of single decisions widen a model, and only that", "[study][memory]") {
  Model m{"Limits"};
  const auto n = m.integer("n", {}, between(1, 3));
  const auto v = m.one_of("v", {}, {Rational(2), Rational(5)});
  m.maximize("sum", 2 * Expression(n) + Expression(v));
  m.rule("most", 2 * Expression(n) <= 9);
  CHECK(solve(m).goal() == Rational(11));
  Model high = m, whole = m, both = m;
  high.drop_limits(n.only(), false, true, false);
  CHECK(solve(high).goal() == Rational(13));  // n = 4
  whole.drop_limits(n.only(), false, false, true);
  CHECK(solve(whole).goal() == Rational(11));  // its greatest value still counts
  both.drop_limits(n.only(), false, true, true);
  CHECK(solve(both).goal() == Rational(14));  // n = 4.5
  CHECK(check(both, *solve(both).plan).feasible);
  CHECK_FALSE(check(m, Plan(m, solve(both).plan->values())).feasible);
  CHECK_THROWS_AS(m.drop_limits(v.only(), true, false, false), UsageError);
  CHECK(solve(m).goal() == Rational(11));
}

TEST_CASE("scenarios with other decisions are compared by name", "[study][vary]") {
  const auto with = [](const std::string& rows) {
    Model m{"Stalls"};
    const auto t = Table::parse("t", "stall,worth\n" + rows, {.key = {"stall"}});
    const auto worth = t.numbers("worth");
    const auto up = m.binary("up", t);
    m.maximize("worth", total(t, [&](Row r) { return worth[r] * up[r]; }));
    m.rule("two", total(up) <= 2);
    return m;
  };
  const Model base = with("tea,3\nkites,5\nrope,4\n");
  const Variation v = compare_scenarios(base, {{"same rows", with("tea,9\nkites,5\nrope,4\n")},
                                               {"one fewer", with("rope,1\ntea,2\n")}});
  REQUIRE(v.variants.size() == 2);
  CHECK(*v.variants[0].goal == Rational(14));
  REQUIRE(v.variants[0].changed.size() == 2);  // tea instead of rope
  CHECK(*v.variants[1].goal == Rational(3));
  REQUIRE(v.variants[1].changed.size() == 1);  // tea comes in; the kites are not there to compare
}

TEST_CASE("asked all at once or one by one, the answers are the same", "[study][together]") {
  Random random(73);
  int none = 0, together = 0, alone = 0;
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    Packing p(random, 9);
    const Lowering lowering = lower(p.model.data());
    const MovedLimits moved(p.model.data(), lowering, 0);
    REQUIRE(moved.only_limits());
    std::vector<Model> models;
    std::vector<mip::LimitChanges> changes;
    for (int k = 0; k < 12; ++k) {
      models.push_back(p.model);
      models.back().set(p.room, Rational::ratio(random.between(-9, 300), 3));
      changes.push_back(moved.under(models.back().data()));
    }
    const auto judge = [&](std::size_t k, const Plan& plan) {
      const PlanReport r = check(models[k], plan);
      return methods::Held{r.feasible, r.goal};
    };
    methods::Memory memory;
    const auto found = methods::solve_variants(p.model, lowering, changes, judge, {}, memory);
    for (std::size_t k = 0; k < models.size(); ++k) {
      const Result own = solve(models[k]);
      if (!found[k]) {
        ++alone;
        continue;
      }
      ++together;
      none += own.has_plan() ? 0 : 1;
      REQUIRE(found[k]->outcome == own.outcome);
      if (own.has_plan()) CHECK(*found[k]->goal == own.goal());
    }
    SolveOptions near;
    near.gap = 0.1;
    for (const auto& a : methods::solve_variants(p.model, lowering, changes, judge, near, memory))
      CHECK_FALSE(a);
    const auto never = [](std::size_t, const Plan&) { return methods::Held{}; };
    for (const auto& a : methods::solve_variants(p.model, lowering, changes, never, {}, memory))
      CHECK((!a || a->outcome == Outcome::infeasible));  // a plan that fails is no answer
  }
  CHECK(none > 5);
  CHECK(together > 300);
  CHECK(alone == 0);
}

TEST_CASE("sweeps and rules left out agree with solving each, real decisions or not",
          "[study][together]") {
  Random random(74);
  for (int round = 0; round < 40; ++round) {
    CAPTURE(round);
    Packing p(random, 8);
    if (round % 4 == 3) {  // one by one
      const auto y = p.model.real("y", {}, between(0, 3));
      p.model.rule("real", Expression(y) + Expression(p.x[0]) <= Expression(p.room) / 9);
      p.model.minimize("then", Expression(y) - Expression(p.x[2]));
    }
    const Variation v = sweep(p.model, {"room", 0, Rational::ratio(140, 3), 70});
    REQUIRE(v.variants.size() == 70);
    for (const Variant& one : v.variants) {
      Model m = p.model;
      m.set("room", one.at);
      const Result own = solve(m);
      INFO(one.at.text() << ": " << own.reason << own.search.stopped_by
                         << own.goals[0].gap.value_or(-1));
      REQUIRE(one.outcome == own.outcome);
      if (own.has_plan()) CHECK(one.goal == own.goals[0].value);
    }
    for (const bool rows : {false, true}) {
      const Variation left = without_each(p.model, rows);
      for (const Variant& one : left.variants) {
        Model m = p.model;
        m.without(one.name);
        CHECK(*one.goal == solve(m).goal());
      }
    }
  }
}

TEST_CASE("variants of goals in order tell all of them", "[study][vary]") {
  Random random(75);
  int differ = 0;
  for (int round = 0; round < 40; ++round) {
    CAPTURE(round);
    Packing p(random, 7);
    Expression cost;
    for (const Decision& d : p.x) cost += Rational(random.between(1, 5)) * Expression(d);
    p.model.minimize("cost", cost);
    const auto same = [&](const Variant& one, const Result& own) {
      REQUIRE(one.outcome == own.outcome);
      if (!own.has_plan()) return;
      CHECK(one.goal == own.goals[0].value);
      REQUIRE(one.later.size() == 1);
      CHECK(one.later[0] == own.goals[1].value);
    };
    const Variation v = sweep(p.model, {"room", 0, 40, 9, true});
    CHECK(v.later_goals == std::vector<std::string>{"cost"});
    for (const Variant& one : v.variants) {
      Model m = p.model;
      m.set("room", one.at);
      same(one, solve(m));
    }
    for (const Step& s : v.steps)  // a step changes a goal, or makes a plan (im)possible
      differ += s.later_before != s.later_after && s.goal_before == s.goal_after ? 1 : 0;
    const Variation left = without_each(p.model);
    std::vector<std::string> idle;
    for (const Variant& one : left.variants) {
      Model m = p.model;
      m.without(one.name);
      same(one, solve(m));
      if (one.goal == left.base.goal && one.later == left.base.later) idle.push_back(one.name);
    }
    const std::string page = variation_page(p.model, left);
    CHECK((page.find("would gain nothing") != std::string::npos) == !idle.empty());
    const std::string csv = variation_csv(left);
    CHECK(csv.find("bound,cost\n") != std::string::npos);
  }
  CHECK(differ > 0);
}
