#include "command.hpp"
#include "keeping.hpp"
#include "outputs.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {
namespace {

struct SolveArguments {
  ModelArguments model;
  SearchArguments search;
  std::string result, plan, save, history, start, keep;
  double keep_every = 60.0;
  PlanForm form;
  ShowOptions shown;
  int plans = 0;  // with the best one; 0: it is not asked
  std::vector<std::string> differ;
  std::string plans_file;
  bool relaxed = false, prices = false, left_out = false, markdown = false, quiet = false;
  [[nodiscard]] RankingQuestion next() const { return {plans - 1, differ}; }
  /// Another process says and writes it.
  [[nodiscard]] SolveArguments silent() const {
    SolveArguments a = *this;
    for (std::string* file : {&a.result, &a.plan, &a.save, &a.history, &a.plans_file})
      file->clear();
    a.quiet = true;
    return a;
  }
};

// Shows the running search, and writes better plans into the history, at most twice a second.
class Recorder final : public Observer {
 public:
  Recorder(const Model& model, LiveLine& line, const std::string& history, const Origin& origin)
      : model_(model), line_(line), origin_(origin) {
    if (history.empty()) return;
    history_.emplace(history);
    run_ = history_->begin(model, origin);
  }
  void progress(const Progress& p) override { line_.progress(p); }
  void better_plan(const Progress& p, const Plan& plan) override {
    constexpr double kBetween = 0.5;
    if (!history_ || p.seconds < last_ + kBetween) return;
    last_ = p.seconds;
    Result so_far(model_);
    so_far.outcome = Outcome::unproven;
    so_far.plan = plan;
    so_far.report = check(model_, plan);
    so_far.search.seconds = p.seconds;
    if (so_far.report->goal)
      so_far.goals.push_back(
          {model_.goal_name(), model_.goal_sense(), so_far.report->goal, p.bound, p.gap});
    try {
      history_->note(run_, so_far, origin_);
    } catch (const IoError&) {  // the search goes on; the last word is tried again at its end
    }
  }
  void finish() { line_.finish(); }
  void note_end(const Result& result) {
    if (history_) history_->finish(run_, result, origin_);
  }

 private:
  const Model& model_;
  LiveLine& line_;
  const Origin& origin_;
  std::optional<History> history_;
  std::int64_t run_ = 0;
  double last_ = 0.0;
};

// What a short look at the next plan says, of models that are not large.
std::string next_in_short(const Result& best, SolveOptions options) {
  constexpr std::int64_t kMostPivots = 20'000, kMostBranches = 200;
  constexpr std::int32_t kMostDecisions = 2000;
  constexpr double kShort = 1.0;  // seconds, or twice what the search took
  if (best.outcome != Outcome::optimal || !best.has_integers || best.goals.empty() ||
      best.search.lp_iterations > kMostPivots || best.model().num_decisions() > kMostDecisions ||
      !can_differ(best.model()))
    return {};
  options.nodes = kMostBranches;
  options.seconds = std::min(options.seconds, std::max(kShort, 2.0 * best.search.seconds));
  return ties_line(next_best(best, {}, options));
}

std::string prices_of(const Result& best, const SolveOptions& options, const PageOptions& page) {
  if (const auto held = held_prices(best, options)) return held_prices_page(*held, page);
  return best.outcome != Outcome::optimal ? "There are no prices: the plan is not proven best.\n"
         : !best.has_integers             ? "All decisions are real: the prices are told above.\n"
                              : "There are no prices while the whole decisions stay: they leave "
                                "nothing open, or logic "
                                "or several goals decide as well.\n";
}

// Prints the plans that come next as they come, at most twice a second; what came at once is left
// to the end, as are Markdown's tables.
class NextPlans final : public Observer {
 public:
  NextPlans(const Result& best, const RankingQuestion& question, const PageOptions& page,
            bool quiet, Outputs& outputs)
      : model_(best.model()),
        line_(best.model(), quiet),
        pieces_(best.model(), question, *best.plan, page),
        live_(!quiet && page.form == PageForm::text),
        outputs_(outputs) {}
  void progress(const Progress& p) override {
    tell();
    line_.progress(p);
  }
  void next_plan(std::size_t, const Plan& plan) override {
    if (live_) waiting_.push_back(ranked_plan(model_, plan));
  }
  void finish() { line_.finish(); }
  std::string rest(const Ranking& ranking) { return (any_ ? "" : "\n") + pieces_.rest(ranking); }

