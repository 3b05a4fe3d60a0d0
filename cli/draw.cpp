#include <filesystem>
#include <fstream>

#include <fmt/format.h>

#include "command.hpp"
#include "drawing.hpp"
#include "outputs.hpp"
#include "steps.hpp"
#include "stops.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

struct DrawArguments {
  ModelArguments model;
  SearchArguments search;
  std::string plane, from, steps, family, shape, curve, write;
  std::vector<std::string> at, beside;
  bool tree = false, progress = false, plan = false, dark = false, as_sums = false, plain = false;
};

const std::vector<std::pair<std::string, PlanShape>> kShapes = {{"grid", PlanShape::grid},
                                                                {"bars", PlanShape::bars},
                                                                {"steps", PlanShape::steps},
                                                                {"map", PlanShape::map},
                                                                {"times", PlanShape::times}};

// "x,y", where names may have commas of their own.
std::pair<Decision, Decision> two_decisions(const Model& model, const std::string& text) {
  std::string why;
  for (std::size_t comma = text.find(','); comma != std::string::npos;
       comma = text.find(',', comma + 1)) {
    const auto trimmed = [](std::string name) {
      while (!name.empty() && name.front() == ' ') name.erase(0, 1);
      while (!name.empty() && name.back() == ' ') name.pop_back();
      return name;
    };
    try {
      return {model.decision(trimmed(text.substr(0, comma))),
              model.decision(trimmed(text.substr(comma + 1)))};
    } catch (const UsageError& e) {
      if (why.empty()) why = e.what();
    }
  }
  throw CommandLineError("--plane takes two decisions with a comma between them, as in 'x,y'" +
                         (why.empty() ? "" : ": " + why));
}

PlaneAsked plane_of(const Model& model, const DrawArguments& a) {
  const auto [x, y] = two_decisions(model, a.plane);
  PlaneAsked asked{x, y};
  for (const std::string& setting : a.at) {
    const std::size_t equals = setting.rfind('=');
    const auto value =
        equals == std::string::npos ? std::nullopt : Rational::parse(setting.substr(equals + 1));
    if (!value)
      throw CommandLineError("--at takes NAME=VALUE with a finite figure, not '" + setting + "'");
    need_sensible(
        "--at", [&] { asked.at.emplace_back(model.decision(setting.substr(0, equals)), *value); });
  }
  return asked;
}

// The answer that is drawn: solved now, or read and checked as stated.
Result answer_of(const Model& model, const DrawArguments& a) {
  if (!a.from.empty()) {
    Result result(model);
    result.plan = noted(read_plan(a.from, model));
    result.report = check(model, *result.plan);
    result.outcome = Outcome::unproven;
    return result;
  }
  SolveOptions options = a.search.options();
  constexpr std::int64_t kBranches = 20'000;
  if (a.tree || a.progress) options.record_branches = kBranches;
  options.plain = a.plain;
  LiveLine line(model, false);
  Result result = solve(model, options, &line);
  line.finish();
  return result;
}

std::string story_of(const Model& model, const DrawArguments& a, const DrawOptions& look) {
  Workbench bench(model, {false, a.as_sums});
  std::ifstream in(a.steps);
  if (!in) throw IoError(a.steps + ": cannot be opened");
  take_steps(bench, in, a.steps);
  return plane_story_figure(bench, plane_of(model, a), look);
}

std::string stem_of(const std::string& file) {
  return std::filesystem::path(file).stem().string();
}

// `outcome`: of a fresh solve.
std::string progress_page(const Model& model, const DrawArguments& a, const DrawOptions& look,
                          Outcome& outcome) {
  std::vector<ProgressRun> runs;
  if (a.from.empty()) {
    const Result result = answer_of(model, a);
    outcome = result.outcome;
    runs.push_back(progress_of(result, model.title()));
  } else {
    const SavedAnswer answer = noted(read_answer(a.from));
    // One run goes by its model; several are told apart by their files.
    runs.push_back(progress_of(answer, a.beside.empty() ? answer.model : stem_of(a.from)));
  }
  for (const std::string& file : a.beside)
    runs.push_back(progress_of(noted(read_answer(file)), stem_of(file)));
  return progress_figure(runs, look);
}

// Which options go together, before any work.
void need_together(const DrawArguments& a) {
  const int asked = !a.plane.empty() + a.tree + a.progress + a.plan + !a.curve.empty();
  if (asked != 1)
    throw CommandLineError("say one of --plane, --tree, --progress, --plan and --curve");
  const bool dot = a.write.ends_with(".dot");
  if (dot && !a.tree) throw CommandLineError("a .dot file is for --tree");
  if (!dot) need_drawing_name("--write", a.write);
  if (!a.from.empty() && a.tree)
    throw CommandLineError("a saved answer holds no branches: --tree solves anew, without --from");
  if (!a.steps.empty() && a.plane.empty()) throw CommandLineError("--steps goes with --plane");
  if (!a.steps.empty() && !a.from.empty())
    throw CommandLineError("--steps tells a story of its own: it does not go with --from");
  if (!a.at.empty() && a.plane.empty()) throw CommandLineError("--at goes with --plane");
  if (!a.beside.empty() && !a.progress) throw CommandLineError("--beside goes with --progress");
  if ((!a.family.empty() || !a.shape.empty()) && !a.plan)
    throw CommandLineError("--of and --as go with --plan");
}

