// The whole story on the shipped kite festival, one step after the other.

#include <algorithm>
#include <filesystem>
#include <fstream>

#include "command.hpp"
#include "steps.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

namespace fs = std::filesystem;

std::string demo_folder(const std::string& wanted) {
  if (!wanted.empty()) return wanted;
  std::error_code code;
  const fs::path program = fs::read_symlink("/proc/self/exe", code);
  const fs::path installed = program.parent_path().parent_path() / "share" / "kiteknot" / "demo";
  if (!code && fs::exists(installed, code)) return installed.string();
  return KITEKNOT_DEMO_DIR;
}

class Story {
 public:
  explicit Story(std::string folder) : folder_(std::move(folder)), page_(page_options()) {}

  int run() {
    const Model programme = load("programme.knot");
    step("Read the model back",
         "Fourteen shows want a place in the festival's programme. Crew hours and the grant are "
         "short. Before\n"
         "anything is solved, look at what was stated: swapped columns and a forgotten rule are "
         "found here.",
         "show programme.knot");
    print(show_page(programme, page_));

    const Plan tried = read_plan(folder_ + "/by_hand.csv", programme).value();
    step("Try a plan by hand",
         "Somebody wrote down the shows that draw the largest crowds. Does that fit?",
         "check programme.knot --plan by_hand.csv");
    print(check_page(programme, tried, check(programme, tried), "by_hand.csv", page_));

    step("Relax it",
         "Let shows be held in part. What comes out is a value that no programme can beat, and a "
         "price on\nevery limit.",
         "solve programme.knot --relaxed");
    print(answer_page(solve_relaxed(programme), page_));

    step("Solve it", "Now whole shows only, to the proof.", "solve programme.knot");
    print(answer_page(solve(programme), page_));

    step("Compare", "Would rounding the relaxed programme have done? Would picking by ratio?",
         "compare programme.knot");
    print(comparison_page(programme, compare(programme, method_names(programme)), page_));

    other_models();
    round_trips();
    questions(programme, load("judges.knot"));
    by_hand();
    print("\nThe model files and tables are in\n  " + folder_ + "\n");
    return kDone;
  }

 private:
  void other_models() {
    const Model crate = load("crate.knot");
    step("A crate that greed packs badly",
         "The repair crate may weigh 20 kg. Greedy packs what is worth most for its mass, and "
         "leaves a hole\nthat nothing fits.",
         "compare crate.knot");
    print(comparison_page(crate, compare(crate, method_names(crate)), page_));

    const Model stewards = load("stewards.knot");
    step("Stewards that come in halves",
         "Every shift pattern covers some of the day's hours. The relaxation hires halves of "
         "stewards; rounded\ndown they leave the gate unwatched, rounded up they cost more than "
         "need be.",
         "compare stewards.knot");
    print(comparison_page(stewards, compare(stewards, method_names(stewards)), page_));

    many_weeks();

    const Model judges = load("judges.knot");
    step("Conditions between decisions",
         "Six judges bid for four contests. Whoever takes one job may need, exclude or excuse "
         "another; two judges\nfrom one beach may both be busy, but that costs a supper. Rules are "
         "stated as they are said.",
         "solve judges.knot");
    print(answer_page(solve(judges), page_));
    print("\n$ kiteknot compare judges.knot\n\n");
    print(comparison_page(judges, compare(judges, method_names(judges)), page_));

    const Model lamps = load("lamps.knot");
    step(
        "Prices that change with the number",
        "One lender of lamps gets cheaper with the number, the other dearer; batteries have one "
        "rate for all. Look\nat what became of the curves: where the shape fits the use, no binary "
        "is needed.",
        "show lamps.knot");
    print(show_page(lamps, page_));
    print("\n$ kiteknot solve lamps.knot\n\n");
    print(answer_page(solve(lamps), page_));

    const Model winch = load("winch.knot");
    step("Sizes that no sum tells",
         "A winch for the great kite: strength is a product, mass a cube. The best is proven among "
         "all plans;\na hundred local searches end at another one, and rounding breaks what it was "
         "to keep.",
         "compare winch.knot");
    print(comparison_page(winch, compare(winch, method_names(winch)), page_));

    const Model workshop = load("workshop.knot");
    step("One thing at a time",
         "Six kites over four stands, each in an order of its own. What is kept apart in pairs is "
         "seen as machines.",
         "solve workshop.knot");
    print(answer_page(solve(workshop), page_));

    const Model wheel = load("wheel.knot");
    step("A hard one, and how it went",
         "Three kinds of cord, one wheel, sixteen weeks. The relaxation sets the wheel up for a "
         "third of a day\nhere and there; see under the answer how that was closed.",
         "solve wheel.knot");
    print(answer_page(solve(wheel), page_));
  }

