#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <sstream>

#include <fmt/format.h>

#include "cases.hpp"
#include "command.hpp"
#include "outputs.hpp"
#include "own_program.hpp"
#include "stops.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {
namespace {

struct CompareArguments {
  CaseArguments cases;
  SearchArguments search;
  TripsArguments trips;
  std::vector<std::string> ways, programs, plans;
  std::string map, figure, distances, shares, table, save, keep, html;
  double within = 0.01;
  std::int64_t runs = 1;
  bool all_ways = false;
};

int compare_saved(const std::string& first, const std::string& second) {
  if (!first.ends_with(".json") || !second.ends_with(".json"))
    throw CommandLineError(
        "compare takes models, stops, or two saved answers that end in .json (see 'solve --save')");
  const SavedAnswer a = noted(read_answer(first)), b = noted(read_answer(second));
  print(saved_page(a, b, page_options()));
  return kDone;
}

OwnMethods own_ways(const CompareArguments& a) {
  OwnMethods own;
  for (const std::string& stated : a.programs) own.push_back(own_program(stated));
  for (const std::string& path : a.plans) own.push_back(plan_file(path));
  return own;
}

void need_known(const std::vector<std::string>& ways, const OwnMethods& own) {
  for (const std::string& name : ways) {
    if (std::ranges::any_of(own, [&](const auto& m) { return m->name() == name; })) continue;
    try {
      (void)method(name);
    } catch (const UsageError& e) {
      throw CommandLineError(e.what());
    }
  }
}

// One model, with the story of every way.
int compare_one(const CompareArguments& a, const OwnMethods& own) {
  const ModelArguments arguments = a.cases.one();
  const Model model = arguments.load();
  LiveLine line(model, false);
  SolveOptions options = a.search.options();
  options.seconds_each = options.seconds;
  options.seconds = HUGE_VAL;
  std::vector<std::string> ways = a.ways.empty() ? method_names(model, a.all_ways) : a.ways;
  std::erase_if(ways, [&](const std::string& w) {
    return std::ranges::any_of(own, [&](const auto& m) { return m->name() == w; });
  });
  const Comparison comparison = compare(model, ways, options, &line, own);
  line.finish();
  print(comparison_page(model, comparison, page_options(arguments.under())));
  return options.stop.pressed() ? kStopped : kDone;
}

std::vector<Attempt> kept_before(const std::string& path) {
  if (path.empty() || !std::filesystem::exists(path)) return {};
  std::ifstream in(path, std::ios::binary);
  try {
    return read_attempts(std::string(std::istreambuf_iterator<char>(in), {}));
  } catch (const UsageError& e) {
    throw CommandLineError("--keep " + path + ": " + e.what());
  }
}

// A line is added as soon as its attempt is done; what a killed run left of one is cut off first.
class Keeper {
 public:
  explicit Keeper(const std::string& path) {
    if (path.empty()) return;
    if (std::filesystem::exists(path)) {
      std::ifstream in(path, std::ios::binary);
      const std::string text(std::istreambuf_iterator<char>(in), {});
      const std::size_t whole = text.rfind('\n') == std::string::npos ? 0 : text.rfind('\n') + 1;
      if (whole < text.size()) std::filesystem::resize_file(path, whole);
    }
    out_.open(path, std::ios::binary | std::ios::app);
    if (!out_) throw OutputError(path + " cannot be written");
    path_ = path;
  }
  void add(const Attempt& attempt) {
    if (path_.empty() || failed_) return;
    out_ << attempt_line(attempt) << std::flush;
    if (out_) return;
    failed_ = true;
    print_error(path_ + " cannot be written any more: what comes now is not kept");
  }

