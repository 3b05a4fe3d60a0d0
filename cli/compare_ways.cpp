// Ways to a tour, side by side.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "drawing.hpp"
#include "outputs.hpp"
#include "stops.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {

bool is_stops(const std::string& file) {
  return std::ranges::any_of(std::initializer_list<const char*>{".csv", ".tsp", ".atsp", ".vrp"},
                             [&](const char* ending) { return file.ends_with(ending); });
}

int compare_ways(const std::string& file, const std::vector<std::string>& ways,
                 const SearchArguments& search, const TripsArguments& trips, const std::string& map,
                 const std::string& progress) {
  need_apart({{"--map", map}, {"--figure", progress}}, {file});
  need_drawing_name("--map", map);
  need_drawing_name("--figure", progress);
  for (const std::string& way : ways) try {
      (void)tour_way(way);
    } catch (const UsageError& e) {
      throw CommandLineError(e.what());
    }
  const Stops stops = trips.of(read_stops(file));
  const SolveOptions wishes = search.options();
  if (!map.empty()) need_a_map(stops);
  ShortLine line(false);
  std::vector<TourAnswer> answers;
  bool proven = false;
  std::vector<const TourWay*> taken;
  for (const TourWay& way : tour_ways()) {
    const bool asked = std::find(ways.begin(), ways.end(), way.name) != ways.end();
    // Not asked for by name: what does not take these stops is left out.
    if (ways.empty() ? takes(way, stops) : asked) taken.push_back(&way);
  }
  for (const TourWay* one : taken) {
    if (wishes.stop.pressed()) break;
    const TourWay& way = *one;
    TourOptions options;
    options.way = way.name;
    options.with_bound = !proven;      // else that is what they are held against
    options.seconds = wishes.seconds;  // for each, its bound included
    options.gap = wishes.gap;
    options.seed = wishes.seed;
    options.stop = wishes.stop;
    options.watch = [&](const TourProgress& p) {
      line.show(p.seconds, [&] { return way.name + ":" + tour_line(stops, p); });
    };
    try {
      answers.push_back(find_tour(stops, options));
      proven = proven || answers.back().outcome == Outcome::optimal;
    } catch (const UsageError& e) {
      throw CommandLineError(e.what());
    }
  }
  line.finish();
  Outputs outputs;
  outputs.attempt([&] { print(tour_comparison_page(stops, answers, page_options())); });
  if (std::isfinite(wishes.seconds))
    print(fmt::format("  Each way had {} seconds, its bound included.\n", wishes.seconds));
  if (!map.empty())
    outputs.attempt([&] { write_drawing(map, tour_comparison_maps(stops, answers)); });
  if (!progress.empty())
    outputs.attempt([&] {
      if (!can_draw())
        throw OutputError("gnuplot is not installed, so " + progress + " was not drawn");
      const std::string unfinished = unfinished_name(progress);
      draw(tour_progress_figure(stops, answers, unfinished, progress), unfinished, progress);
    });
  return outputs.end(kDone);
}

}  // namespace kiteknot::cli
