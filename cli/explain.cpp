#include "command.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {
namespace {

struct ExplainArguments {
  ModelArguments model;
  SearchArguments search;
  std::vector<std::string> keep, weigh;
  std::string why;
  int solves = 60;
};

// "crew=3"
std::pair<std::string, Rational> weight_of(const std::string& text) {
  const std::size_t equals = text.find('=');
  const auto value =
      equals == std::string::npos ? std::nullopt : Rational::parse(text.substr(equals + 1));
  if (!value || value->sign() <= 0)
    throw CommandLineError("--weigh takes RULE=WEIGHT with a weight above 0, not '" + text + "'");
  return {text.substr(0, equals), *value};
}

int run_why(const ExplainArguments& a) {
  const Question q = a.model.load(a.why);
  AskedLine line;
  SolveOptions options = a.search.options();
  options.asked = [&](const std::string& name) { line.asked(name); };
  const Why w = why(q.model, q.condition, options, a.solves);
  print(why_page(w, a.why, page_options(a.model.under())));
  if (!w.best.plan || w.best.outcome == Outcome::unbounded) return exit_code(w.best.outcome);
  return w.clash ? kInfeasible : w.other.plan ? kDone : w.holds ? kDone : kStopped;
}

int run(const ExplainArguments& a) {
  if (!a.why.empty()) return run_why(a);
  const Model model = a.model.load();
  LooseningOptions options{a.keep, {}, a.search.options()};
  for (const std::string& text : a.weigh) options.weights.push_back(weight_of(text));
  AskedLine line;
  options.solve.asked = [&](const std::string& name) { line.asked(name); };
  const Explanation e = explain(model, options);
  print(explanation_page(model, e, page_options(a.model.under())));
  return e.outcome == Outcome::infeasible  ? kInfeasible
         : e.outcome == Outcome::unbounded ? kUnbounded
         : e.outcome == Outcome::undecided ? kStopped
                                           : kDone;
}

}  // namespace

Run add_explain(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "explain",
      "why nothing is feasible and the cheapest way out; with --why, what a condition costs");
  const auto a = std::make_shared<ExplainArguments>();
  a->model.add_to(*command);
  auto* why = command->add_option(
      "--why", a->why,
      "what this condition would cost the best plan, such as 'run[\"tea tent\"] = 1'");
  command->add_option("--solves", a->solves, "with --why: its limit on solves, 60 if not said")
      ->needs(why)
      ->check(a_count(false, 1'000'000));
  auto* keep = command
                   ->add_option("--keep", a->keep,
                                "a rule that the way out must not miss (may be said again)")
                   ->allow_extra_args(false);
  auto* weigh =
      command
          ->add_option("--weigh", a->weigh,
                       "RULE=WEIGHT: what a unit of missing the rule counts, 1 where not said")
          ->allow_extra_args(false);
  why->excludes(keep)->excludes(weigh);
  a->search.add_to(*command, true);
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
