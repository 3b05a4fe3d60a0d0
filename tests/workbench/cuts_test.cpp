// Cutting planes: every whole point of the region stays, the present point does not.
#include <functional>

#include <catch2/catch.hpp>

#include "support/knot.hpp"
#include "support/random_hand.hpp"

using namespace kiteknot;

namespace {

bool to_optimum(Tableau& t) {
  TableauRun r = run(t, StepRule::largest);
  if (r.end == TableauRun::End::neither) {
    t.set_first_phase(true);
    r = run(t, StepRule::largest);
    if (r.end == TableauRun::End::feasible) r = run(t, StepRule::largest);
  }
  return r.end == TableauRun::End::optimal;
}

bool meets(const TableauSum& sum, const Plan& plan) {
  Rational value;
  for (const auto& [column, c] : sum.terms) value += c * plan[column];
  return sum.at_least ? value >= sum.limit : value <= sum.limit;
}

}  // namespace

TEST_CASE("cuts lose no whole point and cut the present one off", "[workbench][oracle]") {
  Random random(1611);
  int cuts = 0, points = 0, goal_rows = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {.reals = false, .closed = true});
    Tableau t(model, {random.chance(0.3), false});
    const Tableau stated(model);
    if (!to_optimum(t)) continue;
    for (int more = 0; more < 3 && !t.is_whole(); ++more) {
      std::optional<TableauCut> next;
      for (const std::int32_t row : fractional_rows(t)) {
        std::vector<TableauCut> derived = {derive_cut(t, row, TableauCut::Kind::mixed)};
        if (why_no_fractional_cut(t, row).empty())
          derived.push_back(derive_cut(t, row, TableauCut::Kind::fractional));
        for (const TableauCut& cut : derived) {
          ++cuts;
          goal_rows += row < 0;
          const Rational now = value_of(t, cut.in_decisions);
          CHECK((cut.in_decisions.at_least ? now < cut.in_decisions.limit
                                           : now > cut.in_decisions.limit));
          // The same in the names of the others is violated by as much as the row's fraction.
          CHECK(cut.in_others.limit - value_of(t, cut.in_others) == cut.fraction);
          test::each_whole_point(stated, [&](const Plan& plan) {
            if (!check_exactly(model, plan).feasible) return;
            ++points;
            CHECK(meets(cut.in_decisions, plan));
          });
          next = cut;
        }
      }
      append(t, *next);
      if (run(t, StepRule::largest).end != TableauRun::End::optimal) break;
    }
  }
  CHECK(cuts > 400);
  CHECK(points > 5000);
  CHECK(goal_rows > 20);
}

TEST_CASE("mixed cuts with real decisions lose no plan, as the exact search shows",
          "[workbench][oracle]") {
  Random random(1612);
  int cuts = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {.closed = true});
    Tableau t(model);
    if (!to_optimum(t) || t.is_whole()) continue;
    const std::int32_t row = fractional_rows(t).front();
    const TableauCut cut = derive_cut(t, row, TableauCut::Kind::mixed);
    ++cuts;
    Model question = model;
    question.forget_goals();
    Expression side;
    for (const auto& [column, c] : cut.in_decisions.terms)
      side.add(c, model.decision(t.column(column).name));
    if (cut.in_decisions.at_least)
      question.minimize("side", side);
    else
      question.maximize("side", side);
    const Result far = solve(question);
    if (far.outcome == Outcome::infeasible) continue;
    REQUIRE(far.outcome == Outcome::optimal);
    CHECK((cut.in_decisions.at_least ? far.goal() >= cut.in_decisions.limit
                                     : far.goal() <= cut.in_decisions.limit));
  }
  CHECK(cuts > 25);
}

TEST_CASE("cutting all the way comes to the best whole plan", "[workbench][oracle]") {
  Random random(1613);
  int whole = 0, rounds = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {.reals = false, .closed = true});
    const Result known = solve(model);
    Tableau t(model);
    if (!to_optimum(t)) continue;
    const CutRun cut = cut_all_the_way(t, StepRule::largest, false);
    if (cut.end == CutRun::End::infeasible) CHECK(known.outcome == Outcome::infeasible);
    if (cut.end != CutRun::End::whole) continue;
    rounds += !cut.rounds.empty();
    ++whole;
    REQUIRE(known.outcome == Outcome::optimal);
    CHECK(t.goal_value() == known.goal());
    CHECK(check_exactly(model, t.plan()).feasible);
    for (const CutRound& r : cut.rounds)
      CHECK((t.maximize() ? r.after <= r.before : r.after >= r.before));
  }
  CHECK(whole > 80);
  CHECK(rounds > 25);
}

TEST_CASE("rows that give no cut say why", "[workbench]") {
  const Model model = test::model_of(
      "model \"m\"\ndecide a integer 0 .. 9\ndecide b real 0 .. 9\nmaximize z: 3 * a + b\n"
      "rule r: 2 * a + b <= 7\nrule s: 3 * a - b <= 9\n");
  Tableau t(model);
  REQUIRE(to_optimum(t));
  const std::int32_t row = t.column(0).place;
  REQUIRE(t.column(0).basic);
  REQUIRE_THROWS_WITH(derive_cut(t, row, TableauCut::Kind::fractional),
                      Catch::Contains("may take any value, and stands in the row"));
  REQUIRE_THROWS_WITH(derive_cut(t, t.column(1).place, TableauCut::Kind::mixed),
                      Catch::Contains("may take any value: its row gives no cut"));
  CHECK(derive_cut(t, row, TableauCut::Kind::mixed).fraction.sign() > 0);
}
