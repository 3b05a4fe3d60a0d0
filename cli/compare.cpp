#include "command.hpp"
#include "stops.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

int compare_saved(const std::string& first, const std::string& second) {
  if (!first.ends_with(".json") || !second.ends_with(".json"))
    throw CommandLineError(
        "compare takes a model, or two saved answers that end in .json (see 'solve --save')");
  const SavedAnswer a = noted(read_answer(first)), b = noted(read_answer(second));
  print(saved_page(a, b, page_options()));
  return kDone;
}

}  // namespace

Run add_compare(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("compare",
                               "the proven best against the relaxation, rounding and what people "
                               "do by hand; of stops: all ways to a tour; or two saved answers");
  struct Arguments {
    ModelArguments model;
    SearchArguments search;
    std::vector<std::string> methods;
    std::string other, map, figure;
    TripsArguments trips;
  };
  const auto a = std::make_shared<Arguments>();
  a->model.add_to(*command);
  command->add_option("--map", a->map, "of stops: draw all tours here (.svg or .png)");
  command->add_option("--figure", a->figure,
                      "of stops: draw length against time here (.svg or .png)");
  command->add_option("OTHER", a->other,
                      "where FILE is a saved answer: the one to lay beside it (both .json)");
  std::string known;
  for (const auto& m : all_methods()) known += (known.empty() ? "" : ", ") + m->name();
  known += "; of stops: ";
  for (const TourWay& way : tour_ways())
    known += (way.name == tour_ways().front().name ? "" : ", ") + way.name;
  command->add_option("--methods", a->methods, "which of: " + known)->delimiter(',');
  a->trips.add_to(*command);
  a->search.add_to(*command);
  return [a]() -> int {
    if (!a->other.empty() || a->model.file.ends_with(".json"))
      return compare_saved(a->model.file, a->other);
    if (is_stops(a->model.file))
      return compare_ways(a->model.file, a->methods, a->search, a->trips, a->map, a->figure);
    if (!a->map.empty() || !a->figure.empty() || a->trips.capacity > 0.0 || a->trips.trips > 0 ||
        !a->trips.from.empty())
      throw CommandLineError(
          "--map, --figure, --capacity, --trips and --from are for files of stops");
    for (const std::string& name : a->methods) {
      try {
        (void)method(name);
      } catch (const UsageError& e) {
        throw CommandLineError(e.what());
      }
    }
    const Model model = a->model.load();
    LiveLine line(model, false);
    const SolveOptions options = a->search.options();
    const std::vector<std::string> methods = a->methods.empty() ? method_names(model) : a->methods;
    const Comparison comparison = compare(model, methods, options, &line);
    line.finish();
    print(comparison_page(model, comparison, page_options(a->model.under())));
    return options.stop.pressed() ? kStopped : kDone;
  };
}

}  // namespace kiteknot::cli