 private:
  std::ofstream out_;
  std::string path_;
  bool failed_ = false;
};

int compare_cases(const CompareArguments& a, const OwnMethods& own) {
  for (const auto& [option, file] :
       {std::pair("--figure", &a.figure), std::pair("--distances", &a.distances),
        std::pair("--shares", &a.shares)})
    need_drawing_name(option, *file);
  if (!a.html.empty() && !a.html.ends_with(".html") && !a.html.ends_with(".htm"))
    throw CommandLineError("--html takes a file that ends in .html, not '" + a.html + "'");
  std::vector<std::string> inputs = a.cases.inputs();
  inputs.insert(inputs.end(), a.plans.begin(), a.plans.end());
  need_apart({{"--figure", a.figure},
              {"--distances", a.distances},
              {"--shares", a.shares},
              {"--html", a.html},
              {"--table", a.table},
              {"--save", a.save},
              {"--keep", a.keep}},
             inputs);
  const SolveOptions wishes = a.search.options();
  TrialOptions options;
  options.ways = a.ways;
  options.own = own;
  if (!options.ways.empty())  // whoever brings a way wants to see it
    for (const auto& m : own)
      if (std::ranges::find(options.ways, m->name()) == options.ways.end())
        options.ways.push_back(m->name());
  constexpr double kUsual = 2.0;
  options.seconds = std::isfinite(wishes.seconds) ? wishes.seconds : kUsual;
  options.runs = static_cast<int>(a.runs);
  options.seed = wishes.seed;
  options.stop = wishes.stop;
  options.threads = wishes.threads;
  options.known = kept_before(a.keep);
  options.ranks = together().letters;
  Keeper keeper(leads() ? a.keep : std::string());
  options.done = [&](const Attempt& attempt) { keeper.add(attempt); };
  ShortLine line(false);
  const auto start = std::chrono::steady_clock::now();
  const std::vector<TrialCase> cases = a.cases.cases();
  options.asked = [&](const std::string& of, const std::string& way, int run) {
    const std::chrono::duration<double> gone = std::chrono::steady_clock::now() - start;
    const auto at = std::ranges::find(cases, of, &TrialCase::name) - cases.begin();
    line.show(gone.count(), [&] {
      return fmt::format(" {:.0f} s   case {} of {}, {}   {}{}", gone.count(), at + 1, cases.size(),
                         of, way, run > 1 ? fmt::format(", run {}", run) : "");
    });
  };
  const Trials trials = [&] {
    try {
      return run_trials(cases, options);
    } catch (const UsageError& e) {
      throw CommandLineError(e.what());
    }
  }();
  if (!leads()) return kDone;
  line.finish();
  Outputs outputs;
  outputs.attempt([&] { print(trials_page(trials, page_options())); });
  if (!a.table.empty()) outputs.attempt([&] { write_text(a.table, trials_csv(trials)); });
  if (!a.html.empty())
    outputs.attempt([&] {
      write_text(a.html,
                 trials_report(trials, fmt::format("Made on {} by kiteknot {}",
                                                   a.cases.one().origin().when, KITEKNOT_VERSION)));
    });
  if (!a.save.empty()) outputs.attempt([&] { write_text(a.save, trials_document(trials)); });
  const auto figure = [&](const std::string& file, const auto& draw) {
    if (file.empty()) return;
    outputs.attempt([&] {
      try {
        write_drawing(file, draw());
      } catch (const UsageError& e) {
        throw OutputError(file + " was not drawn: " + e.what());
      }
    });
  };
  figure(a.figure, [&] { return trials_time_figure(trials); });
  figure(a.distances, [&] { return trials_distance_figure(trials); });
  figure(a.shares, [&] { return trials_share_figure(trials, a.within); });
  const bool unread =
      std::ranges::any_of(trials.cases, [](const TrialCaseAnswer& c) { return !c.failed.empty(); });
  return outputs.end(trials.stopped ? kStopped : unread ? kBadInput : kDone);
}

// At blanks, behind a margin.
std::string wrapped(const std::string& text, std::size_t margin, std::size_t width) {
  std::string out;
  std::size_t column = 0;
  std::istringstream words(text);
  for (std::string word; words >> word;) {
    if (column > 0 && margin + column + 1 + word.size() > width) {
      out += '\n' + std::string(margin, ' ');
      column = 0;
    } else if (column > 0) {
      out += ' ';
      ++column;
    }
    out += word;
    column += word.size();
  }
  return out;
}

// What there is to compare, one way after the other.
std::string ways_page() {
  constexpr std::size_t kMargin = 26, kWidth = 100;
  std::string text = "Ways that can be compared (--ways NAME,NAME)\n\n";
  const std::string margin(kMargin, ' ');
  for (const auto& m : all_methods()) {
    text +=
        fmt::format("  {:<{}}{}\n", m->name(), kMargin - 2, wrapped(m->about(), kMargin, kWidth));
    std::string more = m->source();
    if (m->draws_lots())
      more += (more.empty() ? "" : "; ") + std::string("draws lots (--seed, --runs)");
    if (!more.empty()) text += margin + wrapped(more, kMargin, kWidth) + "\n";
    if (m->looks() > 0)
      text += margin +
              wrapped(fmt::format("without --seconds: {} million scores of moves",
                                  m->looks() / 1'000'000),
                      kMargin, kWidth) +
              "\n";
  }
  return text +
         "\nWays of one kind of problem (cover, boxes, ...) take models that are such from end to "
         "end; 'show'\nsays what a model is. --way NAME=COMMAND is a program of your own.\n";
}

int run(const CompareArguments& a) {
  const CaseArguments& c = a.cases;
  if (c.files.empty()) {
    if (!a.ways.empty() || !a.programs.empty() || c.many())
      throw CommandLineError("what is compared? FILE is a model, a folder of them, or stops");
    if (leads()) print(ways_page());
    return kDone;
  }
  const std::string& first = c.files.front();
  const bool many = together().letters != nullptr;
  // What has no cases to share out is rank 0's alone.
  const auto by_one = [&] {
    if (leads() && many) print_error("one case is compared by one process; many cases by all");
    return leads();
  };
  if (c.files.size() == 2 && (first.ends_with(".json") || c.files[1].ends_with(".json")))
    return by_one() ? compare_saved(first, c.files[1]) : kDone;
  if (std::ranges::any_of(c.files, [](const auto& f) { return f.ends_with(".json"); }))
    throw CommandLineError("two saved answers are laid side by side: compare A.json B.json");
  const OwnMethods own = own_ways(a);
  const bool cases_only = !a.distances.empty() || !a.shares.empty() || !a.table.empty() ||
                          !a.save.empty() || !a.keep.empty() || !a.html.empty() || a.runs > 1;
  if (is_stops(first)) {
    if (c.many() || cases_only || !own.empty() || !c.scenario.empty() || !c.settings.empty())
      throw CommandLineError("stops are compared one file at a time, by the ways to a tour");
    return by_one() ? compare_ways(first, a.ways, a.search, a.trips, a.map, a.figure) : kDone;
  }
  if (!a.map.empty() || a.trips.capacity > 0.0 || a.trips.trips > 0 || !a.trips.from.empty())
    throw CommandLineError("--map, --capacity, --trips and --from are for files of stops");
  need_known(a.ways, own);
  if (c.many() || cases_only || !a.figure.empty()) return compare_cases(a, own);
  return by_one() ? compare_one(a, own) : kDone;
}

}  // namespace

