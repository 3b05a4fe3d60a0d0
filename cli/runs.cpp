#include "command.hpp"
#include "outputs.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {
namespace {

struct RunsArguments {
  std::string file, save;
  std::size_t last = 20;
  std::int64_t number = 0;
};

int run(const RunsArguments& a) {
  const History history(a.file, true);
  if (a.number > 0) {
    const std::string answer = history.answer(a.number);
    if (a.save.empty())
      print(answer);
    else if (need_apart({{"--save", a.save}}, {a.file}); true)
      write_text(a.save, answer);
    return kDone;
  }
  print(history_page(a.file, history.runs(a.last), page_options()));
  return kDone;
}

}  // namespace

Run add_runs(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("runs", "the runs of a history, newest first");
  const auto a = std::make_shared<RunsArguments>();
  command->add_option("FILE", a->file, "the history, as 'solve --history' wrote it")->required();
  command->add_option("--last", a->last, "how many runs, 20 if not said")
      ->check(a_count(false, 1'000'000));
  auto* number = command->add_option("--answer", a->number, "print the answer of this run (JSON)")
                     ->check(a_count(false));
  command->add_option("--save", a->save, "with --answer: write it here")->needs(number);
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
