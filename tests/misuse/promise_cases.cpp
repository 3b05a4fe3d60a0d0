// What public headers promise of wrong uses and the other files do not come to: shapes and forms
// that do not fit, lists that hold nothing to do with each other, files that cannot be had.

#include <filesystem>
#include <functional>

#include <unistd.h>

#include "misuse.hpp"

using namespace misuse;

namespace {
struct Folder {
  std::string path =
      (std::filesystem::temp_directory_path() / ("misuse-folder-" + std::to_string(getpid())))
          .string();
  Folder() { std::filesystem::create_directories(path); }
  ~Folder() { std::filesystem::remove_all(path); }
};
template <class Error>
bool throws(const std::function<void()>& run) {
  try {
    run();
  } catch (const Error&) {
    return true;
  }
  return false;
}
const char* const kNowhere = "/no/such/folder/file";
Stops square() {
  return Stops::parse("stop,x,y\na,0,0\nb,0,3\nc,4,3\nd,4,0\n", "square.csv").value();
}
}  // namespace

HARMLESS(figure_of_a_monstrous_exponent) {
  need(!Rational::parse("1e500") && !Rational::parse("1e-99999999999") && Rational::parse("1e400"));
}
REFUSED(curve_asked_below_its_range, " ") {
  (void)Curve::through({{2, 0}, {5, 3}}).at(1);
}
REFUSED(curve_asked_above_its_range, " ") {
  (void)Curve::through({{2, 0}, {5, 3}}).at(6);
}
REFUSED(curve_asked_at_infinity, " ") {
  (void)Curve::tiers({{3, 4}, {2}}).at(Rational::infinity());
}
HARMLESS(table_cell_that_is_no_figure) {
  const Table t = Table::parse("t", "k,v\na,two\n", {.key = {"k"}});
  need(throws<InputError>([&] { (void)t.numbers("v"); }));
  need(throws<InputError>([&] { (void)t["a"].number("v"); }));
}
REFUSED(table_row_has_no_such_column, "nearest is 'crew'") {
  (void)shows()["drums"].text("crews");
}
REFUSED(table_row_refers_to_none, " ") {
  (void)shows()["drums"].row("crew");
}
REFUSED(table_pairs_of_two_keys, " ") {
  const Table t = Table::parse("t", "a,b\n1,2\n1,3\n", {.key = {"a", "b"}});
  (void)Table::pairs("p", t);
}
HARMLESS(reading_without_a_value) {
  Diagnostics notes;
  for (int k = 0; k < 100; ++k) notes.error({});
  need(notes.items().size() == 1);  // the same again is told once
  for (int k = 0; k < 100; ++k)
    notes.error({.file = "f", .line = k, .column = 1, .message = "odd"});
  need(notes.full() && notes.items().size() == Diagnostics::kMostErrors);
  const Reading<Plan> none{notes};
  need(throws<InputError>([&] { (void)none.value(); }));
  need(throws<InputError>([&] { (void)Reading<int>(notes).value(); }));
}

HARMLESS(prices_of_half_an_answer) {
  Model m{"Reals"};
  const Decision x = m.real("x", {}, between(0, 3)), y = m.real("y", {}, between(0, 3));
  m.maximize("gain", 2 * x + y);
  m.rule("room", x + y <= 4);
  const auto told = [](const Result& r) {
    try {
      (void)answer_page(r);
      (void)html_report(ReportParts(r));
      (void)result_document(r);
    } catch (const UsageError&) {
    }
  };
  const Result whole = solve(m);
  told(whole);
  Result r = whole;
  r.report.reset();
  told(r);
  r = whole;
  r.plan.reset();
  told(r);
  r = whole;
  r.relaxed.reduced_costs = {1.0};
  told(r);
  r = whole;
  r.relaxed.shadow_prices.clear();
  told(r);
  r = whole;
  r.relaxed.limit_stretches.resize(7);
  r.relaxed.coefficient_stretches.resize(1);
  r.relaxed.coefficients.clear();
  told(r);
}
HARMLESS(questions_half_answered) {
  Programme p;
  try {
    (void)why_page({}, "run[drums]");
  } catch (const UsageError&) {
  }
  Firmness firm;
  firm.best = solve(p.model);
  firm.best.goals[0].value.reset();
  (void)firmness_page(firm);
}

REFUSED(plan_figure_of_a_shape_that_does_not_fit, " ") {
  Programme p;
  (void)plan_figure(p.model, Plan(p.model), "run", PlanShape::grid);
}
REFUSED(plan_figure_map_of_no_places, " ") {
  Programme p;
  (void)plan_figure(p.model, Plan(p.model), "run", PlanShape::map);
}
REFUSED(tree_figure_of_none_recorded, " ") {
  Programme p;
  (void)tree_figure(solve(p.model));
}
REFUSED(tree_figure_of_nothing, " ") {
  (void)tree_figure(Result());
}
HARMLESS(tree_that_is_made_up) {
  Programme p;
  Result r = solve(p.model);
  r.search.tree.resize(3);
  r.search.tree[0].parent = 7;
  r.search.tree[1].parent = 1;
  r.search.tree[2].parent = -5;
  try {
    (void)tree_figure(r);
    (void)tree_dot(r);
  } catch (const UsageError&) {
  }
}
REFUSED(plane_story_of_another_model, " ") {
  Programme p;
  const Workbench bench(p.model);
  const Model other = other_model();
  (void)plane_story_figure(bench, {other.decision(0), other.decision(1)});
}
REFUSED(progress_figure_of_too_many, " ") {
  Programme p;
  (void)progress_figure(std::vector<ProgressRun>(7, progress_of(solve(p.model), "one")));
}

