#include "kiteknot/explain.hpp"

#include "command.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

struct ExplainArguments {
  ModelArguments model;
  SearchArguments search;
  std::vector<std::string> keep, weigh;
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

int run(const ExplainArguments& a) {
  const Model model = a.model.load();
  LooseningOptions options{a.keep, {}, a.search.options()};
  for (const std::string& text : a.weigh) options.weights.push_back(weight_of(text));
  const Explanation e = explain(model, options);
  print(explanation_page(model, e, page_options()));
  return e.outcome == Outcome::infeasible  ? kInfeasible
         : e.outcome == Outcome::unbounded ? kUnbounded
         : e.outcome == Outcome::undecided ? kStopped
                                           : kDone;
}

}  // namespace

Run add_explain(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "explain", "why nothing is feasible: the rules that clash, and the cheapest way out");
  const auto a = std::make_shared<ExplainArguments>();
  a->model.add_to(*command);
  command->add_option("--keep", a->keep,
                      "a rule that the way out must not miss (may be said again)");
  command->add_option("--weigh", a->weigh,
                      "RULE=WEIGHT: what a unit of missing the rule counts, 1 where not said");
  a->search.add_to(*command);
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