 private:
  void tell() {
    constexpr auto kBetween = std::chrono::milliseconds(500);
    const auto now = std::chrono::steady_clock::now();
    if (waiting_.empty() || now < last_ + kBetween) return;
    last_ = now;
    line_.finish();
    outputs_.attempt([&] {
      const std::string rows = pieces_.more(std::exchange(waiting_, {}));
      print((std::exchange(any_, true) ? "" : "\n") + rows);
    });
  }

  Model model_;
  LiveLine line_;
  RankingPieces pieces_;
  bool live_, any_ = false;
  Outputs& outputs_;
  std::vector<RankedPlan> waiting_;
  std::chrono::steady_clock::time_point last_ = std::chrono::steady_clock::now();
};

// All that is wanted of an answer; the exit code.
int tell(const SolveArguments& a, const Result& result, SolveOptions options, const Origin& origin,
         Outputs& outputs) {
  options.seconds = std::max(0.0, options.seconds - result.search.seconds);
  PageOptions page = page_options(a.model.under());
  if (a.markdown) page.form = PageForm::markdown;
  const bool ranks = a.plans > 0 && result.outcome == Outcome::optimal;
  if (!a.quiet)
    outputs.attempt([&] {
      const bool in_short = !ranks && !a.relaxed;
      // Plain, as it stands in a sentence of the page.
      const std::string remark =
          in_short ? besides("What comes next", [&] { return next_in_short(result, options); }, {})
                   : "";
      print(answer_page(result, page, a.shown, remark));
      const auto also = [&](const char* what, const std::function<std::string()>& part) {
        print("\n" + besides(what, part, page));
      };
      if (a.left_out && result.has_plan() && !a.relaxed)
        also("What is left out", [&] { return left_out_page(result, page, a.shown); });
      if (a.prices) also("What limits are worth", [&] { return prices_of(result, options, page); });
    });
  if (!a.result.empty()) outputs.attempt([&] { write_result(a.result, result); });
  if (!a.save.empty()) outputs.attempt([&] { write_answer(a.save, result, origin); });
  if (!a.plan.empty() && result.has_plan())
    outputs.attempt([&] { write_plan(a.plan, result.model(), *result.plan, a.form); });
  else if (!a.plan.empty())
    print_error("there is no plan, so " + a.plan + " was not written");
  std::optional<Ranking> ranking;
  if (ranks) {
    const std::string word = besides(
        "What comes next",
        [&] {
          NextPlans next(result, a.next(), page, a.quiet, outputs);
          ranking = next_best(result, a.next(), options, &next);
          next.finish();
          return a.plans > 1 ? next.rest(*ranking) : std::string();
        },
        page);
    if (!a.quiet) outputs.attempt([&] { print(word); });
  }
  if (ranking && !a.plans_file.empty())
    outputs.attempt([&] { write_ranking(a.plans_file, *ranking); });
  return ranking && !ranking->stopped_by.empty() ? kStopped : exit_code(result.outcome);
}

// `from`: what it goes on from; null: it begins anew.
int run(const SolveArguments& a, const Model& model, const Origin& origin,
        const std::shared_ptr<const KeptSearch>& from) {
  std::vector<std::string> inputs = model.inputs();
  if (!a.start.empty()) inputs.push_back(a.start);
  std::vector<std::pair<std::string, std::string>> outputs = {{"--result", a.result},
                                                              {"--save", a.save},
                                                              {"--plans-file", a.plans_file},
                                                              {"--keep", a.keep},
                                                              {"--history", a.history}};
  if (!a.plan.empty())
    need_sensible("--plan", [&] {
      need_fitting(a.form, a.plan);
      outputs.emplace_back("--plan", a.plan);
      for (const std::string& file : plan_files(a.plan, model))
        if (file != a.plan) outputs.emplace_back("--plan", file);
    });
  need_apart(outputs, inputs);
  if (!a.shown.family.empty())
    need_sensible("--family", [&] { need_decisions(model, a.shown.family); });
  if (a.plans > 0)
    need_sensible(a.differ.empty() ? "--plans" : "--differ",
                  [&] { need_different(model, a.next()); });
  SolveOptions options = a.search.options();
  if (!a.start.empty()) options.start = noted(read_partial_plan(a.start, model));
  if (!a.keep.empty())
    options.keep = from != nullptr ? keeping_on(a.keep, a.keep_every, *from)
                                   : keeping_of(a.keep, a.keep_every, a.model, model);
  options.from = from;
  options.ranks = together().ranks;
  LiveLine line(model, a.quiet);
  Recorder recorder(model, line, a.history, origin);
  const Result result =
      a.relaxed ? solve_relaxed(model, options, &recorder) : solve(model, options, &recorder);
  recorder.finish();
  if (!leads()) return kDone;
  options.keep.reset();  // questions that follow are searches of their own
  options.from.reset();
  options.ranks.reset();
  if (!result.search.keep_problem.empty())
    print_error("the search was not kept: " + result.search.keep_problem);
  Outputs written;
  const int code = tell(a, result, options, origin, written);
  written.attempt([&] { recorder.note_end(result); });
  return written.end(code);
}

// The model and its tables are in the file; it is kept there again.
int resume(SolveArguments a, const std::string& file) {
  const std::shared_ptr<const KeptSearch> kept = KeptSearch::read(file);
  if (a.keep.empty()) a.keep = file;
  Origin origin;
  const Model model = [&] {
    const UnpackedModel unpacked(*kept);  // gone once it is read, whatever happens to the search
    a.model = unpacked.arguments();
    Model read = a.model.load();
    origin = a.model.origin();
    origin.file = unpacked.name();
    return read;
  }();
  return run(a, model, origin, kept);
}

// What is wanted of an answer.
void add_outputs(CLI::App& command, SolveArguments& a) {
  const auto plans = command.add_option(
      "--plans", a.plans, "the best N plans in order, each proven, told as they come");
  plans->check(a_count(false, 1000));
  command
      .add_option("--differ", a.differ,
                  "of --plans: families in which they have to differ; any whole decision if not "
                  "said")
      ->delimiter(',')
      ->needs(plans);
  command.add_option("--plans-file", a.plans_file, "write these plans (JSON) here")->needs(plans);
  command.add_flag("--prices", a.prices, "what limits are worth while the whole decisions stay");
  command.add_flag("--left-out", a.left_out,
                   "why each whole decision at 0 is not taken: what that breaks, or costs");
  command.add_option("--rows", a.shown.rows, "so many names or rows of each family of decisions")
      ->check(a_count(false));
  command.add_option("--family", a.shown.family, "tell what is decided in this family only");
  command.add_option("--result", a.result, "write the result document (JSON) here");
  command.add_option("--save", a.save,
                     "the same with where it came from, for 'compare' later (JSON)");
  command.add_option("--history", a.history, "note the run in this history (SQLite)");
  const auto plan = command.add_option("--plan", a.plan,
                                       "write the plan here: CSV, a folder of CSV files (NAME/), "
                                       ".json, a workbook (.xlsx), or an SQLite database (.db)");
  command
      .add_flag("--plan-grids", a.form.grids,
                "in a folder or workbook: families with two keys as grids")
      ->needs(plan);
  command
      .add_flag("--plan-data", a.form.with_data,
                "in a folder, workbook or database: with the data columns of what the keys name")
      ->needs(plan);
}

CLI::Option* add_keep_every(CLI::App& command, SolveArguments& a) {
  return command.add_option("--keep-every", a.keep_every, "how often, 1min if not said: 10s, 5min")
      ->type_name("TIME")
      ->transform(a_time());
}

void add_forms(CLI::App& command, SolveArguments& a) {
  command.add_flag("--markdown", a.markdown, "print Markdown");
  command.add_flag("--quiet", a.quiet, "print nothing but errors");
}

}  // namespace

