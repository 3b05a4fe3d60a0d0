// Pages, figures, files, histories, and work at a tableau.

#include <cmath>
#include <cstdio>
#include <filesystem>
#include <limits>

#include <unistd.h>

#include "misuse.hpp"

using namespace misuse;

namespace {

std::string scratch(const std::string& name) {
  return (std::filesystem::temp_directory_path() / ("misuse-" + std::to_string(getpid()) + name))
      .string();
}
// Goes with the case.
struct File {
  explicit File(const std::string& name) : path(scratch(name)) {}
  ~File() {
    std::error_code ignored;
    std::filesystem::remove_all(path, ignored);
  }
  std::string path;
};
constexpr double kInf = std::numeric_limits<double>::infinity();

// Every page and figure of an answer; what they refuse is no matter.
void tell_all(const Result& r) {
  const auto each = [](const auto& tell) {
    try {
      tell();
    } catch (const UsageError&) {
    }
  };
  each([&] { (void)answer_page(r); });
  each([&] { (void)left_out_page(r); });
  each([&] { (void)result_document(r); });
  each([&] { (void)saved_answer(r, {}); });
  each([&] { (void)tree_figure(r); });
  each([&] { (void)tree_dot(r); });
  each([&] { (void)progress_figure({progress_of(r, "one")}); });
  each([&] { (void)html_report(ReportParts(r)); });
  each([&] { (void)ties_line(next_best(r, {1, {}})); });
  each([&] { (void)comparison_page(r.model(), compare(r, method_names())); });
}

}  // namespace

HARMLESS(pages_of_nothing) {
  Programme p;
  tell_all(Result());
  tell_all(Result(p.model));
  (void)show_page(Model{"None"});
  (void)progress_line(p.model, {});
  (void)progress_line(Model{"None"}, {});
}
HARMLESS(pages_of_half_an_answer) {
  Programme p;
  Result r = solve(p.model);
  r.goals.clear();
  tell_all(r);
  r = solve(p.model);
  r.report.reset();
  tell_all(r);
  r = solve(p.model);
  r.plan.reset();
  tell_all(r);
  r = solve(p.model);
  r.goals[0].value.reset();
  tell_all(r);
  r = solve(p.model);
  r.report->rules.clear();
  r.relaxed.point = {1.0};
  r.relaxed.reduced_costs = {1.0};
  r.relaxed.shadow_prices = {1.0};
  tell_all(r);
}
HARMLESS(pages_of_what_is_no_number) {
  Programme p;
  for (const double odd : {std::nan(""), kInf, -kInf}) {
    Result r = solve(p.model);
    r.search.seconds = odd;
    r.goals[0].bound = odd;
    r.goals[0].gap = odd;
    r.relaxed.value = odd;
    r.relaxed.point = {odd, odd, odd};
    r.search.root_bound = odd;
    r.search.progress = {{odd, odd, odd, odd, 1, 1, "odd"}};
    tell_all(r);
    Progress progress;
    progress.seconds = odd;
    progress.best = progress.bound = progress.gap = odd;
    (void)progress_line(p.model, progress);
  }
}
HARMLESS(pages_of_a_width_of_nothing) {
  Programme p;
  for (const int width : {-5, 0, 1, 7}) {
    PageOptions options;
    options.width = width;
    (void)answer_page(solve(p.model), options);
    (void)show_page(p.model, options);
  }
  ShowOptions what;
  what.rows = -9;
  (void)show_page(p.model, {}, what);
  (void)answer_page(solve(p.model), {}, what);
}
REFUSED(pages_of_no_family, " ") {
  Programme p;
  ShowOptions what;
  what.family = "ran";
  (void)show_page(p.model, {}, what);
}
REFUSED(check_page_of_another_model, "another model") {
  Programme p;
  const Plan plan(other_model());
  (void)check_page(p.model, plan, check(p.model, Plan(p.model)), "plan");
}
HARMLESS(check_page_without_rules) {
  Programme p;
  (void)check_page(p.model, Plan(p.model), {}, "plan");
}
REFUSED(check_page_of_a_forged_row, "no row 5 of a rule 8") {
  Programme p;
  PlanReport report = check(p.model, Plan(p.model));
  report.rules[0].family = 8;
  report.rules[0].member = 5;
  report.rules[0].met = false;
  report.feasible = false;
  (void)check_page(p.model, Plan(p.model), report, "plan");
}
HARMLESS(comparison_page_of_another_model) {
  Programme p;
  const Comparison c = compare(p.model, method_names());
  try {
    (void)comparison_page(small_model(), c);
  } catch (const UsageError&) {
  }
  (void)comparison_page(Model{"None"}, {});
}
HARMLESS(variation_page_of_another_model) {
  Programme p;
  const Variation v = without_each(p.model);
  try {
    (void)variation_page(small_model(), v);
    (void)variation_document(small_model(), v);
  } catch (const UsageError&) {
  }
  (void)variation_page(p.model, {});
  Variation empty;
  empty.kind = Variation::Kind::sweep;
  try {
    (void)variation_page(p.model, empty);
    (void)sweep_figure(p.model, empty, "s.png");
  } catch (const UsageError&) {
  }
}
HARMLESS(trade_page_of_nothing) {
  Programme p;
  (void)trade_page(p.model, {});
  (void)trade_csv(p.model, {});
  (void)trade_document(p.model, {});
  try {
    (void)trade_figure(p.model, {}, "t.png");
  } catch (const UsageError&) {
  }
}
HARMLESS(saved_page_of_nothing) {
  (void)saved_page({}, {});
  (void)history_page("none", {});
}
REFUSED(figure_of_no_known_form, " ") {
  Programme p;
  (void)sweep_figure(p.model, sweep(p.model, {"hours", 1, 9, 3, false}), "s.pdf");
}