Run add_compare(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("compare",
                               "the proven best against the relaxation, rounding and ways that "
                               "people plan by, on one case or many; of stops: all ways to a tour; "
                               "or two saved answers");
  const auto a = std::make_shared<CompareArguments>();
  a->cases.add_to(*command);
  std::string known;
  for (const auto& m : all_methods()) known += (known.empty() ? "" : ", ") + m->name();
  known += "; of stops: ";
  for (const TourWay& way : tour_ways())
    known += (way.name == tour_ways().front().name ? "" : ", ") + way.name;
  auto* ways =
      command->add_option("--ways,--methods", a->ways, "which of: " + known)->delimiter(',');
  command->add_flag("--all-ways", a->all_ways, "every way that takes the model")->excludes(ways);
  command
      ->add_option("--way", a->programs,
                   "NAME=COMMAND: a program of your own as a further way; it is run as COMMAND "
                   "FOLDER SECONDS SEED, finds the tables in FOLDER and writes FOLDER/plan.csv")
      ->take_all()
      ->allow_extra_args(false);
  command->add_option("--plan", a->plans, "a plan that is there already, as a further row")
      ->take_all()
      ->allow_extra_args(false);
  command->add_option("--runs", a->runs, "run ways that draw lots so often, with seeds in a row")
      ->check(a_count(false, 1'000));
  command->add_option("--figure", a->figure,
                      "draw what each way had after which time (.svg or .png)");
  command->add_option("--distances", a->distances,
                      "draw how far each way ended from the best, a dot for each case");
  command->add_option("--shares", a->shares,
                      "draw on how many cases each way is near the best after which time");
  command->add_option("--within", a->within, "what is near for --shares, 1% if not said")
      ->type_name("SHARE")
      ->transform(a_share());
  command->add_option("--html", a->html, "write tables and figures as one page here (.html)");
  command->add_option("--table", a->table, "write a row for each attempt here (.csv)");
  command->add_option("--save", a->save, "write everything here as JSON");
  command->add_option("--keep", a->keep,
                      "keep each attempt here as it is done; a comparison that was interrupted "
                      "goes on from it");
  command->add_option("--map", a->map, "of stops: draw all tours here (.svg or .png)");
  a->trips.add_to(*command);
  a->search.add_to(*command);
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
