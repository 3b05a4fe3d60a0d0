#include <algorithm>
#include <filesystem>

#include "command.hpp"
#include "drawing.hpp"
#include "outputs.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {
namespace {

struct VaryArguments {
  ModelArguments model;
  SearchArguments search;
  std::vector<std::string> only;
  std::string sweep, trade, csv, json, figure;
  bool without_each = false, rows = false, steps = false, firm = false;
  int solves = 400, points = 0;
};

// "grant=800..1600/9"
Variation swept(const Model& model, const std::string& text, bool steps,
                const SolveOptions& options) {
  const std::size_t equals = text.find('='), dots = text.find("..", equals + 1),
                    slash = text.find('/', dots + 2);
  if (equals != std::string::npos && dots != std::string::npos && slash != std::string::npos) {
    const auto from = Rational::parse(text.substr(equals + 1, dots - equals - 1));
    const auto to = Rational::parse(text.substr(dots + 2, slash - dots - 2));
    const auto points = Rational::parse(text.substr(slash + 1));
    if (from && to && points && points->is_integer()) {
      if (points->sign() <= 0 || *points > Rational(10000))
        throw CommandLineError("a sweep has from 1 to 10,000 points, not " + points->text());
      try {
        return sweep(
            model,
            {text.substr(0, equals), *from, *to, static_cast<int>(points->to_double()), steps},
            options);
      } catch (const UsageError& e) {
        throw CommandLineError("--sweep " + text + ": " + e.what());
      }
    }
  }
  throw CommandLineError("--sweep takes NUMBER=FROM..TO/POINTS, such as grant=800..1600/9, not '" +
                         text + "'");
}

Variation scenarios(const VaryArguments& a, const Model& base, const SolveOptions& options) {
  std::vector<std::string> names = a.only.empty() ? base.scenarios() : a.only;
  if (names.empty())
    throw CommandLineError(base.title() +
                           " states no scenario; see also --without-each and --sweep");
  return compare_scenarios(base, a.model.load_scenarios(names), options);
}

// "cost,crowd", "cost,minimize trips"
TradeOff traded(const Model& model, const VaryArguments& a, const SolveOptions& options) {
  const std::size_t comma = a.trade.find(',');
  if (comma == std::string::npos)
    throw CommandLineError("--trade takes two goals, such as cost,crowd, not '" + a.trade + "'");
  try {
    return trade_off(model, trade_goal(model, a.trade.substr(0, comma)),
                     trade_goal(model, a.trade.substr(comma + 1)), a.points, options);
  } catch (const UsageError& e) {
    throw CommandLineError("--trade " + a.trade + ": " + e.what());
  }
}

// Where the numbers of a figure go that cannot be drawn.
std::string figures_beside(const std::string& figure) {
  return std::filesystem::path(figure).replace_extension(".csv").string();
}

// Draws what `program` says for a file, or writes the numbers where gnuplot is missing.
void draw_or_write(const VaryArguments& a,
                   const std::function<std::string(const std::string&)>& program,
                   const std::function<void(const std::string&)>& write_csv) {
  if (a.figure.empty()) return;
  if (can_draw()) {
    const std::string unfinished = unfinished_name(a.figure);
    draw(program(unfinished), unfinished, a.figure);
    return;
  }
  const std::string csv = figures_beside(a.figure);
  write_csv(csv);
  print_error("gnuplot is not installed, so " + a.figure + " was not drawn; its numbers are in " +
              csv);
}

int run_trade(const VaryArguments& a, const Model& base, const SolveOptions& options) {
  const TradeOff t = traded(base, a, options);
  Outputs outputs;
  outputs.attempt([&] { print(trade_page(base, t, page_options(a.model.under()))); });
  if (!a.csv.empty()) outputs.attempt([&] { write_trade_csv(a.csv, base, t); });
  if (!a.json.empty()) outputs.attempt([&] { write_trade(a.json, base, t); });
  if (!t.points.empty())
    outputs.attempt([&] {
      draw_or_write(
          a, [&](const std::string& file) { return trade_figure(base, t, file, a.figure); },
          [&](const std::string& file) { write_trade_csv(file, base, t); });
    });
  return outputs.end(exit_code(t.outcome));
}

int run(const VaryArguments& a) {
  if (!a.figure.empty() && !a.figure.ends_with(".svg") && !a.figure.ends_with(".png"))
    throw CommandLineError("--figure takes a file that ends in .svg or .png, not '" + a.figure +
                           "'");
  const Model base = a.model.load();
  need_apart({{"--csv", a.csv},
              {"--json", a.json},
              {"--figure", a.figure},
              {"--figure", a.figure.empty() || can_draw() ? "" : figures_beside(a.figure)}},
             base.inputs());
  SolveOptions options = a.search.options();
  AskedLine line;
  options.asked = [&](const std::string& name) { line.asked(name); };
  if (!a.trade.empty()) return run_trade(a, base, options);
  if (a.firm) {
    const Firmness f = firmness(base, options, a.solves);
    Outputs outputs;
    outputs.attempt([&] { print(firmness_page(f, page_options(a.model.under()))); });
    if (!a.csv.empty()) outputs.attempt([&] { write_text(a.csv, firmness_csv(f)); });
    return outputs.end(exit_code(f.best.outcome));
  }
  const Variation v = !a.sweep.empty() ? swept(base, a.sweep, a.steps, options)
                      : a.without_each ? without_each(base, a.rows, options)
                                       : scenarios(a, base, options);
  Outputs outputs;
  outputs.attempt([&] { print(variation_page(base, v, page_options(a.model.under()))); });
  if (!a.csv.empty()) outputs.attempt([&] { write_variation_csv(a.csv, v); });
  if (!a.json.empty()) outputs.attempt([&] { write_variation(a.json, base, v); });
  outputs.attempt([&] {
    draw_or_write(
        a, [&](const std::string& file) { return sweep_figure(base, v, file, a.figure); },
        [&](const std::string& file) { write_variation_csv(file, v); });
  });
  return outputs.end(left_open(v) || options.stop.pressed() ? kStopped : kDone);
}

}  // namespace

