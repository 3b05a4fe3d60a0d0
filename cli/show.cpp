#include "command.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {

Run add_show(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "show", "read a model back: decisions, data, rules, and what is worth a look");
  const auto model = std::make_shared<ModelArguments>();
  const auto what = std::make_shared<ShowOptions>();
  const auto markdown = std::make_shared<bool>(false);
  model->add_to(*command);
  command->add_option("--rows", what->rows, "work out this many members of every family")
      ->check(a_count(false));
  command->add_option("--family", what->family, "only this family of decisions or rules");
  command->add_flag("--markdown", *markdown, "write Markdown");
  return [model, what, markdown] {
    PageOptions page = page_options(model->under());
    if (*markdown) page.form = PageForm::markdown;
    print(show_page(model->load(true), page, *what));
    return kDone;
  };
}

}  // namespace kiteknot::cli
