// Questions around a model, and round trips.

#include <chrono>
#include <cmath>
#include <limits>

#include "misuse.hpp"

using namespace misuse;

namespace {

Stops four_stops() {
  return Stops::parse("name,x,y\na,0,0\nb,0,3\nc,4,3\nd,4,0\n", "stops.csv").value();
}
Stops with_loads() {
  return Stops::parse("name,x,y,load\na,0,0,0\nb,0,3,2\nc,4,3,2\nd,4,0,2\n", "stops.csv").value();
}

}  // namespace

REFUSED(sweep_number_missing, "no number") {
  Programme p;
  (void)sweep(p.model, {"ours", 1, 9, 5, false});
}
REFUSED(sweep_without_points, " ") {
  Programme p;
  (void)sweep(p.model, {"hours", 1, 9, 0, false});
}
REFUSED(sweep_negative_points, " ") {
  Programme p;
  (void)sweep(p.model, {"hours", 1, 9, -4, true});
}
REFUSED(sweep_to_infinity, " ") {
  Programme p;
  (void)sweep(p.model, {"hours", 1, Rational::infinity(), 5, false});
}
HARMLESS(sweep_backwards) {
  Programme p;
  (void)sweep(p.model, {"hours", 9, 1, 5, true});
  (void)sweep(p.model, {"hours", 3, 3, 1, true});
  (void)sweep(p.model, {"hours", 3, 3, 4, true});
}
HARMLESS(sweep_of_a_hundred_thousand_points) {
  Programme p;
  SolveOptions options;
  options.seconds = 1.0;
  const auto begin = std::chrono::steady_clock::now();
  (void)sweep(p.model, {"hours", 1, 9, 100'000, false}, options);
  const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begin;
  need(took.count() < 5.0);
}
HARMLESS(vary_model_without_goal) {
  Programme p;
  p.model.forget_goals();
  const Variation v = without_each(p.model, true);
  (void)variation_page(p.model, v);
  (void)variation_csv(v);
  (void)variation_document(p.model, v);
  (void)variation_page(p.model, sweep(p.model, {"hours", 1, 9, 5, true}));
}
HARMLESS(vary_scenarios_of_other_decisions) {
  Programme p;
  const Variation v = compare_scenarios(p.model, {{"small", small_model()}, {"none", Model("N")}});
  (void)variation_page(p.model, v);
  (void)compare_scenarios(p.model, {});
  (void)compare_scenarios(Result(), {{"own", p.model}});
}
REFUSED(explanation_rows_of_another_model, "has no row") {
  Programme p;
  Model m{"None"};
  Explanation e;
  e.outcome = Outcome::infeasible;
  Clash clash;
  clash.kind = Clash::Kind::found;
  clash.rows = {{7, 3}};
  clash.row_needed = {1};
  e.clashes.found = {clash};
  (void)explanation_page(m, e);
}
REFUSED(explanation_of_another_model, "not one with number") {
  Explanation e;
  e.outcome = Outcome::unbounded;
  e.direction = {{12, 1}};
  Programme p;
  (void)explanation_page(p.model, e);
}
HARMLESS(explanation_half_made) {
  Programme p;
  Explanation e;
  e.outcome = Outcome::infeasible;
  Clash clash;
  clash.kind = Clash::Kind::found;
  clash.rows = {{0, 0}};  // row_needed was forgotten
  clash.limits = {{DecisionLimit::Which::most, 1}};
  e.clashes.found = {clash};
  (void)explanation_page(p.model, e);
  (void)explanation_page(p.model, {});
}
REFUSED(loosening_of_no_rule, "nearest is 'crew'") {
  Programme p;
  LooseningOptions options;
  options.keep = {"crow"};
  (void)cheapest_loosening(p.model, options);
}
REFUSED(loosening_weight_of_no_rule, "nearest is 'crew'") {
  Programme p;
  LooseningOptions options;
  options.weights = {{"crow", 3}};
  (void)cheapest_loosening(p.model, options);
}
REFUSED(loosening_negative_weight, " ") {
  Programme p;
  p.model.rule("much", total(p.run) >= 9);
  LooseningOptions options;
  options.weights = {{"much", -3}};
  (void)cheapest_loosening(p.model, options);
}
REFUSED(loosening_infinite_weight, " ") {
  Programme p;
  p.model.rule("much", total(p.run) >= 9);
  LooseningOptions options;
  options.weights = {{"much", Rational::infinity()}};
  (void)cheapest_loosening(p.model, options);
}
HARMLESS(clashes_none_wanted) {
  Programme p;
  p.model.rule("much", total(p.run) >= 9);
  need(find_clashes(p.model, 0).found.empty());
}
REFUSED(why_of_another_model, "was given to model") {
  Programme p;
  Model m = small_model();
  (void)why(p.model, m.decision("x") >= 1);
}
HARMLESS(why_without_goal) {
  Programme p;
  p.model.forget_goals();
  try {
    (void)why_page(why(p.model, p.run["drums"] >= 1), "drums");
  } catch (const UsageError&) {
  }
}
HARMLESS(why_with_no_solves) {
  Programme p;
  (void)why_page(why(p.model, p.run["drums"] >= 1, {}, 0), "drums");
  (void)why_page(why(p.model, p.run["drums"] >= 1, {}, -3), "drums");
}
HARMLESS(why_nothing_is_possible) {
  Programme p;
  p.model.rule("much", total(p.run) >= 9);
  (void)why_page(why(p.model, p.run["drums"] >= 1), "drums");
}
HARMLESS(firm_without_goal) {
  Programme p;
  p.model.forget_goals();
  try {
    (void)firmness_page(firmness(p.model));
  } catch (const UsageError&) {
  }
}
REFUSED(firm_with_no_solves, "at least one solve") {
  Programme p;
  (void)firmness(p.model, {}, 0);
}
HARMLESS(firm_nothing_is_possible) {
  Programme p;
  p.model.rule("much", total(p.run) >= 9);
  try {
    (void)firmness_page(firmness(p.model));
  } catch (const UsageError&) {
  }
}
REFUSED(trade_goal_missing, " ") {
  Programme p;
  (void)trade_goal(p.model, "crwd");
}
REFUSED(trade_without_direction, " ") {
  Programme p;
  (void)trade_goal(p.model, "");
}
REFUSED(trade_of_another_model, " ") {
  Programme p;
  Model m = small_model();
  (void)trade_off(p.model, trade_goal(p.model, "crowd"), trade_goal(m, "gain"));
}
REFUSED(trade_negative_points, " ") {
  Programme p;
  (void)trade_off(p.model, trade_goal(p.model, "crowd"), {"few", Sense::minimize, total(p.run)},
                  -4);
}
REFUSED(ranking_of_no_family, "no decisions") {
  Programme p;
  (void)next_best(solve(p.model), {2, {"ran"}});
}
REFUSED(ranking_of_what_is_not_proven, "proven best") {
  (void)next_best(Result(), {2, {}});
}
HARMLESS(ranking_of_none) {
  Programme p;
  need(next_best(solve(p.model), {0, {}}).plans.size() == 1);
}
REFUSED(ranking_page_of_nothing, " ") {
  Programme p;
  (void)ranking_page(Ranking(p.model));
}
REFUSED(ranking_page_of_another_model, " ") {
  Programme p;
  Ranking r = next_best(solve(p.model), {2, {}});
  r.model = small_model();
  (void)ranking_page(r);
}
HARMLESS(held_prices_of_what_is_not_proven) {
  need(!held_prices(Result()));
}

REFUSED(stops_of_nothing, "made of nothing") {
  (void)Stops(nullptr).size();
}
REFUSED(stops_past_the_last, "none with number 9") {
  (void)four_stops().name(9);
}
REFUSED(stops_before_the_first, "none with number -1") {
  (void)four_stops().load(-1);
}
REFUSED(stops_length_of_none, "not there") {
  (void)four_stops().length(0, 44);
}
REFUSED(stops_trip_of_none, "none with number 9") {
  (void)with_loads().load({1, 9});
}
REFUSED(stops_made_up_negative, "from 0 up") {
  (void)Stops::made_up(-3, 1);
}
REFUSED(stops_no_loads, "have no loads") {
  (void)four_stops().in_trips(5);
}
REFUSED(stops_room_not_a_number, "makes no sense") {
  (void)with_loads().in_trips(std::nan(""));
}
REFUSED(stops_room_negative, "makes no sense") {
  (void)with_loads().in_trips(-4);
}
REFUSED(stops_room_infinite, "makes no sense") {
  (void)with_loads().in_trips(std::numeric_limits<double>::infinity());
}
REFUSED(stops_trips_negative, "from 1 up") {
  (void)with_loads().in_trips(4, -1);
}
REFUSED(stops_trips_from_nowhere, "not there") {
  (void)with_loads().in_trips(4, 0, 17);
}
REFUSED(stops_unknown, "there is no stop 'zz'") {
  (void)four_stops().find("zz");
}
HARMLESS(stops_moved_from) {
  Stops s = four_stops();
  const Stops t = std::move(s);
  need(s.size() == 4 && t.size() == 4);  // NOLINT(bugprone-use-after-move)
}
REFUSED(tour_way_missing, "chains") {
  TourOptions options;
  options.way = "chians";
  (void)find_tour(four_stops(), options);
}
REFUSED(tour_start_too_short, "every stop once") {
  TourOptions options;
  options.start = {0, 1};
  (void)find_tour(four_stops(), options);
}
REFUSED(tour_start_twice, "every stop once") {
  TourOptions options;
  options.start = {0, 1, 1, 2};
  (void)find_tour(four_stops(), options);
}
REFUSED(tour_first_of_none, "not there") {
  TourOptions options;
  options.first = 4;
  (void)find_tour(four_stops(), options);
}
REFUSED(tour_seconds_not_a_number, "make no sense") {
  TourOptions options;
  options.seconds = std::nan("");
  (void)find_tour(four_stops(), options);
}
REFUSED(tour_gap_negative, "make no sense") {
  TourOptions options;
  options.gap = -0.1;
  (void)find_tour(four_stops(), options);
}
REFUSED(tour_too_many, "more than the") {
  (void)find_tour(Stops::made_up(6000, 1));
}
HARMLESS(tour_of_few) {
  for (const int n : {0, 1, 2, 3})
    for (const TourWay& way : tour_ways()) {
      const Stops stops = Stops::made_up(n, 1);
      if (!takes(way, stops)) continue;
      TourOptions options;
      options.way = way.name;
      options.seconds = 1.0;
      const TourAnswer a = find_tour(stops, options);
      (void)tour_page(stops, a);
      (void)tour_text(stops, a.order);
    }
}
HARMLESS(tour_in_one_place) {
  std::string csv = "name,x,y\n";
  for (int k = 0; k < 60; ++k) csv += std::to_string(k) + ",1,1\n";
  const Stops stops = Stops::parse(csv, "s.csv").value();
  for (const TourWay& way : tour_ways()) {
    if (!takes(way, stops)) continue;
    TourOptions options;
    options.way = way.name;
    options.seconds = 2.0;
    const TourAnswer a = find_tour(stops, options);
    need(a.length.is_zero() && a.order.size() == 60);
    (void)tour_map(stops, a);
  }
}
REFUSED(tour_page_of_other_stops, "none with number") {
  TourOptions options;
  options.way = "curve";
  (void)tour_page(four_stops(), find_tour(Stops::made_up(20, 1), options));
}
REFUSED(tour_map_of_other_stops, "none with number") {
  (void)tour_map(four_stops(), find_tour(Stops::made_up(20, 1)));
}
REFUSED(tour_relaxed_of_other_stops, "none with number") {
  (void)relaxed_figure(four_stops(), find_tour(Stops::made_up(20, 1)));
}
REFUSED(tour_ways_of_other_stops, "none with number") {
  (void)tour_comparison_maps(four_stops(), {find_tour(Stops::made_up(20, 1))});
}
REFUSED(tour_document_of_other_stops, "none with number") {
  (void)tour_document(four_stops(), find_tour(Stops::made_up(20, 1)));
}
REFUSED(tour_text_of_other_stops, "none with number") {
  (void)tour_text(four_stops(), {0, 8});
}
REFUSED(tour_rounds_not_asked, "not found in rounds") {
  (void)rounds_figure(four_stops(), find_tour(four_stops()));
}
REFUSED(tour_map_of_a_matrix, " ") {
  const Stops m = Stops::parse("stop,a,b,c\na,0,1,2\nb,1,0,3\nc,2,3,0\n", "m.csv").value();
  (void)tour_map(m, find_tour(m));
}
HARMLESS(tour_of_no_answer) {
  (void)tour_page(four_stops(), {});
  (void)tour_map(four_stops(), {});
  (void)tour_comparison_page(four_stops(), {});
  (void)tour_comparison_maps(four_stops(), {});
  (void)tour_document(four_stops(), {});
}
REFUSED(tour_progress_of_none, "none of these ways has a tour to draw") {
  (void)tour_progress_figure(four_stops(), {}, "p.png");
}
REFUSED(model_tour_of_none, " ") {
  Programme p;
  (void)tour_of(p.model);
}
REFUSED(model_tour_plan_of_another, " ") {
  Model m{"T"};
  const Table stops = Table::of_keys("stops", "s", {"a", "b", "c"});
  const Decisions legs = m.binary("leg", Table::pairs("pairs", stops));
  m.minimize("length", total(legs));
  m.tour("loop", legs, stops);
  (void)tour_of(m, Plan(other_model()), Outcome::optimal);
}
REFUSED(model_tour_answer_of_another, " ") {
  Model m{"T"};
  const Table stops = Table::of_keys("stops", "s", {"a", "b", "c"});
  const Decisions legs = m.binary("leg", Table::pairs("pairs", stops));
  m.minimize("length", total(legs));
  m.tour("loop", legs, stops);
  (void)plan_of(m, find_tour(Stops::made_up(12, 1)));
}
