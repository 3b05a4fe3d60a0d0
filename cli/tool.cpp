// kiteknot: models read back, tried, solved and compared from the command line.

#include <algorithm>
#include <csignal>
#include <ctime>
#include <thread>

#include <fmt/chrono.h>

#include "command.hpp"
#include "manual.hpp"
#include "terminal.hpp"
#include "values.hpp"
#include "words.hpp"

namespace kiteknot::cli {

StopSwitch& stop_switch() {
  static StopSwitch the_switch;
  return the_switch;
}
namespace {

// The first Ctrl-C, or a wish to end from elsewhere, asks the search to stop and keep its best
// plan; a second one ends the program.
void on_interrupt(int signal) {
  stop_switch().press();
  std::signal(signal, SIG_DFL);
}

}  // namespace

int exit_code(Outcome outcome) {
  switch (outcome) {
    case Outcome::optimal:
    case Outcome::accepted:
      return kDone;
    case Outcome::infeasible:
      return kInfeasible;
    case Outcome::unbounded:
      return kUnbounded;
    case Outcome::unproven:
    case Outcome::undecided:
      return kStopped;
  }
  return kFailed;
}

bool left_open(const Variation& v) {
  const auto open = [](const Variant& one) {
    return one.outcome == Outcome::undecided || one.outcome == Outcome::unproven;
  };
  return open(v.base) || std::any_of(v.variants.begin(), v.variants.end(), open);
}

void ModelArguments::add_to(CLI::App& command) {
  command.add_option("FILE", file, "the model: .knot or .mps")->required();
  command.add_option("--scenario", scenario, "make the changes of this scenario first");
  command.add_option("--set", settings, "NAME=VALUE: set a number of the model for this run")
      ->take_all()
      ->allow_extra_args(false);
}

Model ModelArguments::load(bool data_only) const {
  Model model = noted([&] {
    const ReadingLine line(file);
    return read_model(file, scenario);
  }());
  if (model.num_decisions() == 0 && !data_only) {
    Diagnostics notes;
    notes.error({file, 0, 0,
                 "the model decides nothing: it has no 'decide' statement; 'show' reads its data "
                 "back",
                 false});
    throw InputError(notes);
  }
  set_numbers(model);
  return model;
}

Model ModelArguments::load_with(const std::vector<OtherData>& other) const {
  Model model = noted([&] {
    const ReadingLine line(file);
    return read_model(file, scenario, other);
  }());
  set_numbers(model);
  return model;
}

Question ModelArguments::load(const std::string& condition) const {
  Question question = noted([&] {
    const ReadingLine line(file);
    return read_question(file, condition, scenario);
  }());
  set_numbers(question.model);
  return question;
}

std::vector<std::pair<std::string, Model>> ModelArguments::load_scenarios(
    const std::vector<std::string>& names) const {
  std::vector<std::pair<std::string, Model>> models;
  for (const std::string& name : names) {
    ModelArguments one = *this;
    one.scenario = name;
    models.emplace_back(name, one.load());
  }
  return models;
}

Origin ModelArguments::origin() const {
  return {file, scenario, settings,
          fmt::format("{:%Y-%m-%d %H:%M}", fmt::localtime(std::time(nullptr)))};
}

void ModelArguments::set_numbers(Model& model) const {
  for (const std::string& setting : settings) {
    const std::size_t equals = setting.find('=');
    const std::optional<Rational> value =
        equals == std::string::npos ? std::nullopt : Rational::parse(setting.substr(equals + 1));
    if (!value)
      throw CommandLineError("--set takes NAME=VALUE with a finite figure, not '" + setting + "'");
    try {
      model.set(setting.substr(0, equals), *value);
    } catch (const UsageError& e) {
      throw CommandLineError("--set " + setting + ": " + e.what());
    }
  }
}

std::string ModelArguments::under() const {
  std::string text = scenario.empty() ? "" : fmt::format("scenario \"{}\"", scenario);
  for (std::size_t k = 0; k < settings.size(); ++k) {
    const std::size_t equals = settings[k].find('=');
    if (!text.empty()) text += k + 1 == settings.size() ? " and " : ", ";
    text += settings[k].substr(0, equals) + " = " + settings[k].substr(equals + 1);
  }
  return text;
}

void SearchArguments::add_to(CLI::App& command, bool several) {
  command
      .add_option("--seconds", seconds,
                  "stop after this time, with the best plan so far: 10, 10s, 5min")
      ->type_name("TIME")
      ->transform(a_time());
  if (several)
    command.add_option("--seconds-each", seconds_each, "the same for each single solve")
        ->type_name("TIME")
        ->transform(a_time());
  command.add_option("--gap", gap, "accept a plan within this share of the best: 1% or 0.01")
      ->type_name("SHARE")
      ->transform(a_share());
  command.add_option("--nodes", nodes, "stop after this many branches")->check(a_count(false));
  command
      .add_option("--memory", memory_gb,
                  "open branches beyond this many GB wait on disk, 4 if not said")
      ->check(a_figure(false));
  command
      .add_option("--threads", threads,
                  "how many work on one search at once, one for each core if not said")
      ->check(a_count(false));
  command.add_option("--seed", seed, "for choices that are drawn by lot")->check(a_count(true));
}

Together& together() {
  static Together all;
  return all;
}

SolveOptions SearchArguments::options() const {
  SolveOptions options;
  if (seconds > 0.0) options.seconds = seconds;
  if (seconds_each > 0.0) options.seconds_each = seconds_each;
  if (nodes > 0) options.nodes = nodes;
  options.gap = gap;
  options.seed = seed;
  const bool many = together().ranks != nullptr || together().letters != nullptr;
  options.threads = threads == 0 && many ? together().threads : threads;
  if (const unsigned cores = std::thread::hardware_concurrency();
      threads > 0 && cores > 0 && static_cast<unsigned>(threads) > cores)
    print_error(fmt::format("{} threads take turns on {} here", threads,
                            cores == 1 ? "the one core" : fmt::format("the {} cores", cores)));
  options.stop = stop_switch().token();
  constexpr double kBytesAGigabyte = 1e9;
  if (memory_gb > 0.0) options.memory_bytes = memory_gb * kBytesAGigabyte;
  for (const int signal : {SIGINT, SIGTERM, SIGHUP}) std::signal(signal, on_interrupt);
  return options;
}

namespace {

// "help", "help solve", "help --as bash"
Run add_help(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("help", "what can be said, of all commands or of one");
  const auto name = std::make_shared<std::string>(), form = std::make_shared<std::string>();
  command->add_option("COMMAND", *name, "the command that is meant");
  command
      ->add_option("--as", *form,
                   "the manual page (man), or the completion of a shell (bash, zsh, fish)")
      ->check(CLI::IsMember({"man", "bash", "zsh", "fish"}));
  return [&app, name, form]() -> int {
    if (!form->empty()) {
      print(*form == "man" ? manual_page(app) : completion(app, *form));
      return kDone;
    }
    if (name->empty()) {
      // App::help would tell about this very command.
      print(app.get_formatter()->make_help(&app, app.get_name(), CLI::AppFormatMode::Normal));
      return kDone;
    }
    for (const CLI::App* one : app.get_subcommands([](const CLI::App*) { return true; }))
      if (one->get_name() == *name) {
        print(one->help(app.get_name()));
        return kDone;
      }
    throw CommandLineError("there is no command '" + *name + "'");
  };
}

// Of the first option that the command does not have.
template <class Commands>
std::string near_option(const Commands& commands, int count, char** arguments) {
  for (const auto& [command, body] : commands) {
    if (count < 2 || command->get_name() != arguments[1]) continue;
    std::vector<std::string> known;
    for (const CLI::Option* option : command->get_options())
      for (const std::string& name : option->get_lnames()) known.push_back("--" + name);
    for (int k = 2; k < count; ++k) {
      const std::string given =
          std::string(arguments[k]).substr(0, std::string(arguments[k]).find('='));
      if (given.starts_with("--") && std::find(known.begin(), known.end(), given) == known.end())
        return nearest_to(given, known);
    }
  }
  return {};
}

int run(int count, char** arguments) {
  CLI::App app{"Kite Knot: whole decisions, solved to proof and told in your own names."};
  app.name("kiteknot");
  app.require_subcommand(1);
  app.formatter(plain_words());
  if (count == 1) {
    print(first_steps());
    return kDone;
  }
  app.set_version_flag("--version", "kiteknot " KITEKNOT_VERSION);
  std::vector<std::pair<CLI::App*, Run>> commands;
  for (const auto add :
       {add_show, add_check, add_solve, add_resume, add_compare, add_vary, add_tour, add_explain,
        add_report, add_draw, add_tableau, add_runs, add_convert, add_make, add_demo, add_help}) {
    CLI::App* command = nullptr;
    Run body = add(app, command);
    commands.emplace_back(command, std::move(body));
  }
  if (count > 1 && arguments[1][0] != '-' &&
      std::none_of(commands.begin(), commands.end(),
                   [&](const auto& c) { return c.first->get_name() == arguments[1]; })) {
    std::string known;
    for (const auto& [command, body] : commands)
      known += (known.empty() ? "" : ", ") + command->get_name();
    print_error(std::string("kiteknot: there is no command '") + arguments[1] +
                "'; the commands are " + known);
    return kUsage;
  }
  try {
    app.parse(count, arguments);
  } catch (const CLI::ParseError& e) {
    if (e.get_exit_code() == 0) return app.exit(e) == 0 ? kDone : kFailed;
    print_error(std::string("kiteknot: ") + e.what() + near_option(commands, count, arguments));
    print_error("'kiteknot --help' and 'kiteknot COMMAND --help' tell what can be said.");
    return kUsage;
  }
  for (const auto& [command, body] : commands) {
    if (!command->parsed()) continue;
    for (const CLI::Option* option : command->get_options())
      for (const std::string& given : option->results())
        if (given.empty())
          throw CommandLineError(option->get_name() +
                                 " was given nothing: a name or value belongs "
                                 "behind it");
    return body();
  }
  return kUsage;
}

}  // namespace

int run_tool(int count, char** arguments) {
  try {
    return run(count, arguments);
  } catch (const CommandLineError& e) {
    print_error(std::string("kiteknot: ") + e.what());
    return kUsage;
  } catch (const InputError& e) {
    for (const Diagnostic& d : e.diagnostics().items())
      if (!d.warning) print_error(d.text());
    return kBadInput;
  } catch (const OutputError& e) {
    print_error(e.what());
    return kFailed;
  } catch (const IoError& e) {
    print_error(e.what());
    return kBadInput;
  } catch (const UsageError& e) {
    print_error(e.what());
    return kBadInput;
  } catch (const std::bad_alloc&) {
    print_error("kiteknot: memory ran out");
    return kFailed;
  } catch (const std::exception& e) {
    print_error(std::string("kiteknot: internal failure: ") + e.what());
    return kFailed;
  }
}

}  // namespace kiteknot::cli
