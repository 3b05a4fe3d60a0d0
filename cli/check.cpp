#include "command.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {

namespace {

int completed(const Model& model, const std::string& file, const std::string& under) {
  const auto given = noted(read_partial_plan(file, model));
  LiveLine line(model, false);
  SearchArguments search;
  const Result r = complete(model, given, search.options(), &line);
  line.finish();
  const std::string kept =
      std::to_string(given.size()) + (given.size() == 1 ? " decision" : " decisions");
  if (r.has_plan()) {
    print(check_page(model, *r.plan, *r.report, file + ", with the rest filled in,",
                     page_options(under)));
    print("\nKept as given: " + kept + "; the rest is the best that goes with them" +
          (r.outcome == Outcome::optimal ? ", proven.\n" : ", as far as was searched.\n"));
  } else {
    print(shown(model.title()) + ": no plan that keeps the " + kept + " of " + file +
          " meets all rules" + (r.outcome == Outcome::infeasible ? ", proven.\n" : " so far.\n"));
  }
  return exit_code(r.outcome);
}

}  // namespace

Run add_check(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "check", "try a plan by hand: every rule's value, met or broken, and the goal");
  const auto model = std::make_shared<ModelArguments>();
  const auto plan = std::make_shared<std::string>();
  model->add_to(*command);
  command
      ->add_option("--plan", *plan,
                   "as solve --plan writes it: CSV or JSON with the columns decision, value and "
                   "one for each key, a folder or a database; what is not there is 0")
      ->required();
  const auto fill = std::make_shared<bool>(false);
  command->add_flag("--complete", *fill,
                    "keep what the plan decides and fill in the rest as well as it goes");
  return [model, plan, fill]() -> int {
    const Model loaded = model->load();
    if (*fill) return completed(loaded, *plan, model->under());
    const Plan tried = noted(read_plan(*plan, loaded));
    const PlanReport report = check(loaded, tried);
    print(check_page(loaded, tried, report, *plan == "-" ? "standard input" : *plan,
                     page_options(model->under())));
    return report.feasible ? kDone : kInfeasible;
  };
}

}  // namespace kiteknot::cli