std::vector<std::string> shape_words() {
  std::vector<std::string> words;
  for (const auto& [name, shape] : kShapes) words.push_back(name);
  return words;
}

PlanShape shape_of(const std::string& asked) {
  for (const auto& [name, shape] : kShapes)
    if (name == asked) return shape;
  return PlanShape::by_tables;
}

// What the options ask to see of an answer; a graph where the file is one.
std::string picture_of(const Result& result, const DrawArguments& a, const DrawOptions& look) {
  if (a.tree) return a.write.ends_with(".dot") ? tree_dot(result) : tree_figure(result, look);
  if (!a.curve.empty())
    return curve_figure(result.model(), a.curve, result.plan ? &*result.plan : nullptr, look);
  if (a.plan) return plan_figure(result.model(), *result.plan, a.family, shape_of(a.shape), look);
  return plane_figure(result, plane_of(result.model(), a), look);
}

int run(const DrawArguments& a) {
  need_together(a);
  const Model model = a.model.load();
  std::vector<std::string> inputs = model.inputs();
  for (const std::string& file : {a.from, a.steps})
    if (!file.empty()) inputs.push_back(file);
  inputs.insert(inputs.end(), a.beside.begin(), a.beside.end());
  need_apart({{"--write", a.write}}, inputs);
  if (!a.plane.empty()) (void)plane_of(model, a);
  if (!a.curve.empty()) need_sensible("--curve", [&] { (void)curve_figure(model, a.curve); });
  if (!a.family.empty()) need_sensible("--of", [&] { need_decisions(model, a.family); });
  const DrawOptions look{a.dark};
  std::string drawn;
  Outcome outcome = Outcome::optimal;
  if (!a.steps.empty()) {
    drawn = story_of(model, a, look);
  } else if (a.progress) {
    drawn = progress_page(model, a, look, outcome);
  } else {
    const Result result = answer_of(model, a);
    if (a.from.empty()) outcome = result.outcome;
    if (a.plan && !result.has_plan()) {
      print_error("there is no plan to draw: the model is " + std::string(word(result.outcome)));
      return exit_code(result.outcome);
    }
    drawn = picture_of(result, a, look);
  }
  Outputs outputs;
  outputs.attempt([&] {
    if (a.write.ends_with(".dot"))
      write_text(a.write, drawn);
    else
      write_drawing(a.write, drawn);
  });
  const int code = outputs.end(exit_code(outcome));
  if (code != kFailed) print("The figure is in " + a.write + "\n");
  return code;
}

}  // namespace

Run add_draw(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "draw",
      "the plane of two decisions, the tree of a search, its progress, a plan or a curve, as a "
      "figure");
  const auto a = std::make_shared<DrawArguments>();
  a->model.add_to(*command);
  command->add_option("--plane", a->plane,
                      "X,Y: the plane of two decisions, the others as in the plan");
  command->add_option("--at", a->at, "NAME=VALUE: of the plane, another decision held elsewhere")
      ->take_all()
      ->allow_extra_args(false);
  command->add_option("--steps", a->steps,
                      "of the plane: a picture for each round of these steps at a tableau");
  command->add_flag("--as-sums", a->as_sums,
                    "with --steps: conditions in the form that the solver makes of them");
  command->add_flag("--tree", a->tree, "the branches of the search");
  command->add_flag(
      "--plain", a->plain,
      "solve by branch and bound alone, without cuts, reductions and looking through");
  command->add_flag("--progress", a->progress, "best plan and bound over time");
  command
      ->add_option("--beside", a->beside, "of the progress: another saved answer on the same page")
      ->take_all()
      ->allow_extra_args(false);
  command->add_flag("--plan", a->plan, "the plan, in the shape that its tables suggest");
  command->add_option("--curve", a->curve,
                      "this curve: its pieces and jumps, and what the plan makes of it");
  command->add_option("--of", a->family, "of the plan: this family of decisions");
  command->add_option("--as", a->shape, "of the plan: this shape")
      ->check(CLI::IsMember(shape_words()));
  command->add_option("--from", a->from, "a saved answer or plan instead of a fresh solve");
  command->add_flag("--dark", a->dark, "for a dark ground");
  command->add_option("--write", a->write, "the figure's file: .svg or .png, of a tree .dot too")
      ->required();
  a->search.add_to(*command);
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
