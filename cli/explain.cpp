#include "kiteknot/explain.hpp"

#include "command.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {

Run add_explain(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("explain", "why nothing is feasible: the rules that clash");
  struct Arguments {
    ModelArguments model;
    SearchArguments search;
  };
  const auto a = std::make_shared<Arguments>();
  a->model.add_to(*command);
  a->search.add_to(*command);
  return [a]() -> int {
    const Model model = a->model.load();
    const Clash clash = find_clash(model, a->search.options());
    print(clash_page(model, clash, page_options()));
    return clash.kind == Clash::Kind::none        ? kDone
           : clash.kind == Clash::Kind::undecided ? kStopped
                                                  : kInfeasible;
  };
}

}  // namespace kiteknot::cli
