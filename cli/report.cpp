#include <chrono>
#include <cmath>

#include <fmt/format.h>

#include "cases.hpp"
#include "command.hpp"
#include "outputs.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {
namespace {

struct ReportArguments {
  ModelArguments model;
  SearchArguments search;
  std::string html, as;
  std::vector<std::string> data;
  bool only_answer = false, rule_costs = false;
};

// Time for everything that is asked.
class Clock {
 public:
  explicit Clock(const SolveOptions& options) : options_(options) {}
  [[nodiscard]] SolveOptions left() const {
    SolveOptions next = options_;
    const std::chrono::duration<double> gone = std::chrono::steady_clock::now() - start_;
    next.seconds = std::max(0.0, options_.seconds - gone.count());
    return next;
  }

 private:
  SolveOptions options_;
  std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
};

// Every way on each of the data sets.
Trials trials_of(const ReportArguments& a, const SolveOptions& left, AskedLine& asked) {
  CaseArguments cases;
  cases.files = {a.model.file};
  cases.scenario = a.model.scenario;
  cases.settings = a.model.settings;
  cases.data = a.data;
  cases.as = a.as;
  TrialOptions options;
  constexpr double kUsual = 0.5;
  options.seconds = std::isfinite(left.seconds_each) ? left.seconds_each : kUsual;
  options.seed = left.seed;
  options.stop = left.stop;
  options.threads = left.threads;
  options.asked = [&](const std::string& of, const std::string& way, int) {
    asked.asked(of + ", " + way);
  };
  return run_trials(cases.cases(), options);
}

int run(const ReportArguments& a) {
  if (!a.html.ends_with(".html") && !a.html.ends_with(".htm"))
    throw CommandLineError("--html takes a file that ends in .html, not '" + a.html + "'");
  const Model model = a.model.load();
  std::vector<std::string> inputs = model.inputs();
  if (!a.data.empty()) {
    CaseArguments cases;
    cases.data = a.data;
    for (const std::string& file : cases.inputs()) inputs.push_back(file);
  }
  need_apart({{"--html", a.html}}, inputs);
  const std::vector<std::string> names = model.scenarios();
  const auto scenarios = a.only_answer || !a.model.scenario.empty()
                             ? std::vector<std::pair<std::string, Model>>{}
                             : a.model.load_scenarios(names);
  SolveOptions options = a.search.options();
  AskedLine asked;
  options.asked = [&](const std::string& name) { asked.asked(name); };
  const Clock clock(options);
  LiveLine line(model, false);
  ReportParts parts(solve(model, options, &line));
  line.finish();
  parts.under = a.model.under();
  const Origin origin = a.model.origin();
  parts.made = fmt::format("Made on {} by kiteknot {}", origin.when, KITEKNOT_VERSION);
  parts.sources = model.sources();
  const auto besides = [&](const std::string& what, const std::function<void()>& work) {
    try {
      work();
    } catch (const std::exception& e) {
      parts.left_out.push_back(what + " is left out: " + e.what() + ".");
    }
  };
  if (parts.best.outcome == Outcome::infeasible || parts.best.outcome == Outcome::unbounded)
    besides("Why", [&] { parts.explanation = explain(model, {{}, {}, clock.left()}); });
  if (!a.only_answer) {
    if (!model.goal_name().empty() && parts.best.has_plan() && !parts.explanation)
      besides("A comparison of ways", [&] {
        parts.ways = compare(parts.best, method_names(parts.best.model()), clock.left());
      });
    if (!scenarios.empty())
      besides("What the scenarios come to",
              [&] { parts.scenarios = compare_scenarios(parts.best, scenarios, clock.left()); });
    if (!a.data.empty())
      besides("Ways on many cases", [&] { parts.trials = trials_of(a, clock.left(), asked); });
    if (a.rule_costs && parts.best.has_plan() && !parts.explanation)
      besides("What rules cost", [&] { parts.rules = without_each(model, false, clock.left()); });
  }
  Outputs outputs;
  outputs.attempt([&] { write_text(a.html, html_report(parts)); });
  int outcome = exit_code(parts.best.outcome);
  if (outcome == kDone && ((parts.scenarios && left_open(*parts.scenarios)) ||
                           (parts.rules && left_open(*parts.rules))))
    outcome = kStopped;
  const int code = outputs.end(outcome);
  if (code != kFailed) print("The report is in " + a.html + "\n");
  return code;
}

}  // namespace

Run add_report(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("report",
                               "model, answer, ways compared and scenarios as one HTML page that "
                               "needs nothing else");
  const auto a = std::make_shared<ReportArguments>();
  a->model.add_to(*command);
  command->add_option("--html", a->html, "write the page here")->required();
  auto* only = command->add_flag("--only-answer", a->only_answer,
                                 "model and answer only: no ways compared, no scenarios");
  auto* data =
      command
          ->add_option("--data", a->data,
                       "also every way of planning on each of these files, in place of the "
                       "table that --as names; --seconds-each for each way")
          ->excludes(only);
  auto* as = command->add_option("--as", a->as, "which table of the model --data stands for");
  data->needs(as);
  as->needs(data);
  command->add_flag("--rule-costs", a->rule_costs, "also what each rule costs")->excludes(only);
  a->search.add_to(*command, true);
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