Run add_vary(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("vary",
                               "what if: scenarios, every rule left out, a number swept, two goals "
                               "traded, how firm the plan is");
  const auto a = std::make_shared<VaryArguments>();
  a->model.add_to(*command);
  auto* only = command->add_option("--only", a->only, "only this scenario (may be said again)")
                   ->allow_extra_args(false);
  auto* each = command->add_flag("--without-each", a->without_each, "drop every rule in turn");
  command->add_flag("--rows", a->rows, "with --without-each: every row of every rule")->needs(each);
  auto* sweep = command->add_option("--sweep", a->sweep, "NUMBER=FROM..TO/POINTS");
  command->add_flag("--steps", a->steps, "with --sweep: find where the plan changes")->needs(sweep);
  auto* firm =
      command->add_flag("--firm", a->firm,
                        "over which figures in the goal and in the rules the best plan stays best");
  command->add_option("--solves", a->solves, "with --firm: its budget of solves, 400 if not said")
      ->needs(firm)
      ->check(a_count(false, 1'000'000));
  auto* trade = command->add_option(
      "--trade", a->trade,
      "GOAL,GOAL: plans that no plan betters in both; 'minimize NAME' trades an expression");
  command->add_option("--points", a->points, "with --trade: at most so many; all if not said")
      ->needs(trade)
      ->check(a_count(false, 10'000));
  only->excludes(each)->excludes(sweep)->excludes(firm)->excludes(trade);
  trade->excludes(each)->excludes(sweep)->excludes(firm);
  firm->excludes(each)->excludes(sweep);
  each->excludes(sweep);
  command->add_option("--csv", a->csv, "write the table as CSV here");
  command->add_option("--json", a->json, "write it with all changed decisions as JSON here")
      ->excludes(firm);
  command->add_option("--figure", a->figure, "draw the sweep or the trade-off here (.svg or .png)")
      ->excludes(only)
      ->excludes(each)
      ->excludes(firm);
  a->search.add_to(*command, true);
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
