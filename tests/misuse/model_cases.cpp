// Models, their copies, expressions, conditions and plans.

#include <cmath>
#include <limits>
#include <thread>

#include "misuse.hpp"

using namespace misuse;

// What either copy states later is not the other's, however it came to be a copy.
REFUSED(copy_changed_before_it_states, "another copy of model") {
  Programme p;
  Model rainy = p.model;
  rainy.set(p.hours, 2);
  const Decision tents = p.model.integer("tents", {}, between(0, 9));
  const Decision coats = rainy.integer("coats", {}, between(0, 9));
  (void)coats;
  rainy.rule("few tents", tents <= 3);
}
REFUSED(copy_states_first, "another copy of model") {
  Programme p;
  Model rainy = p.model;
  const Decision coats = rainy.integer("coats", {}, between(0, 9));
  p.model.set(p.hours, 2);
  (void)p.model.integer("tents", {}, between(0, 9));
  p.model.rule("few coats", coats <= 3);
}
REFUSED(copy_of_a_copy, "another copy of model") {
  Programme p;
  Model a = p.model, b = a;
  a.without("crew");
  b.without("crew");
  const Decision x = a.binary("x").only();
  (void)b.binary("y");
  b.rule("r", x >= 1);
}
REFUSED(copy_number, "a number of another model") {
  Programme p;
  Model rainy = p.model;
  rainy.set(p.hours, 2);
  const Number own = p.model.number("own", 1);
  (void)rainy.number("theirs", 2);
  rainy.set(own, 3);
}
REFUSED(copy_mixed_in_one_sum, "have stated apart") {
  Programme p;
  Model rainy = p.model;
  rainy.set(p.hours, 2);
  const Decision tents = p.model.binary("tents").only();
  const Decision coats = rainy.binary("coats").only();
  (void)(tents + coats);
}
REFUSED(copy_plan, "a plan of another model") {
  Programme p;
  Model rainy = p.model;
  rainy.set(p.hours, 2);
  (void)p.model.binary("tents");
  (void)rainy.binary("coats");
  (void)check(rainy, Plan(p.model));
}
REFUSED(copy_answer, "of another model") {
  Programme p;
  Model rainy = p.model;
  rainy.set(p.hours, 2);
  const Decision tents = p.model.binary("tents").only();
  (void)rainy.binary("coats");
  (void)solve(rainy)[tents];
}
HARMLESS(copy_understands_what_came_before) {
  Programme p;
  Model rainy = p.model, dry = p.model;
  rainy.set(p.hours, 2);
  dry.without("crew");
  const Decision coats = rainy.binary("coats").only();
  rainy.rule("first", p.run["drums"] + coats <= 1);
  rainy.rule("second", coats + p.run["lamps"] <= 1);
  dry.rule("third", p.run["drums"] >= 1);
  need(check(dry, *solve(p.model).plan).rules.size() == 1);
  need(solve(rainy)[p.run["sleds"]] == Rational(1));
  need(solve(dry).goal() == Rational(130));
}
HARMLESS(copies_in_threads) {
  Programme p;
  std::vector<std::thread> threads;
  std::vector<Rational> goals(4);
  for (int k = 0; k < 4; ++k)
    threads.emplace_back([&p, &goals, k] {
      for (int round = 0; round < 20; ++round) {
        Model own = p.model;
        own.set(p.hours, 2 + k);
        const Model again = own;
        goals[static_cast<std::size_t>(k)] = solve(again).goal();
      }
    });
  for (std::thread& t : threads) t.join();
  need(goals[0] == Rational(20) && goals[3] == Rational(70));
}
HARMLESS(copy_tags_stay_few) {
  Programme p;
  for (int k = 0; k < 5000; ++k) {
    const Model kept = p.model;
    p.model.set(p.hours, k % 9);
  }
  std::size_t tags = 0;
  for (const ModelTag* t = p.run.model().get(); t != nullptr; t = t->from.get()) ++tags;
  const Decision last = p.model.binary("last").only();
  for (const ModelTag* t = last.model.get(); t != nullptr; t = t->from.get()) ++tags;
  need(tags < 10);
}

