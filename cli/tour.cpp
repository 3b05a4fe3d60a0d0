#include "command.hpp"
#include "outputs.hpp"
#include "stops.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

struct TourArguments {
  std::string file, by = "exact", from, start, map, rounds, relaxed, tour, result;
  std::int32_t random = 0, stops = 60, trips = 0;
  std::uint64_t seed = 1;
  double seconds = 0.0, gap = 0.0, capacity = 0.0;
  bool in_rounds = false, quiet = false;
};

Stops stops_of(const TourArguments& a) {
  if (a.random > 0 && !a.file.empty())
    throw CommandLineError("--random makes its own stops; it does not go with a file");
  if (a.random > 0) return Stops::made_up(a.random, a.seed);
  if (a.file.empty())
    throw CommandLineError("a file of stops was expected, or --random N for made-up ones");
  return read_stops(a.file);
}

int run(const TourArguments& a) {
  need_drawing_name("--map", a.map);
  need_drawing_name("--rounds", a.rounds);
  need_drawing_name("--relaxed", a.relaxed);
  need_apart({{"--map", a.map},
              {"--rounds", a.rounds},
              {"--relaxed", a.relaxed},
              {"--tour", a.tour},
              {"--result", a.result}},
             {a.file, a.start});
  const Stops stops = in_trips(stops_of(a), a.capacity, a.trips, a.from);
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
    if (!a.from.empty() && !stops.several()) options.first = stops.find(a.from);
    answer = find_tour(stops, options);
  } catch (const UsageError& e) {
    throw CommandLineError(e.what());
  }
  line.finish();
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
                      "the stops: CSV of names with x, y or lat, lon; a CSV matrix of lengths; or "
                      "TSPLIB");
  std::string known;
  for (const TourWay& way : tour_ways()) known += (known.empty() ? "" : ", ") + way.name;
  command->add_option("--by", a->by, "which way: " + known + "; exact if not said");
  command->add_option("--from", a->from,
                      "the stop where the telling starts; the first if not said");
  command
      ->add_option("--capacity", a->capacity,
                   "several trips from that stop, each with loads of at most so much (column load)")
      ->check(a_figure(true));
  command->add_option("--trips", a->trips, "at most so many trips; any number if not said")
      ->check(CLI::Range(1, 1'000'000));
  command->add_option("--start", a->start, "a tour to begin with (TSPLIB)");
  command
      ->add_option("--seconds", a->seconds,
                   "stop after this many seconds, with the best tour so far")
      ->check(a_figure(false));
  command->add_option("--gap", a->gap, "accept a tour within this relative gap, such as 0.01")
      ->check(a_figure(true));
  command->add_option("--stops", a->stops, "tell at most so many stops, 60 if not said")
      ->check(CLI::Range(1, 100'000'000));
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
      ->check(CLI::Range(1, 5'000'000));
  command->add_option("--seed", a->seed, "for made-up stops and choices that are drawn by lot");
  command->add_flag("--quiet", a->quiet, "print nothing but errors");
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
