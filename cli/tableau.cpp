#include <csignal>
#include <fstream>
#include <iostream>

#include <fmt/format.h>

#include "command.hpp"
#include "outputs.hpp"
#include "prompt.hpp"
#include "steps.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

struct TableauArguments {
  ModelArguments model;
  std::string steps, write;
  TableauOptions options;
};

PageForm form_of(const std::string& file) {
  if (file.ends_with(".md")) return PageForm::markdown;
  if (file.ends_with(".html") || file.ends_with(".htm")) return PageForm::html;
  if (file.ends_with(".tex")) return PageForm::tex;
  if (file.ends_with(".txt")) return PageForm::text;
  throw CommandLineError("--write takes a file that ends in .md, .html, .tex or .txt, not '" +
                         file + "'");
}

// A slip under the place in the line where it is, if that is not its beginning.
std::string pointed(const Diagnostic& d, const std::string& sign) {
  if (d.column <= 1) return d.message + "\n";
  return std::string(sign.size() + static_cast<std::size_t>(d.column) - 1, ' ') + "^\n" +
         d.message + "\n";
}

// At a prompt a slip is told, and the next step awaited.
void converse(Workbench& bench, const PageOptions& options) {
  print("\nA step a line, remarks behind #; 'help' lists them, 'end' leaves.\n\n");
  std::signal(SIGINT, SIG_IGN);  // a slip of the fingers does not end the work
  const std::string sign = "step> ";
  Prompt prompt(sign, [&](const std::string& typed) { return bench.completions(typed); });
  while (const auto line = prompt.line()) {
    const std::string words = step_in(*line);
    if (const std::string note = note_in(*line); !note.empty()) bench.note(note);
    if (words.empty()) continue;
    if (is_end(words)) return;
    const Reading<Deed> deed = bench.step(words);
    if (deed.ok())
      print("\n" + deed_page(bench, deed.value(), options) + "\n");
    else
      for (const Diagnostic& d : deed.notes().items()) print(pointed(d, sign));
  }
}

int run(const TableauArguments& a) {
  const std::optional<PageForm> form =
      a.write.empty() ? std::nullopt : std::optional(form_of(a.write));
  const Model model = a.model.load();
  std::vector<std::string> inputs = model.inputs();
  if (!a.steps.empty()) inputs.push_back(a.steps);
  need_apart({{"--write", a.write}}, inputs);
  Workbench bench(model, a.options);
  PageOptions options = page_options(a.model.under());
  print(story_document(bench, options));
  options.under.clear();
  if (a.steps.empty() && is_conversation()) {
    converse(bench, options);
  } else {
    const auto say = [](const std::string& words) { print("\n> " + words + "\n\n"); };
    const auto tell = [&](const Deed& deed) { print(deed_page(bench, deed, options)); };
    if (a.steps.empty()) {
      take_steps(bench, std::cin, "standard input", say, tell);
    } else {
      std::ifstream in(a.steps);
      if (!in) throw IoError(a.steps + ": cannot be opened");
      take_steps(bench, in, a.steps, say, tell);
    }
  }
  Outputs outputs;
  if (form)
    outputs.attempt([&] {
      PageOptions document;
      document.form = *form;
      document.under = a.model.under();
      write_text(a.write, story_document(bench, document));
    });
  return outputs.end(kDone);
}

}  // namespace

Run add_tableau(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("tableau",
                               "simplex, cutting planes and branching by hand, in exact fractions");
  const auto a = std::make_shared<TableauArguments>();
  a->model.add_to(*command);
  command->add_option("--steps", a->steps,
                      "steps from a file, one a line; else from a prompt or input");
  command->add_option("--write", a->write,
                      "the whole story as a document: .md, .html, .tex or .txt");
  command->add_flag("--limits-as-rows", a->options.limits_as_rows,
                    "limits of decisions as rules of their own");
  command->add_flag("--as-sums", a->options.as_sums,
                    "conditions in the form that the solver makes of them");
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