REFUSED(plan_form_that_does_not_go, " ") {
  need_fitting({.grids = true}, "plan.csv");
}
REFUSED(plan_form_that_does_not_go_written, " ") {
  Programme p;
  write_plan("plan.json", p.model, Plan(p.model), {.with_data = true});
}
REFUSED(plan_folder_that_holds_something_else, " ") {
  Programme p;
  const Folder folder;
  write_text(folder.path + "/run.csv", "wind,speed\nnorth,3\n");
  (void)plan_files(folder.path, p.model);
}
HARMLESS(documents_where_nothing_can_be) {
  Programme p;
  const Result best = solve(p.model);
  const Variation variation = sweep(p.model, {.number = "hours", .from = 5, .to = 7, .points = 2});
  const Ranking ranking = next_best(best, {});
  need(throws<IoError>([&] { write_result(kNowhere, best); }));
  need(throws<IoError>([&] { write_variation(kNowhere, p.model, variation); }));
  need(throws<IoError>([&] { write_variation_csv(kNowhere, variation); }));
  need(throws<IoError>([&] { write_ranking(kNowhere, ranking); }));
  need(throws<IoError>([&] { write_trade(kNowhere, p.model, {}); }));
  need(throws<IoError>([&] { write_trade_csv(kNowhere, p.model, {}); }));
  need(throws<IoError>([&] { (void)History("/no/such/folder/runs"); }));
  need(throws<IoError>([&] { (void)History("/no/such/folder/runs", true); }));
  need(throws<IoError>([&] { (void)read_tour(kNowhere, square()); }));
  need(throws<IoError>([&] { (void)read_partial_plan(kNowhere, p.model); }));
  need(!is_saved_answer(kNowhere));
}
HARMLESS(documents_of_another_model) {
  Programme p;
  const Variation variation = sweep(p.model, {.number = "hours", .from = 5, .to = 7, .points = 2});
  for (const Model& model : {small_model(), other_model(), Model{"None"}}) try {
      (void)variation_document(model, variation);
      (void)trade_document(model, TradeOff{});
      (void)trade_csv(model, TradeOff{});
    } catch (const UsageError&) {
    }
}
HARMLESS(history_of_nobody) {
  need(throws<IoError>([] { (void)History("/no/such/runs", true); }));
}

REFUSED(tour_way_of_directed_lengths, "does not take") {
  const Stops one_way =
      Stops::parse("stop,a,b,c,d\na,0,1,2,3\nb,3,0,1,2\nc,2,3,0,1\nd,1,2,3,0\n", "ring.csv")
          .value();
  need(one_way.directed());
  for (const TourWay& way : tour_ways())
    if (!way.directed && way.one) {
      need(!takes(way, one_way));
      (void)find_tour(one_way, {.way = way.name, .seconds = 1});
    }
}
REFUSED(tour_way_by_a_name_nearly_right, "nearest is") {
  (void)tour_way("exakt");
}
REFUSED(tour_start_of_a_stop_that_is_not_there, "every stop once") {
  (void)find_tour(square(), {.start = {0, 1, 2, 9}});
}
HARMLESS(tour_read_of_rubbish) {
  const Folder folder;
  write_text(folder.path + "/t.tour", "TOUR_SECTION\n1\n1\n99\n-4\n");
  need(!read_tour(folder.path + "/t.tour", square()).ok());
}
REFUSED(model_tour_of_two, " ") {
  const Table t = Table::of_keys("stops", "stop", {"a", "b", "c"});
  const Table legs = Table::pairs("legs", t);
  Model m{"Two"};
  const Decisions leg = m.binary("leg", legs), back = m.binary("back", legs);
  m.minimize("length", total(leg) + total(back));
  m.tour("there", leg, t);
  m.tour("again", back, t);
  (void)tour_of(m);
}

REFUSED(trade_off_all_of_a_goal_over_reals, " ") {
  Model m{"Reals"};
  const Decision x = m.real("x", {}, between(0, 3)), y = m.integer("y", {}, between(0, 3));
  m.maximize("gain", y);
  m.minimize("cost", x);
  m.rule("r", x >= y);
  (void)trade_off(m, trade_goal(m, "gain"), trade_goal(m, "cost"), 0);
}
REFUSED(ranking_of_reals_alone, " ") {
  Model m{"Reals"};
  const Decision x = m.real("x", {}, between(0, 3));
  m.maximize("gain", x);
  need(!can_differ(m));
  need_different(m, {});
}
REFUSED(ranking_of_fewer_than_none, "make no sense") {
  Programme p;
  (void)next_best(solve(p.model), {.count = -1});
}
REFUSED(ranked_plan_of_another_model, "another model") {
  Programme p;
  (void)ranked_plan(p.model, Plan(other_model()));
}
REFUSED(tableau_other_limit_that_is_none, " ") {
  Model m{"Open"};
  const Decision x = m.real("x", {}, between(0, no_limit));
  m.maximize("g", x);
  m.rule("r", x <= 4);
  Tableau t(m);
  t.move_to_other_limit(0);
}
REFUSED(tableau_cut_of_a_whole_row, " ") {
  Programme p;
  Tableau t(p.model);
  (void)derive_cut(t, 0, TableauCut::Kind::mixed);
}