REFUSED(plane_of_no_decision, "of another model") {
  Programme p;
  (void)plane_figure(solve(p.model), {});
}
REFUSED(plane_of_one_decision, "named twice") {
  Programme p;
  (void)plane_figure(solve(p.model), {p.run["drums"], p.run["drums"]});
}
REFUSED(plane_of_another_model, "of another model") {
  Programme p;
  Model m = small_model();
  (void)plane_figure(solve(p.model), {p.run["drums"], m.decision("x")});
}
REFUSED(plane_without_plan, " ") {
  Programme p;
  (void)plane_figure(Result(p.model), {p.run["drums"], p.run["lamps"]});
}
HARMLESS(plane_that_holds_nothing) {
  Model m{"Two sides"};
  const Decision x = m.real("x", {}, between(0, 9)), y = m.real("y", {}, between(0, 9));
  m.maximize("g", x + y);
  m.rule("low", x <= 1);
  m.rule("high", x >= 2);
  try {
    (void)plane_figure(solve(m), {x, y});
  } catch (const UsageError&) {
  }
}
HARMLESS(plane_without_end) {
  Model m{"Open"};
  const Decision x = m.real("x", {}, anything()), y = m.real("y", {}, anything());
  m.minimize("g", x);
  m.rule("low", x >= 2);
  (void)plane_figure(solve(m), {x, y});
  Model huge{"Huge"};
  const Decision a = huge.real("a", {}, between(0, Rational(1e300) * Rational(1e300)));
  const Decision b = huge.real("b", {}, from(0));
  huge.minimize("g", a + b);
  huge.rule("r", a >= Rational(1e300));
  try {
    (void)plane_figure(solve(huge), {a, b});
  } catch (const UsageError&) {
  }
}
REFUSED(plan_figure_of_another_model, "another model") {
  Programme p;
  (void)plan_figure(p.model, Plan(other_model()));
}
REFUSED(plan_figure_of_no_family, " ") {
  Programme p;
  (void)plan_figure(p.model, Plan(p.model), "ran");
}
REFUSED(plan_figure_of_nothing, "no decisions to draw") {
  const Model none{"None"};
  (void)plan_figure(none, Plan(none));
}
HARMLESS(plan_figure_of_any_size) {
  Programme p;
  const Decision x = p.model.real("x", {}, anything());
  Plan plan(p.model);
  plan.set(x, Rational(1e300) * Rational(1e300));
  for (const PlanShape shape : {PlanShape::by_tables, PlanShape::grid, PlanShape::bars,
                                PlanShape::steps, PlanShape::map, PlanShape::times})
    try {
      (void)plan_figure(p.model, plan, "x", shape);
    } catch (const UsageError&) {
    }
}
REFUSED(curve_figure_of_none, " ") {
  Programme p;
  (void)curve_figure(p.model, "hire");
}
REFUSED(curve_figure_plan_of_another, "another model") {
  Programme p;
  (void)p.model.curve("hire", Curve::through({{0, 0}, {3, 1}}));
  const Plan plan(other_model());
  (void)curve_figure(p.model, "hire", &plan);
}
REFUSED(progress_of_nothing, " ") {
  (void)progress_figure({});
}
REFUSED(progress_of_an_answer_without, " ") {
  (void)progress_of(SavedAnswer{}, "one");
}
HARMLESS(progress_without_numbers) {
  ProgressRun run;
  run.name = "odd";
  run.progress = {{kInf, kInf, -kInf, {}, 0, 0, ""},
                  {std::nan(""), 1.0, std::nan(""), {}, 0, 0, ""}};
  try {
    (void)progress_figure({run});
  } catch (const UsageError&) {
  }
}

