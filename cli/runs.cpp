#include <algorithm>
#include <filesystem>

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

// Those in a folder, by name; files that are none are not spoken of, damaged ones are.
using Kept = std::vector<std::pair<std::string, std::shared_ptr<const KeptSearch>>>;
Kept kept_in(const std::string& folder) {
  std::vector<std::string> files;
  for (const auto& entry : std::filesystem::directory_iterator(folder))
    if (entry.is_regular_file() && KeptSearch::is_one(entry.path().string()))
      files.push_back(entry.path().string());
  std::sort(files.begin(), files.end());
  Kept kept;
  for (const std::string& file : files) try {
      kept.emplace_back(file, KeptSearch::read(file));
    } catch (const InputError& e) {
      print_error(e.what());
    }
  return kept;
}

int run(const RunsArguments& a) {
  if (std::filesystem::is_directory(a.file)) {
    const Kept kept = kept_in(a.file);
    if (kept.empty())
      print(a.file + ": no search is kept here\n");
    else
      print(kept_page(kept, page_options()));
    return kDone;
  }
  if (KeptSearch::is_one(a.file)) {
    print(kept_page({{a.file, KeptSearch::read(a.file)}}, page_options()));
    return kDone;
  }
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
  command = app.add_subcommand("runs",
                               "the runs of a history, newest first; or the searches "
                               "that are kept in a folder");
  const auto a = std::make_shared<RunsArguments>();
  command
      ->add_option("FILE", a->file,
                   "the history, as 'solve --history' wrote it; a folder, or a kept search")
      ->required();
  command->add_option("--last", a->last, "how many runs, 20 if not said")
      ->check(a_count(false, 1'000'000));
  auto* number = command->add_option("--answer", a->number, "print the answer of this run (JSON)")
                     ->check(a_count(false));
  command->add_option("--save", a->save, "with --answer: write it here")->needs(number);
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
