#include "command.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {

Run add_show(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "show", "read a model back: decisions, data, rules, and what is worth a look");
  const auto model = std::make_shared<ModelArguments>();
  model->add_to(*command);
  return [model] {
    print(show_page(model->load(), page_options()));
    return kDone;
  };
}

}  // namespace kiteknot::cli
