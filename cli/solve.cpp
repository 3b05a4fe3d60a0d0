#include "command.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

struct SolveArguments {
  ModelArguments model;
  SearchArguments search;
  std::string result, plan;
  bool relaxed = false, quiet = false;
};

int run(const SolveArguments& a) {
  const Model model = a.model.load();
  const SolveOptions options = a.search.options();
  LiveLine line(model, a.quiet);
  const Result result =
      a.relaxed ? solve_relaxed(model, options, &line) : solve(model, options, &line);
  line.finish();
  if (!a.quiet) print(answer_page(result, page_options()));
  if (!a.result.empty()) write_result(a.result, result);
  if (!a.plan.empty()) {
    if (result.has_plan())
      write_plan(a.plan, model, *result.plan);
    else
      print_error("there is no plan, so " + a.plan + " was not written");
  }
  return exit_code(result.outcome);
}

}  // namespace

Run add_solve(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("solve", "find the best plan and prove that it is");
  const auto a = std::make_shared<SolveArguments>();
  a->model.add_to(*command);
  command->add_option("--result", a->result, "write the result document (JSON) here");
  command->add_option("--plan", a->plan, "write the plan (CSV) here");
  command->add_flag("--relaxed", a->relaxed, "let whole decisions be fractional");
  a->search.add_to(*command);
  command->add_flag("--quiet", a->quiet, "print nothing but errors");
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