HARMLESS(sum_with_itself) {
  Programme p;
  const Decision x = p.model.integer("x", {}, between(0, 9));
  Expression e = 3 * x + 1 + Expression(p.hours) * x;
  const Expression& same = e;
  e += same;
  Plan plan(p.model);
  plan.set(x, 5);
  Model m = p.model;
  m.maximize("later", e);
  need(check(m, plan).goals.back() == Rational(2 * (3 * 5 + 1 + 7 * 5)));
  e -= same;
  m.rule("nothing", e == 0);
  need(check(m, plan).feasible);
  Expression one = 3;
  const Expression& same_one = one;
  one *= same_one;
  need(one.constant() == Rational(9));
  one /= same_one;
  need(one.constant() == Rational(1));
  Expression by_number = p.hours;
  const Expression& same_number = by_number;
  by_number *= same_number;
  by_number /= same_number;
  need(by_number.is_linear());
}
HARMLESS(sum_product_with_itself) {
  Programme p;
  const Decision x = p.model.integer("x", {}, between(0, 9));
  Expression e = x;
  const Expression& same = e;
  e *= same;
  p.model.rule("square", e <= 9);
  (void)solve(p.model);
}
REFUSED(sum_exponent_with_a_decision, "an exponent holds no decisions") {
  Programme p;
  (void)power(2, p.run["drums"]);
}
REFUSED(sum_log_of_what_may_be_0, "needs it above 0") {
  Programme p;
  p.model.rule("share", log(p.run["drums"]) >= -1);
  (void)solve(p.model);
}
REFUSED(sum_product_without_an_end, "needs a bound") {
  Programme p;
  const Decision x = p.model.real("x", {}, from(0)), y = p.model.real("y", {}, from(0));
  p.model.rule("share", Expression(x) * y <= 9);
  (void)solve(p.model);
}
HARMLESS(sum_of_a_hundred_thousand) {
  Model m{"Long"};
  const Table t = Table::of_keys("t", "k", {"a", "b", "c"});
  const Decisions x = m.binary("x", t);
  Expression e;
  for (int k = 0; k < 100'000; ++k) e = std::move(e) + x["a"];
  Rational r = 0;
  for (int k = 0; k < 100'000; ++k) r = std::move(r) + Rational(1);
  need(e.terms().size() == 100'000 && r == Rational(100'000));
}
HARMLESS(sum_turned_round) {
  Programme p;
  const Decision x = p.model.integer("x", {}, between(0, 9));
  p.model.rule("r", -x <= -2);
  p.model.rule("s", -p.run["drums"] + -Expression(p.hours) <= 0);
  Model single{"S"};
  const Decisions y = single.binary("y");
  single.rule("t", -y <= 0);
  need(solve(p.model)[x] >= Rational(2));
}
REFUSED(sum_of_no_model, "that no model has stated") {
  (void)(Decision{} + 1);
}
REFUSED(sum_of_a_number_of_no_model, "that no model has stated") {
  (void)(Number{} + 1);
}
REFUSED(sum_with_infinity, "an infinite figure stands in") {
  Programme p;
  (void)(p.run["drums"] * Rational::infinity());
}
REFUSED(sum_not_a_number, "NaN is not a figure") {
  Programme p;
  (void)(p.run["drums"] + std::nan(""));
}
REFUSED(sum_divided_by_nothing, "by 0") {
  Programme p;
  (void)(p.run["drums"] / 0);
}
REFUSED(sum_divided_by_a_decision_that_may_be_0, "which may be 0") {
  Programme p;
  p.model.rule("share", Expression(1) / p.run["drums"] <= 3);
  (void)solve(p.model);
}
REFUSED(largest_of_nothing, "of nothing") {
  (void)largest({});
}
REFUSED(condition_negative_count, "cannot be negative") {
  (void)at_least(-1, {});
}
REFUSED(condition_of_a_whole_decision, "is not a yes-or-no decision") {
  Programme p;
  const Decision x = p.model.integer("x", {}, between(0, 9));
  p.model.rule("r", Condition(x));
}
REFUSED(condition_forged_kind, " ") {
  Programme p;
  p.model.rule("r", Condition(Condition::Kind::implies, {}));
}
REFUSED(condition_forged_negation, " ") {
  Programme p;
  p.model.rule("r", Condition(Condition::Kind::negation, {}));
}
REFUSED(condition_forged_truth, " ") {
  Programme p;
  Condition c;
  c.kind = Condition::Kind::truth;
  p.model.rule("r", c);
}
REFUSED(condition_forged_tour, " ") {
  Programme p;
  Condition c;
  c.kind = Condition::Kind::tour;
  p.model.rule("r", c);
}
REFUSED(condition_too_deep, "deep inside each other") {
  Programme p;
  Condition c = p.run["drums"];
  for (int k = 0; k < 100'000; ++k) c = implies(std::move(c), p.run["lamps"]);
}
HARMLESS(condition_moved_from) {
  Programme p;
  Condition c = p.run["drums"] + p.run["lamps"] <= 1;
  const Condition d = std::move(c);
  p.model.rule("a", d);
  p.model.rule("b", c);  // NOLINT(bugprone-use-after-move): nothing, or the same
  need(solve(p.model).has_plan());
}

REFUSED(decisions_of_no_model, "that no model has stated") {
  (void)Decisions()["a"];
}
REFUSED(decisions_of_no_model_member, "that no model has stated") {
  (void)Decisions().member(0);
}
REFUSED(decisions_of_no_model_only, "that no model has stated") {
  (void)(Expression(Decisions()) <= 1);
}
HARMLESS(decisions_of_no_model_none) {
  need(Decisions().size() == 0);
}
REFUSED(decisions_past_the_end, "not one at place 3") {
  Programme p;
  (void)p.run.member(3);
}
REFUSED(decisions_row_of_another_table, "is indexed by rows of shows") {
  Programme p;
  const Table t = Table::of_keys("t", "k", {"a"});
  (void)p.run[t["a"]];
}
REFUSED(decisions_row_made_up, "has no row at place 50") {
  Programme p;
  (void)p.run[Row(&shows().data(), 50)];
}
REFUSED(decisions_row_of_no_table, "not of none") {
  Programme p;
  (void)p.run[Row(nullptr, 0)];
}
REFUSED(decisions_two_rows, "is indexed by 1 row, not 2") {
  Programme p;
  (void)p.run(shows()["drums"], shows()["lamps"]);
}
REFUSED(decisions_of_a_family, "name one of its rows") {
  Programme p;
  p.model.rule("r", p.run <= 1);
}
REFUSED(quantities_of_no_model, "that no model has named") {
  const Quantities none;
  (void)none[shows()["drums"]];
}
REFUSED(quantities_row_made_up, "has no row at place 9") {
  Programme p;
  const Quantities twice = p.model.let("twice", shows(), [&](Row s) { return 2 * p.run[s]; });
  (void)twice[Row(&shows().data(), 9)];
}

REFUSED(rule_with_more_rows, "a function of 2 rows was given for 1 table") {
  Programme p;
  p.model.rule("r", shows(), [&](Row a, Row b) { return p.run[a] + p.run[b] <= 1; });
}
REFUSED(rule_with_fewer_rows, "a function of 1 row was given for 2 tables") {
  Programme p;
  p.model.rule("r", {shows(), shows()}, [&](Row a) { return p.run[a] <= 1; });
}
REFUSED(rule_over_nothing, "a function of 1 row was given for 0 tables") {
  Programme p;
  p.model.rule("r", Over{}, [&](Row a) { return p.run[a] <= 1; });
}
REFUSED(let_with_more_rows, "a function of 3 rows was given for 2 tables") {
  Programme p;
  (void)p.model.let("l", {shows(), shows()}, [&](Row a, Row, Row) { return 2 * p.run[a]; });
}
REFUSED(limits_with_more_rows, "a function of 2 rows was given for 1 table") {
  Programme p;
  (void)p.model.integer("x", shows(), [](Row, Row) { return between(0, 3); });
}
REFUSED(where_with_more_rows, "a function of 2 rows was given for 1 table") {
  Programme p;
  (void)p.model.binary("x", {shows(), [](Row a, Row b) { return a == b; }});
}
HARMLESS(where_beside_the_tables) {
  Programme p;
  const Decisions pairs = p.model.binary(
      "pair", {{shows(), shows()}, [](Row a, Row b) { return a.index() < b.index(); }});
  need(pairs.size() == 3);
  const Decisions some = p.model.binary("some", {shows(), [](Row a) { return a.index() > 0; }});
  need(some.size() == 2);
}
REFUSED(rule_name_twice, "two rules with the name") {
  Programme p;
  p.model.rule("crew", p.run["drums"] <= 1);
}
REFUSED(rule_name_twice_from_inside, "two rules with the name") {
  Programme p;
  p.model.rule("r", shows(), [&](Row s) {
    if (s.index() == 0) p.model.rule("r", p.run[s] <= 1);
    return p.run[s] <= 1;
  });
}
REFUSED(decision_name_twice_from_inside, "the name 'x' is taken already") {
  Programme p;
  (void)p.model.integer("x", shows(), [&](Row s) {
    if (s.index() == 0) (void)p.model.binary("x");
    return between(0, 3);
  });
}
REFUSED(let_name_twice_from_inside, "the name 'l' is taken already") {
  Programme p;
  (void)p.model.let("l", shows(), [&](Row s) {
    if (s.index() == 0) (void)p.model.let("l", Expression(1));
    return 2 * p.run[s];
  });
}
REFUSED(rule_without_name, "needs a name") {
  Programme p;
  p.model.rule("", p.run["drums"] <= 1);
}
REFUSED(rule_of_another_model, "was given to model") {
  Programme p;
  Model m{"Other"};
  m.rule("r", p.run["drums"] <= 1);
}
REFUSED(goal_of_another_model, "was given to model") {
  Programme p;
  Model m{"Other"};
  m.maximize("g", total(p.run));
}
REFUSED(goal_that_is_not_there, "no such goal") {
  Programme p;
  p.model.add_to_goal(4, 1);
}
REFUSED(goal_only_one_that_is_not_there, "no such goal") {
  Programme p;
  p.model.only_goal(4);
}
REFUSED(goal_none_to_yield, "no goal was stated") {
  Model m{"None"};
  m.yielding(Rational::ratio(1, 10));
}
REFUSED(goal_yields_less_than_nothing, "a share of at least 0") {
  Programme p;
  p.model.yielding(-1);
}
REFUSED(price_by_a_decision, "depends on a decision") {
  Programme p;
  p.model.or_pay("crew", p.run["drums"]);
}
REFUSED(price_of_no_rule, "nearest is 'crew'") {
  Programme p;
  p.model.or_pay("crow", 3);
}
REFUSED(number_by_a_decision, "would depend on a decision") {
  Programme p;
  (void)p.model.number("n", p.run["drums"]);
}
REFUSED(number_without_end, "finite figure") {
  Programme p;
  p.model.set(p.hours, Rational::infinity());
}
REFUSED(number_forged, "a number of another model") {
  Programme p;
  p.model.set(Number{p.run.model(), 77}, 1);
}
REFUSED(number_forged_in_a_rule, "does not have") {
  Programme p;
  p.model.rule("r", p.run["drums"] <= Number{p.run.model(), 77});
}
REFUSED(decision_forged_in_a_rule, "does not have") {
  Programme p;
  p.model.rule("r", Decision{p.run.model(), 77} <= 1);
}
REFUSED(decision_forged_in_a_goal, "does not have") {
  Programme p;
  p.model.minimize("g", Expression(Decision{p.run.model(), 77}));
}
REFUSED(decision_forged_in_a_condition, "does not have") {
  Programme p;
  p.model.rule("r", implies(Decision{p.run.model(), 77, true}, p.run["drums"]));
}
REFUSED(number_missing, "no number 'houres'") {
  Programme p;
  p.model.set("houres", 3);
}
REFUSED(bounds_by_a_decision, "depends on a decision") {
  Programme p;
  (void)p.model.real("x", {}, from(p.run["drums"]));
}
REFUSED(bounds_that_leave_nothing, "leave nothing") {
  Programme p;
  (void)p.model.integer("x", {}, between(3, 1));
}
REFUSED(bounds_infinite_not_said, "is not said") {
  Programme p;
  (void)p.model.integer("x", {}, up_to(3));
}
HARMLESS(bounds_infinite_said) {
  Model m{"Said"};
  const Decision x = m.integer("x", {}, between(no_limit, 3)), y = m.real("y", {}, up_to(3));
  const Decision z = m.integer("z", {}, between(1, no_limit));
  m.maximize("g", x + y - z);
  need(solve(m).goal() == Rational(5));
}
REFUSED(bounds_infinite_figure, "an infinite figure") {
  Programme p;
  (void)p.model.integer("x", {}, between(0, Rational::infinity()));
}
REFUSED(bounds_none_to_take, "no value to take") {
  Programme p;
  (void)p.model.one_of("x", {}, {});
}
REFUSED(bounds_listed_infinity, " ") {
  Programme p;
  (void)p.model.one_of("x", {}, {1, Rational::infinity()});
}
REFUSED(hold_listed, "is not held") {
  Programme p;
  const Decision x = p.model.one_of("x", {}, {1, 4}).only();
  p.model.hold(x, 1);
}
REFUSED(hold_at_infinity, " ") {
  Programme p;
  p.model.hold(p.run["drums"], Rational::infinity());
}
REFUSED(hold_of_another_model, "of another model") {
  Programme p;
  p.model.hold(Decision{small_model().decision("x").model, 0}, 1);
}
HARMLESS(keep_rows_that_throws) {
  Programme p;
  p.model.rule("each", shows(), [&](Row s) { return p.run[s] <= 0; });
  try {
    p.model.keep_rows([](std::int32_t family, std::int32_t member) -> bool {
      if (family == 1 && member == 2) throw std::runtime_error("no more");
      return false;
    });
    need(false);
  } catch (const std::runtime_error&) {
  }
  need(check(p.model, Plan(p.model)).rules.size() == 4);
  need(solve(p.model).goal() == Rational(0));
}
HARMLESS(model_moved_from) {
  Programme p;
  const Model m = std::move(p.model);
  need(p.model.num_decisions() == m.num_decisions());  // NOLINT(bugprone-use-after-move)
  p.model.set(p.hours, 2);
  need(solve(m).goal() == Rational(90));
}
REFUSED(names_of_a_row_that_is_not_there, "no row 0 of a rule 9") {
  Programme p;
  (void)p.model.name(RuleRow{9, 0});
}
REFUSED(names_of_a_decision_that_is_not_there, "not one with number 12") {
  Programme p;
  (void)p.model.decision_name(12);
}
REFUSED(names_of_a_decision_before_the_first, "not one with number -1") {
  Programme p;
  (void)p.model.decision(-1);
}
HARMLESS(names_of_all_that_answers_count_by) {
  Programme p;
  const Result r = solve(p.model);
  need(p.model.name(r.report->rules[0].row()) == "crew");
  need(p.model.name(p.model.decision(1)) == "run[lamps]" && p.model.name(p.hours) == "hours");
  need(p.model.decision_name(2) == "run[sleds]");
}
REFUSED(names_forged, "not one with number 99") {
  Programme p;
  (void)p.model.name(Decision{p.run.model(), 99});
}
REFUSED(names_of_no_model, "of another model") {
  Programme p;
  (void)p.model.name(Decision{});
}
REFUSED(names_unknown, "no decision 'rum[drums]'") {
  Programme p;
  (void)p.model.decision("rum[drums]");
}
REFUSED(names_half_written, " ") {
  Programme p;
  (void)p.model.decision("run[\"drums");
}
REFUSED(family_too_large, "more than 2000000 members") {
  std::vector<std::string> keys;
  for (int k = 0; k < 2000; ++k) keys.push_back(std::to_string(k));
  const Table t = Table::of_keys("t", "k", keys);
  Model m{"Large"};
  (void)m.binary("x", {t, t});
}
REFUSED(tour_without_legs, " ") {
  Programme p;
  p.model.tour("loop", p.run, shows());
}
REFUSED(tour_of_no_decisions, "that no model has stated") {
  Programme p;
  p.model.tour("loop", Decisions(), shows());
}
REFUSED(tour_from_another_table, " ") {
  Model m{"T"};
  const Table stops = Table::of_keys("stops", "s", {"a", "b", "c"});
  const Decisions legs = m.binary("leg", Table::pairs("pairs", stops));
  m.tour("loop", legs, stops, {.from = shows()["drums"]});
}

REFUSED(plan_too_short, "2 values") {
  Programme p;
  (void)Plan(p.model, {1, 0});
}
REFUSED(plan_infinite, "finite values") {
  Programme p;
  Plan plan(p.model);
  plan.set(p.run["drums"], Rational::infinity());
}
REFUSED(plan_made_with_infinity, "finite values") {
  Programme p;
  (void)Plan(p.model, {1, 0, Rational::infinity()});
}
REFUSED(plan_of_another_model, "a plan of another model") {
  Programme p;
  (void)check(p.model, Plan(other_model()));
}
REFUSED(plan_asked_of_another_model, "a decision of another model") {
  Programme p;
  (void)Plan(other_model())[p.run["drums"]];
}
REFUSED(plan_asked_past_its_end, "was asked for number 3") {
  Programme p;
  (void)Plan(p.model)[3];
}
REFUSED(plan_older_than_the_decision, " ") {
  Programme p;
  const Plan plan(p.model);
  (void)plan[p.model.binary("late").only()];
}
REFUSED(plan_moved_from, "another model") {
  Programme p;
  Plan plan(p.model);
  const Plan taken = std::move(plan);
  (void)plan[p.run["drums"]];  // NOLINT(bugprone-use-after-move)
}
HARMLESS(plan_of_a_temporary) {
  Programme p;
  const Rational& goal = solve(p.model).goal();
  const Rational& value = solve(p.model)[p.run["lamps"]];
  need(goal == Rational(90) && value == Rational(1));
}
REFUSED(stated_in_the_middle, " ") {
  // A row of a generator's model is none of this one's.
  Programme p;
  p.model.note_place("", "");
  (void)p.model.value(Number{p.run.model(), -1});
}