REFUSED(write_plan_of_another_model, "another model") {
  Programme p;
  const File file(".csv");
  write_plan(file.path, p.model, Plan(other_model()));
}
REFUSED(write_plan_shorter, "3 decisions") {
  Programme p;
  const File file(".csv");
  write_plan(file.path, p.model, Plan(small_model()));
}
HARMLESS(write_where_nothing_can_be) {
  Programme p;
  try {
    write_plan("/no/such/folder/plan.csv", p.model, Plan(p.model));
    need(false);
  } catch (const IoError&) {
  }
  try {
    write_text("/no/such/folder/text", "text");
    need(false);
  } catch (const IoError&) {
  }
}
HARMLESS(read_what_is_not_there) {
  Programme p;
  for (const auto& read : {std::function<void()>([] { (void)read_model("/no/such.knot"); }),
                           std::function<void()>([&] { (void)read_plan("/no/such.csv", p.model); }),
                           std::function<void()>([] { (void)read_answer("/no/such.json"); }),
                           std::function<void()>([] { (void)Stops::read("/no/such.csv"); }),
                           std::function<void()>([] { (void)Table::read("/no/such.csv", {}); })})
    try {
      read();
      need(false);
    } catch (const IoError&) {
    }
}
HARMLESS(read_rubbish) {
  Programme p;
  const std::string rubbish("\0\xff{[\"%\n,,;", 11);
  need(!parse_knot(rubbish, "r").ok() && !parse_mps(rubbish, "r").ok());
  need(!parse_answer(rubbish, "r").ok() && !Stops::parse(rubbish, "r").ok());
  try {
    (void)parse_knot(rubbish, "r").value();
    need(false);
  } catch (const InputError&) {
  }
}
HARMLESS(history_of_rubbish) {
  const File file(".history");
  write_text(file.path, "this is no database");
  try {
    History h(file.path);
    (void)h.runs();
    need(false);
  } catch (const IoError&) {
  }
}
REFUSED(history_moved_from, "moved elsewhere") {
  const File file(".history");
  History h(file.path);
  const History other = std::move(h);
  (void)h.runs();  // NOLINT(bugprone-use-after-move)
}
REFUSED(history_no_such_run, "there is no run 7") {
  const File file(".history");
  (void)History(file.path).answer(7);
}
REFUSED(history_run_without_answer, "left no answer") {
  const File file(".history");
  History h(file.path);
  Programme p;
  (void)h.answer(h.begin(p.model, {}));
}
HARMLESS(history_of_another_run) {
  const File file(".history");
  History h(file.path);
  Programme p;
  h.finish(99, solve(p.model), {});
  h.note(-1, Result(), {});
  need(h.runs().empty());
}
REFUSED(mps_of_logic_that_has_no_rows, " ") {
  Model m{"Open"};
  const Decision x = m.real("x", {}, anything()), b = m.binary("b").only();
  m.minimize("g", b);
  m.rule("r", implies(b, x >= 3));
  (void)mps_text(m);
}

