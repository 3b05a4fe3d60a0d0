#include "command.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {

Run add_check(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "check", "try a plan by hand: every rule's value, met or broken, and the goal");
  const auto model = std::make_shared<ModelArguments>();
  const auto plan = std::make_shared<std::string>();
  model->add_to(*command);
  command
      ->add_option("--plan", *plan,
                   "CSV with the columns decision and value; what is not there is 0")
      ->required();
  return [model, plan] {
    const Model loaded = model->load();
    const Plan tried = read_plan(*plan, loaded).value();
    const PlanReport report = check(loaded, tried);
    print(check_page(loaded, tried, report, *plan, page_options()));
    return report.feasible ? kDone : kInfeasible;
  };
}

}  // namespace kiteknot::cli
