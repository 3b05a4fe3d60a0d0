#include "manual.hpp"

#include <fmt/format.h>

namespace kiteknot::cli {
namespace {

std::vector<const CLI::App*> commands_of(const CLI::App& app) {
  return app.get_subcommands([](const CLI::App*) { return true; });
}

// "--seconds"; options that have no long name are not offered.
std::vector<const CLI::Option*> options_of(const CLI::App& command) {
  return command.get_options([](const CLI::Option* o) {
    return !o->get_lnames().empty() && o->get_lnames().front() != "help";
  });
}

std::string long_names(const CLI::App& command) {
  std::string names;
  for (const CLI::Option* o : options_of(command))
    names += (names.empty() ? "--" : " --") + o->get_lnames().front();
  return names;
}

// Dashes, backslashes and leading dots mean something there.
std::string for_man(const std::string& text) {
  std::string out;
  for (const char c : text)
    out += c == '-' ? "\\-" : c == '\\' ? std::string("\\e") : std::string(1, c);
  return out.starts_with('.') || out.starts_with('\'') ? "\\&" + out : out;
}

std::string quoted_for_shell(const std::string& text) {
  std::string out = "'";
  for (const char c : text) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return out + "'";
}

std::string in_bash(const CLI::App& app) {
  std::string names, cases;
  for (const CLI::App* c : commands_of(app)) {
    names += (names.empty() ? "" : " ") + c->get_name();
    cases += fmt::format("    {}) options='{}' ;;\n", c->get_name(), long_names(*c));
  }
  return fmt::format(
      "# Completion of kiteknot in bash.\n_kiteknot() {{\n"
      "  local word=${{COMP_WORDS[COMP_CWORD]}} options=''\n"
      "  if [ \"$COMP_CWORD\" -eq 1 ]; then\n"
      "    mapfile -t COMPREPLY < <(compgen -W '{}' -- \"$word\")\n    return\n  fi\n"
      "  case ${{COMP_WORDS[1]}} in\n{}  esac\n"
      "  case $word in\n    -*) mapfile -t COMPREPLY < <(compgen -W \"$options\" -- \"$word\") ;;\n"
      "    *) mapfile -t COMPREPLY < <(compgen -f -- \"$word\") ;;\n  esac\n}}\n"
      "complete -o filenames -F _kiteknot kiteknot\n",
      names, cases);
}

std::string in_zsh(const CLI::App& app) {
  std::string names, cases;
  for (const CLI::App* c : commands_of(app)) {
    names += " " + c->get_name();
    cases += fmt::format("    {}) options=({}) ;;\n", c->get_name(), long_names(*c));
  }
  return fmt::format(
      "#compdef kiteknot\n# Completion of kiteknot in zsh.\nlocal -a options\n"
      "if (( CURRENT == 2 )); then\n  compadd --{}\nelse\n  case $words[2] in\n{}  esac\n"
      "  if [[ $words[CURRENT] == -* ]]; then compadd -- $options; else _files; fi\nfi\n",
      names, cases);
}

std::string in_fish(const CLI::App& app) {
  std::string text = "# Completion of kiteknot in fish.\n";
  for (const CLI::App* c : commands_of(app)) {
    text += fmt::format("complete -c kiteknot -n __fish_use_subcommand -f -a {} -d {}\n",
                        c->get_name(), quoted_for_shell(c->get_description()));
    for (const CLI::Option* o : options_of(*c))
      text +=
          fmt::format("complete -c kiteknot -n '__fish_seen_subcommand_from {}' -l {}{} -d {}\n",
                      c->get_name(), o->get_lnames().front(), o->get_type_size() == 0 ? "" : " -r",
                      quoted_for_shell(o->get_description()));
  }
  return text;
}

}  // namespace

std::string manual_page(const CLI::App& app) {
  std::string text = fmt::format(
      ".TH KITEKNOT 1\n.SH NAME\nkiteknot \\- {}\n.SH SYNOPSIS\n.B kiteknot\n.I COMMAND FILE\n"
      ".RI [ OPTIONS ]\n.br\n.B kiteknot help\n.RI [ COMMAND ]\n.SH DESCRIPTION\n"
      "Reads models of whole and real decisions in the Knot language, solves them to proof, and "
      "tells the answers in the names of the model. FILE is a model (.knot or .mps), or stops for "
      "the command tour.\n.SH COMMANDS\n",
      for_man("whole decisions, solved to proof and told in your own names"));
  const auto entry = [&](const CLI::Option& o, const std::string& words) {
    text += fmt::format(".TP\n.B {}\n{}\n", for_man(words), for_man(o.get_description()));
  };
  for (const CLI::App* c : commands_of(app)) {
    text += fmt::format(".SS {}\n{}.\n", for_man(c->get_name()), for_man(c->get_description()));
    for (const CLI::Option* o :
         c->get_options([](const CLI::Option* x) { return x->get_positional(); }))
      entry(*o, o->get_name(true));
    for (const CLI::Option* o : options_of(*c))
      entry(*o, "--" + o->get_lnames().front() + (o->get_type_size() == 0 ? "" : " ..."));
  }
  return text +
         ".SH EXIT STATUS\n0 done; 1 internal failure, or an output could not be written; 2 wrong "
         "usage; 3 the input has errors; 4 no plan meets all rules, or a plan breaks one; 5 the "
         "goal has no end; 6 stopped at a limit.\n";
}

std::string completion(const CLI::App& app, const std::string& shell) {
  return shell == "bash" ? in_bash(app) : shell == "zsh" ? in_zsh(app) : in_fish(app);
}

}  // namespace kiteknot::cli