REFUSED(tableau_of_logic, " ") {
  Programme p;
  p.model.rule("r", implies(p.run["drums"], p.run["lamps"] + p.run["sleds"] >= 1));
  (void)Tableau(p.model);
}
HARMLESS(tableau_as_sums_with_exact_limits) {
  Model m{"Tenths"};
  const Decision x = m.real("x", {}, between(0, 9)), b = m.binary("b").only();
  m.minimize("g", x + b);
  m.rule("tenth", x >= Rational::ratio(1, 10));
  m.rule("or", any_of({b, x <= 3}));
  m.rule("third", 3 * x + Rational::ratio(1, 3) * b >= Rational::ratio(2, 7));
  Tableau t(m, {.as_sums = true});
  (void)run(t, StepRule::largest);
  (void)tableau_page(t);
  need(t.goal_value() == Rational::ratio(1, 10));
}
HARMLESS(tableau_without_goal) {
  Model m{"None"};
  const Decision x = m.real("x", {}, between(0, 9));
  m.rule("r", x >= 2);
  Tableau t(m);
  (void)run(t, StepRule::first);
  (void)tableau_page(t);
}
REFUSED(tableau_of_nothing, " ") {
  (void)Tableau(Model{"None"});
}
REFUSED(tableau_too_large, " ") {
  std::vector<std::string> keys;
  for (int k = 0; k < 100; ++k) keys.push_back(std::to_string(k));
  Model m{"Large"};
  const Decisions x = m.binary("x", Table::of_keys("t", "k", keys));
  m.maximize("g", total(x));
  m.rule("r", total(x) <= 3);
  (void)Tableau(m);
}
REFUSED(tableau_row_that_is_not_there, " ") {
  Programme p;
  (void)Tableau(p.model).entry(9, 0);
}
REFUSED(tableau_place_that_is_not_there, " ") {
  Programme p;
  (void)Tableau(p.model).gain(-1);
}
REFUSED(tableau_column_that_is_not_there, " ") {
  Programme p;
  (void)Tableau(p.model).column(77);
}
REFUSED(tableau_value_that_is_not_there, " ") {
  Programme p;
  (void)Tableau(p.model).value(77);
}
REFUSED(tableau_pivot_that_is_not_there, " ") {
  Programme p;
  Tableau t(p.model);
  t.pivot(5, 5, false);
}
REFUSED(tableau_pivot_on_nothing, " ") {
  Model m{"Zero"};
  const Decision x = m.real("x", {}, from(0)), y = m.real("y", {}, from(0));
  m.maximize("g", x + y);
  m.rule("r", x <= 3);
  m.rule("s", y <= 3);
  Tableau t(m);
  for (std::int32_t row = 0; row < 2; ++row)
    for (std::int32_t place = 0; place < 2; ++place)
      if (t.entry(row, place).is_zero()) t.pivot(row, place, false);
}
REFUSED(tableau_ratios_of_none, " ") {
  Programme p;
  (void)ratios(Tableau(p.model), 40);
}
REFUSED(tableau_dual_ratios_of_none, " ") {
  Programme p;
  (void)dual_ratios(Tableau(p.model), -2);
}
REFUSED(tableau_bring_in_none, " ") {
  Programme p;
  Tableau t(p.model);
  (void)bring_in(t, 99);
}
REFUSED(tableau_take_out_none, " ") {
  Programme p;
  Tableau t(p.model);
  (void)take_out(t, 99);
}
REFUSED(tableau_cut_of_none, " ") {
  Programme p;
  (void)derive_cut(Tableau(p.model), 99, TableauCut::Kind::mixed);
}
REFUSED(tableau_drop_what_is_no_room, " ") {
  Programme p;
  Tableau t(p.model);
  t.drop_row(0);
}
REFUSED(tableau_row_over_no_column, " ") {
  Programme p;
  Tableau t(p.model);
  TableauRow row;
  row.name = "own";
  row.terms = {{55, 1}};
  row.limit = 3;
  (void)t.add_row(row);
}
REFUSED(tableau_sum_over_no_column, " ") {
  Programme p;
  (void)value_of(Tableau(p.model), {{{55, 1}}, true, 1});
}
REFUSED(tableau_limits_of_none, " ") {
  Programme p;
  Tableau t(p.model);
  t.set_limits(55, 0, 1);
}
REFUSED(tableau_prices_before_the_end, " ") {
  Programme p;
  (void)relaxed_answer(Tableau(p.model));
}
HARMLESS(bench_moved_from) {
  Programme p;
  Workbench a(p.model);
  (void)a.step("step");
  Workbench b = std::move(a);
  need(b.step("to the end").ok());
  (void)a.step("to the end");  // NOLINT(bugprone-use-after-move)
  (void)story_document(a);
}
HARMLESS(bench_of_rubbish) {
  Programme p;
  Workbench bench(p.model);
  for (const char* words :
       {"", " ", "bring", "cut on", "cut on 99", "back to 99", "back to -1", "branch on", "go to 7",
        "undo", "redo", "add", "\xff\xfe", "drop cut 9"})
    need(!bench.step(words).ok() || bench.num_deeds() <= 1);
  (void)story_document(bench);
  (void)bench.completions("\xff");
  (void)bench.completions(std::string(100'000, 'x'));
}
REFUSED(bench_state_of_no_copy, " ") {
  Programme p;
  (void)can_be_closed(Workbench(p.model).state(), 9);
}
HARMLESS(report_of_other_parts) {
  Programme p;
  ReportParts parts(solve(p.model));
  parts.explanation = Explanation{};
  parts.ways = compare(other_model(), method_names());
  parts.rules = without_each(other_model());
  try {
    (void)html_report(parts);
  } catch (const UsageError&) {
  }
  p.model.forget_goals();
  ReportParts without(solve(p.model));
  without.rules = without_each(p.model);
  (void)html_report(without);
}
