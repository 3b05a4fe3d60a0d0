#include "command.hpp"
#include "outputs.hpp"
#include "stops.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {
namespace {

struct TourArguments {
  std::string file, scenario, by = "exact", start, map, rounds, relaxed, tour, result;
  std::int32_t random = 0, stops = 60;
  TripsArguments trips;
  std::uint64_t seed = 1;
  double seconds = 0.0, gap = 0.0;
  bool in_rounds = false, quiet = false;
};

bool is_model(const std::string& file) {
  return file.ends_with(".knot");
}

Stops stops_of(const TourArguments& a) {
  if (a.random > 0 && !a.file.empty())
    throw CommandLineError("--random makes its own stops; it does not go with a file");
  if (a.random > 0) return Stops::made_up(a.random, a.seed);
  if (a.file.empty())
    throw CommandLineError("a file of stops was expected, or --random N for made-up ones");
  return read_stops(a.file);
}

// What was found by stops has to stand as a plan of the model, to the last digit.
void need_as_stated(const Model& model, const TourAnswer& answer) {
  const PlanReport report = check_exactly(model, plan_of(model, answer));
  if (!report.feasible || !report.goal || *report.goal != answer.length)
    throw std::logic_error("a tour is not what the model says it is");
}

// A model that asks for more than the shortest tour: it is solved as it stands.
int solve_model(const Model& model, const ModelTour& tour, const TourArguments& a) {
  if (a.by != "exact" || a.in_rounds || !a.rounds.empty() || !a.relaxed.empty() ||
      !a.start.empty() || !a.tour.empty() || !a.trips.from.empty())
    throw CommandLineError(
        model.title() +
        " asks for more than the shortest tour over all stops, so it is solved as a model: of the "
        "options only --seconds, --gap, --map, --result and --quiet go with it");
  SearchArguments search;
  search.seconds = a.seconds;
  search.gap = a.gap;
  search.seed = a.seed;
  LiveLine line(model, a.quiet);
  const Result result = solve(model, search.options(), &line);
  line.finish();
  Outputs outputs;
  if (!a.quiet) outputs.attempt([&] { print(answer_page(result, page_options())); });
  if (!a.result.empty()) outputs.attempt([&] { write_result(a.result, result); });
  if (!a.map.empty() && !result.has_plan())
    print_error("there is no tour, so " + a.map + " was not drawn");
  else if (!a.map.empty())
    outputs.attempt([&] {
      write_drawing(a.map, tour_map(tour.stops, tour_of(model, *result.plan, result.outcome)));
    });
  return outputs.end(exit_code(result.outcome));
}

int run(const TourArguments& a) {
  need_drawing_name("--map", a.map);
  need_drawing_name("--rounds", a.rounds);
  need_drawing_name("--relaxed", a.relaxed);
  const auto apart = [&](std::vector<std::string> inputs) {
    inputs.push_back(a.start);
    need_apart({{"--map", a.map},
                {"--rounds", a.rounds},
                {"--relaxed", a.relaxed},
                {"--tour", a.tour},
                {"--result", a.result}},
               inputs);
  };
  apart({a.file});
  std::optional<Model> model;
  std::optional<ModelTour> asked;
  if (is_model(a.file)) {
    if (a.trips.capacity > 0.0 || a.trips.trips > 0 || a.random > 0)
      throw CommandLineError(
          "--capacity, --trips and --random are for stops; a model states what trips there are");
    model = ModelArguments{a.file, a.scenario, {}}.load();
    apart(model->inputs());
    try {
      asked = tour_of(*model);
    } catch (const UsageError& e) {
      throw CommandLineError(e.what());
    }
    if (!a.map.empty()) need_a_map(asked->stops);
    if (!asked->nothing_else) return solve_model(*model, *asked, a);
  } else if (!a.scenario.empty()) {
    throw CommandLineError("--scenario is for models");
  }
  const Stops stops = asked ? asked->stops : a.trips.of(stops_of(a));
  if (stops.several() && !a.tour.empty())
    throw CommandLineError("--tour writes one round trip; several are written by --result");
  if (!a.map.empty() || !a.rounds.empty() || !a.relaxed.empty()) need_a_map(stops);
  SearchArguments search;
  search.seconds = a.seconds;
  search.gap = a.gap;
  search.seed = a.seed;
  const SolveOptions wishes = search.options();
  TourOptions options;
  options.way = a.by;
  options.seconds = wishes.seconds;
  options.gap = a.gap;
  options.seed = a.seed;
  options.stop = wishes.stop;
  if (asked) options.first = asked->first;
  options.in_rounds = a.in_rounds || !a.rounds.empty();
  if (options.in_rounds && a.by != "exact")
    throw CommandLineError("rounds are a way to the exact answer; they do not go with --by " +
                           a.by);
  TourAnswer answer;
  ShortLine line(a.quiet);
  options.watch = [&](const TourProgress& p) {
    line.show(p.seconds, [&] { return tour_line(stops, p); });
  };
  if (!a.start.empty()) options.start = read_tour(a.start, stops).value();
  try {
    if (!a.trips.from.empty() && !stops.several()) options.first = stops.find(a.trips.from);
    answer = find_tour(stops, options);
  } catch (const UsageError& e) {
    throw CommandLineError(e.what());
  }
  line.finish();
  if (model && !answer.order.empty()) need_as_stated(*model, answer);
  Outputs outputs;
  if (!a.quiet) outputs.attempt([&] { print(tour_page(stops, answer, page_options(), a.stops)); });
  if (!a.result.empty())
    outputs.attempt([&] { write_text(a.result, tour_document(stops, answer)); });
  if (!a.tour.empty() && answer.order.empty())
    print_error("there is no tour, so " + a.tour + " was not written");
  else if (!a.tour.empty())
    outputs.attempt([&] { write_text(a.tour, tour_text(stops, answer.order)); });
  if (!a.map.empty()) outputs.attempt([&] { write_drawing(a.map, tour_map(stops, answer)); });
  if (!a.relaxed.empty() && !answer.relaxed)
    print_error("there was no relaxed point to draw, so " + a.relaxed + " was not written");
  else if (!a.relaxed.empty())
    outputs.attempt([&] { write_drawing(a.relaxed, relaxed_figure(stops, answer)); });
  if (!a.rounds.empty() && answer.rounds.empty())
    print_error("there was no round to draw, so " + a.rounds + " was not written");
  else if (!a.rounds.empty())
    outputs.attempt([&] { write_drawing(a.rounds, rounds_figure(stops, answer)); });
  // A way that proves nothing has done what it was asked for.
  const bool done = a.by != "exact" && !answer.order.empty() && answer.stopped_by.empty();
  return outputs.end(done ? kDone : exit_code(answer.outcome));
}

}  // namespace

