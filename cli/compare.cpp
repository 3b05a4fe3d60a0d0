#include "command.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {

Run add_compare(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "compare", "the proven best against the relaxation, rounding and what people do by hand");
  struct Arguments {
    ModelArguments model;
    SearchArguments search;
    std::vector<std::string> methods;
  };
  const auto a = std::make_shared<Arguments>();
  a->model.add_to(*command);
  std::string known;
  for (const auto& m : all_methods()) {
    known += (known.empty() ? "" : ", ") + m->name();
    a->methods.push_back(m->name());
  }
  command->add_option("--methods", a->methods, "which of: " + known)->delimiter(',');
  a->search.add_to(*command);
  return [a] {
    for (const std::string& name : a->methods) {
      try {
        (void)method(name);
      } catch (const UsageError& e) {
        throw CommandLineError(e.what());
      }
    }
    const Model model = a->model.load();
    LiveLine line(model, false);
    const Comparison comparison = compare(model, a->methods, a->search.options(), &line);
    line.finish();
    print(comparison_page(model, comparison, page_options()));
    return kDone;
  };
}

}  // namespace kiteknot::cli
