#include <fstream>
#include <iostream>

#include <fmt/format.h>

#include "command.hpp"
#include "outputs.hpp"
#include "prompt.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

struct TableauArguments {
  ModelArguments model;
  std::string steps, write;
  TableauOptions options;
};

struct Line {
  std::int32_t number = 0;
  std::string words;
};

// A step and nothing around it; empty for blank lines and remarks.
std::string trimmed(const std::string& line) {
  const std::size_t remark = line.find('#');
  std::string text = line.substr(0, remark);
  while (!text.empty() && (text.back() == ' ' || text.back() == '\t' || text.back() == '\r'))
    text.pop_back();
  return text.find_first_not_of(" \t") == std::string::npos ? "" : text;
}

PageForm form_of(const std::string& file) {
  if (file.ends_with(".md")) return PageForm::markdown;
  if (file.ends_with(".html") || file.ends_with(".htm")) return PageForm::html;
  if (file.ends_with(".tex")) return PageForm::tex;
  if (file.ends_with(".txt")) return PageForm::text;
  throw CommandLineError("--write takes a file that ends in .md, .html, .tex or .txt, not '" +
                         file + "'");
}

// The steps as they come, each with what it did; at a prompt a slip is told and the next one
// awaited.
class Session {
 public:
  Session(const TableauArguments& a, const Model& model)
      : a_(a), bench_(model, a.options), options_(page_options(a.model.under())) {}

  void begin() const {
    PageOptions plain = options_;
    plain.under.clear();
    print(bench_.tableau().model().title() + "\n\n" + tableau_page(bench_.tableau(), plain));
  }

  /// False: that was the last one.
  bool take(const Line& line, const std::string& file, bool conversation) {
    const std::string words = trimmed(line.words);
    if (words.empty()) return true;
    if (words == "end") return false;
    if (!conversation) print("\n> " + words + "\n\n");
    const Reading<Deed> deed = bench_.step(words);
    if (deed.ok()) {
      PageOptions plain = options_;
      plain.under.clear();
      print((conversation ? "\n" : "") + deed_page(bench_, deed.value(), plain) +
            (conversation ? "\n" : ""));
      return true;
    }
    if (conversation) {
      for (const Diagnostic& d : deed.notes().items()) print(pointed(d, words) + "\n");
      return true;
    }
    Diagnostics out;
    for (Diagnostic d : deed.notes().items()) {
      d.file = file;
      d.line = line.number;
      d.column += static_cast<int>(line.words.find_first_not_of(" \t"));
      out.error(d);
    }
    throw InputError(out);
  }

  [[nodiscard]] const Workbench& bench() const { return bench_; }

 private:
  // The place under what was typed, where it is not the beginning.
  static std::string pointed(const Diagnostic& d, const std::string& words) {
    const std::size_t sign = std::string("step> ").size();
    if (d.column <= 1) return d.message;
    (void)words;
    return std::string(sign + static_cast<std::size_t>(d.column) - 1, ' ') + "^\n" + d.message;
  }

  const TableauArguments& a_;
  Workbench bench_;
  PageOptions options_;
};

void read_steps(Session& session, std::istream& in, const std::string& name) {
  Line line;
  while (std::getline(in, line.words)) {
    ++line.number;
    if (!session.take(line, name, false)) return;
  }
}

void converse(Session& session) {
  print("\nA step a line; 'help' lists them, 'end' leaves.\n\n");
  Prompt prompt("step> ",
                [&](const std::string& typed) { return session.bench().completions(typed); });
  Line line;
  while (const auto words = prompt.line()) {
    line.words = *words;
    if (!session.take(line, "", true)) return;
  }
}

int run(const TableauArguments& a) {
  const std::optional<PageForm> form =
      a.write.empty() ? std::nullopt : std::optional(form_of(a.write));
  const Model model = a.model.load();
  std::vector<std::string> inputs = model.sources();
  if (!a.steps.empty()) inputs.push_back(a.steps);
  need_apart({{"--write", a.write}}, inputs);
  Session session(a, model);
  session.begin();
  if (!a.steps.empty()) {
    std::ifstream in(a.steps);
    if (!in) throw IoError(a.steps + ": cannot be opened");
    read_steps(session, in, a.steps);
  } else if (is_conversation()) {
    converse(session);
  } else {
    read_steps(session, std::cin, "standard input");
  }
  Outputs outputs;
  if (form)
    outputs.attempt([&] {
      PageOptions options;
      options.form = *form;
      write_text(a.write, story_document(session.bench(), options));
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