Run add_solve(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("solve", "find the best plan and prove that it is");
  const auto a = std::make_shared<SolveArguments>();
  a->model.add_to(*command);
  add_outputs(*command, *a);
  auto* relaxed = command->add_flag("--relaxed", a->relaxed, "let whole decisions be fractional")
                      ->excludes("--plans")
                      ->excludes("--prices");
  command
      ->add_option("--start", a->start,
                   "begin with this plan, or part of one (as --plan writes it); what it leaves "
                   "open is filled in")
      ->excludes(relaxed);
  const auto keep =
      command
          ->add_option("--keep", a->keep,
                       "keep the search in this file while it runs and when it stops, with the "
                       "model and its tables; 'resume' goes on from there")
          ->excludes(relaxed);
  add_keep_every(*command, *a)->needs(keep);
  a->search.add_to(*command);
  add_forms(*command, *a);
  return
      [a] { return run(leads() ? *a : a->silent(), a->model.load(), a->model.origin(), nullptr); };
}

Run add_resume(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("resume", "go on with a search that 'solve --keep' kept");
  const auto a = std::make_shared<SolveArguments>();
  const auto file = std::make_shared<std::string>();
  command->add_option("FILE", *file, "the kept search; it is enough, and is kept anew")->required();
  command->add_option("--keep", a->keep, "keep it here from now on, and leave FILE as it is");
  add_keep_every(*command, *a);
  add_outputs(*command, *a);
  a->search.add_to(*command);
  add_forms(*command, *a);
  return [a, file] { return resume(leads() ? *a : a->silent(), *file); };
}

}  // namespace kiteknot::cli