  // How good is a rule of thumb? One week says little.
  void many_weeks() {
    step("Thirty weeks, not one",
         "How far from the best does each way of planning stewards end, on thirty weeks of needs, "
         "with a tenth of\na second each?",
         "compare stewards.knot --data 'weeks/*.csv' --as hours --seconds 0.1 --ways "
         "exact,rounded,greedy,climb,tabu,annealing,ruin,breeding");
    std::vector<TrialCase> weeks;
    std::vector<std::filesystem::path> files;
    for (const auto& entry : fs::directory_iterator(folder_ + "/weeks"))
      files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    for (const fs::path& file : files)
      weeks.push_back(
          {file.stem().string(), [this, file] {
             return read_model(folder_ + "/stewards.knot", "", {{"hours", file.string()}}).value();
           }});
    TrialOptions options;
    options.ways = {"exact", "rounded", "greedy", "climb", "tabu", "annealing", "ruin", "breeding"};
    constexpr double kEach = 0.1;
    options.seconds = kEach;
    options.threads = 0;
    print(trials_page(run_trials(weeks, options), page_));

    const Model depots = load("depots.knot");
    print("\n$ kiteknot compare depots.knot\n\n");
    print(comparison_page(depots, compare(depots, method_names(depots)), page_));
  }

  void round_trips() {
    const Stops stops = Stops::read(folder_ + "/stops.csv").value();
    TourOptions options;
    options.first = stops.find("Gate");
    options.in_rounds = true;
    step("A round trip, round by round",
         "The rope crew goes once around all 42 stops of the bay. Two legs at every stop make "
         "loops; these are\nruled out, and it is solved again, until there is one.",
         "tour stops.csv --from Gate --in-rounds --stops 5");
    print(tour_page(stops, find_tour(stops, options), page_, 5));
    options.in_rounds = false;
    print("\n$ kiteknot tour stops.csv --from Gate\n\n");
    print(tour_page(stops, find_tour(stops, options), page_));

    const Stops wind = Stops::read(folder_ + "/wind.csv").value();
    step("What would people do?",
         "Every way to a tour that the tool knows, against the proven shortest.",
         "compare stops.csv");
    std::vector<TourAnswer> ways;
    for (const TourWay& way : tour_ways()) {
      if (!takes(way, stops)) continue;
      options.way = way.name;
      options.with_bound = false;
      ways.push_back(find_tour(stops, options));
    }
    print(tour_comparison_page(stops, ways, page_));

    step("The same against the wind",
         "By bicycle the way west takes longer than the way back: minutes, one way and the other.",
         "tour wind.csv --stops 5");
    print(tour_page(wind, find_tour(wind), page_, 5));

    constexpr double kVan = 64.0;  // rolls
    step("Two vans", "Every stop waits for some rolls of rope, and a van takes 64.",
         "tour stops.csv --from Gate --capacity 64 --trips 2");
    const Stops vans = stops.in_trips(kVan, 2, stops.find("Gate"));
    print(tour_page(vans, find_tour(vans), page_));

    const Model day = load("day.knot");
    step(
        "A tour as one rule of many",
        "One van, 24 kilometres, and stops may be left out: which of them, so that most is brought "
        "out? The tour\nis a rule of a model, like any other.",
        "solve day.knot");
    print(answer_page(solve(day), page_));
  }