Run add_tour(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "tour", "the shortest round trip over stops, with its proof; or a good one, soon");
  const auto a = std::make_shared<TourArguments>();
  command->add_option("FILE", a->file,
                      "the stops: CSV of names with x, y or lat, lon; a CSV matrix of lengths; "
                      "TSPLIB; or a model (.knot) with one tour rule");
  command->add_option("--scenario", a->scenario, "of a model: with the changes of this scenario");
  std::string known;
  for (const TourWay& way : tour_ways()) known += (known.empty() ? "" : ", ") + way.name;
  command->add_option("--by", a->by, "which way: " + known + "; exact if not said");
  command->add_option("--from", a->trips.from,
                      "the stop where the telling, or every trip, starts; the first if not said");
  a->trips.add_to(*command, false);
  command->add_option("--start", a->start, "a tour to begin with (TSPLIB)");
  command
      ->add_option("--seconds", a->seconds,
                   "stop after this time, with the best tour so far: 10, 10s, 5min")
      ->type_name("TIME")
      ->transform(a_time());
  command
      ->add_option("--gap", a->gap, "accept a tour within this share of the shortest: 1% or 0.01")
      ->type_name("SHARE")
      ->transform(a_share());
  command->add_option("--stops", a->stops, "tell at most so many stops, 60 if not said")
      ->check(a_count(false, 100'000'000));
  command->add_option("--map", a->map, "draw the tour here (.svg or .png)");
  auto* in_rounds = command->add_flag("--in-rounds", a->in_rounds,
                                      "solve whole, look at the loops, rule them out, solve again");
  auto* rounds = command->add_option("--rounds", a->rounds,
                                     "the same, and draw the rounds here (.svg or .png)");
  command
      ->add_option("--relaxed", a->relaxed,
                   "draw what two legs at every stop come to in parts (.svg or .png)")
      ->excludes(rounds)
      ->excludes(in_rounds);
  command->add_option("--tour", a->tour, "write the tour here (TSPLIB)");
  command->add_option("--result", a->result, "write the result document (JSON) here");
  command->add_option("--random", a->random, "so many made-up stops in place of a file")
      ->check(a_count(false, 5'000'000));
  command->add_option("--seed", a->seed, "for made-up stops and choices that are drawn by lot");
  command->add_flag("--quiet", a->quiet, "print nothing but errors");
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