  // The algebra of a whole-number answer, step by step.
  void by_hand() {
    const Model hour = load("hour.knot");
    step("By hand: pivot, cut, pivot",
         "Three kinds of kites, spars and cord left over. The simplex tableau in fractions; two "
         "cutting planes\nread off its rows; and all is whole. At a prompt every step can be taken "
         "back.",
         "tableau hour.knot --steps hour.steps");
    Workbench bench(hour);
    print(tableau_page(bench.tableau(), page_));
    std::ifstream in(folder_ + "/hour.steps");
    if (!in) throw IoError(folder_ + "/hour.steps: cannot be opened");
    take_steps(
        bench, in, folder_ + "/hour.steps",
        [](const std::string& words) { print("\n> " + words + "\n\n"); },
        [&](const Deed& deed) { print(deed_page(bench, deed, page_)); });
    step("The same by branches",
         "Two branches for every decision that came out in parts; each copy is a tableau of its "
         "own.",
         "tableau hour.knot");
    Workbench branches(hour);
    for (const char* words : {"to the end", "delta <= 2", "to the end", "copy 1", "delta >= 3",
                              "to the end", "copies"}) {
      print(std::string("\n> ") + words + "\n\n");
      print(deed_page(branches, branches.step(words).value(), page_));
    }
  }

  // A plan is believed after it was questioned.
  void questions(const Model& programme, const Model& judges) {
    step("Doubt it: what would more money bring?",
         "The grant is swept over a range, and the values at which the plan changes are found.",
         "vary programme.knot --sweep grant=1100..1300/5 --steps");
    print(variation_page(programme, sweep(programme, {"grant", 1100, 1300, 5, true}), page_));

    step("Why is that show not in it?", "What it would cost, and what would have to be different.",
         "explain programme.knot --why 'run[\"wind garden\"] = 1'");
    const std::string asked = "run[\"wind garden\"] = 1";
    const Question q = read_question(folder_ + "/programme.knot", asked).value();
    print(why_page(why(q.model, q.condition), asked, page_));

    step("How firm is the plan?",
         "Every figure is moved by itself until another plan is better: three of them to check "
         "again.",
         "vary programme.knot --firm");
    print(firmness_page(firmness(programme), page_));

    step("Scenarios",
         "The judges' rules under other circumstances. Without the rule that every contest has a "
         "judge, doing\nnothing at all is best; and one scenario cannot be met.",
         "vary judges.knot");
    std::vector<std::pair<std::string, Model>> scenarios;
    for (const std::string& name : judges.scenarios())
      scenarios.emplace_back(name, read_model(folder_ + "/judges.knot", name).value());
    print(variation_page(judges, compare_scenarios(judges, scenarios), page_));

    step("Why nothing at all?",
         "Six judges cannot each take exactly one of four contests. The rules that clash, and the "
         "cheapest way out.",
         "explain judges.knot --scenario \"exactly one each\"");
    const Model crowded = read_model(folder_ + "/judges.knot", "exactly one each").value();
    print(explanation_page(crowded, explain(crowded), page_));

    const Model depots = load("depots.knot");
    step("Two goals against each other",
         "The cheapest depots crowd one gate. What does it cost to spread the load?",
         "vary depots.knot --trade 'cost,minimize busiest' --points 6");
    print(trade_page(
        depots,
        trade_off(depots, trade_goal(depots, "cost"), trade_goal(depots, "minimize busiest"), 6),
        page_));
  }

  Model load(const std::string& file) const { return read_model(folder_ + "/" + file).value(); }
  void step(const std::string& title, const std::string& why, const std::string& command) {
    const std::string line = std::to_string(++step_) + ". " + title;
    const std::string rule(static_cast<std::size_t>(std::min(page_.width, 100)), '~');
    print((step_ > 1 ? "\n" : "") + rule + "\n" +
          (page_.colour ? "\033[1m" + line + "\033[0m" : line) + "\n" + why + "\n\n$ kiteknot " +
          command + "\n\n");
  }

  std::string folder_;
  PageOptions page_;
  int step_ = 0;
};

}  // namespace

Run add_demo(CLI::App& app, CLI::App*& command) {
  command =
      app.add_subcommand("demo", "the whole story on an invented kite festival, step by step");
  const auto folder = std::make_shared<std::string>();
  command->add_option("--data", *folder, "the folder with the demo's models (found by itself)");
  return [folder] { return Story(demo_folder(*folder)).run(); };
}

}  // namespace kiteknot::cli
