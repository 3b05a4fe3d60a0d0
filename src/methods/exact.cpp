#include "methods/exact.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "kiteknot/ranks.hpp"
#include "methods/budget.hpp"
#include "methods/generation.hpp"
#include "methods/kept_search.hpp"
#include "methods/kinds/kind_start.hpp"
#include "methods/plan_of.hpp"
#include "methods/search_tree.hpp"
#include "mip/kinds/generated_rows.hpp"
#include "mip/parallel/ranks.hpp"
#include "mip/problem/problem_mark.hpp"
#include "mip/search/search.hpp"
#include "model/evaluation.hpp"
#include "model/lowering.hpp"
#include "model/tours/tour_lowering.hpp"

namespace kiteknot::methods {
namespace {

std::optional<double> finite(double v) {
  return std::isfinite(v) ? std::optional(v) : std::nullopt;
}

// Between the engine's units and the user's.
class Translator final : public mip::Listener {
 public:
  Translator(const Model& model, const Lowering& lowering, double before, Observer* observer)
      : model_(model),
        lowering_(lowering),
        before_(before),
        observer_(observer),
        has_goal_(!model.data().goals.empty()) {}

  [[nodiscard]] Progress progress_of(const mip::Standing& s) const {
    Progress p;
    p.seconds = before_ + s.seconds;
    p.nodes = s.nodes;
    p.open = s.open;
    p.workers = s.workers;
    p.found_by = s.found_by;
    if (!has_goal_) return p;
    p.best = std::isfinite(s.best) ? finite(lowering_.to_user(s.best)) : std::nullopt;
    p.bound = std::isfinite(s.bound) ? finite(lowering_.to_user(s.bound)) : std::nullopt;
    if (p.best && p.bound) p.gap = mip::relative_gap(*p.best, *p.bound, 1.0);
    return p;
  }

  void better_plan(const mip::Standing& s, std::span<const Rational> columns) override {
    if (observer_ != nullptr) observer_->better_plan(progress_of(s), plan_of(model_, columns));
  }
  void progress(const mip::Standing& s) override {
    if (observer_ != nullptr) observer_->progress(progress_of(s));
  }

 private:
  const Model& model_;
  const Lowering& lowering_;
  double before_;  // seconds that lowering took
  Observer* observer_;
  bool has_goal_;
};

mip::SearchOptions engine_options(const SolveOptions& options, const Lowering& lowering,
                                  Index decisions, const Memory* memory) {
  mip::SearchOptions o;
  o.budget = budget_of(options);
  o.gap = options.gap;
  o.crew.threads = threads_of(options.threads);
  o.memory_bytes = options.memory_bytes;
  o.decisions = decisions;
  o.rooms = true;
  o.record_nodes = static_cast<std::size_t>(std::max<std::int64_t>(0, options.record_branches));
  o.goal_unit = lowering.goal_scale.to_double();
  o.goal_offset = (lowering.goal_constant * lowering.goal_scale * lowering.goal_sign).to_double();
  if (options.plain) {
    o.presolving.on = o.presolving.brief_look = o.presolving.reductions = o.presolving.components =
        o.presolving.orbits = false;
    o.finding.construction = o.finding.core = o.finding.dives = o.finding.near_plan =
        o.finding.pump = false;
    o.node.strong = o.presolving.probing = o.node.enumeration = o.node.price_fixing =
        o.node.learning = o.structures = false;
    o.cuts = mip::CutSwitches::none();
  }
  if (!options.looks_for_plans) {
    o.finding.construction = o.finding.sequencing = o.finding.core = o.finding.rounding =
        o.finding.dives = o.finding.near_plan = o.finding.alternation = o.finding.pump = false;
    o.structures = false;
  }
  if (memory != nullptr) memory->start(o, lowering);
  for (const auto& [decision, value] : options.start)
    o.given.start.emplace_back(decision.id, value);
  return o;
}

// The relaxation's own numbers in the user's sense: goals carry the lowering's sign and scale,
// limits the scale of their row.
Relaxed relaxed_of(const mip::SearchResult& found, const Lowering& lowering, const ModelData& m,
                   bool exact) {
  const bool has_goal = !m.goals.empty();
  const auto decisions = static_cast<std::size_t>(m.num_decisions);
  Relaxed r;
  r.infeasible = found.root.relaxed.status == lp::Status::infeasible;
  r.unbounded = found.root.relaxed.status == lp::Status::unbounded;
  if (found.root.relaxed.status != lp::Status::optimal) return r;
  r.integral = found.root.relaxed.integral;
  r.point.assign(found.root.relaxed.point.begin(),
                 found.root.relaxed.point.begin() + static_cast<std::ptrdiff_t>(decisions));
  if (lowering.relaxed && found.plan && !exact)  // the point of lines alone is none of the model
    for (std::size_t j = 0; j < decisions; ++j) r.point[j] = (*found.plan)[j].to_double();
  if (lowering.relaxed && found.plan)  // nothing was whole by demand: is it by itself?
    for (std::size_t j = 0; j < decisions; ++j)
      r.integral = r.integral && (!m.whole(static_cast<Index>(j)) || (*found.plan)[j].is_integer());
  if (!has_goal) return r;
  r.nonlinear = !exact;
  r.value = lowering.to_user(found.root.relaxed.value);
  if (!exact) return r;  // prices of lines that follow a box say nothing of what is stated
  const double goal = lowering.goal_sign / lowering.goal_scale.to_double();
  for (const LoweredRow& row : lowering.rows) {
    const double dual =
        row.problem_row < 0
            ? 0.0
            : found.root.relaxed.row_duals[static_cast<std::size_t>(row.problem_row)];
    r.shadow_prices.push_back(dual == 0.0 ? 0.0 : dual * row.scale.to_double() * goal);
  }
  for (std::size_t j = 0; j < decisions; ++j) {
    const double d = found.root.relaxed.reduced_costs[j];
    r.reduced_costs.push_back(d == 0.0 ? 0.0 : d * goal);
  }
  r.degenerate = found.root.relaxed.degenerate;
  return r;
}

// A value and a room beside it; what is left of two that cancel is 0.
double end_of(double value, double room) {
  constexpr double kNoise = 1024.0 * std::numeric_limits<double>::epsilon();
  const double end = value + room;
  return std::abs(end) <= kNoise * std::abs(value) ? 0.0 : end;
}

// The rooms of limits and costs, as values in the user's units. A turned sign swaps the ends.
void tell_stretches(Relaxed& r, const mip::SearchResult& found, const Lowering& lowering,
                    const Result& result) {
  const ModelData& m = result.model().data();
  if (!result.report || m.goals.empty()) return;
  std::size_t k = 0;
  for (const LoweredRow& row : lowering.rows) {
    const RuleValue& v = result.report->rules[k++];
    Stretch s{-HUGE_VAL, HUGE_VAL};
    if (row.problem_row >= 0 && !found.root.relaxed.limit_rooms.empty()) {
      const Interval room =
          found.root.relaxed.limit_rooms[static_cast<std::size_t>(row.problem_row)];
      const double scale = row.scale.to_double(), value = v.value.to_double();
      if (v.binding) s = {end_of(value, room.low / scale), end_of(value, room.high / scale)};
    }
    if (!found.root.relaxed.limit_rooms.empty()) r.limit_stretches.push_back(s);
  }
  if (found.root.relaxed.cost_rooms.empty()) return;
  const auto decisions = static_cast<std::size_t>(m.num_decisions);
  r.coefficients.assign(decisions, 0.0);
  for (const auto& t : lowering.goal.terms)
    if (t.decision < m.num_decisions)
      r.coefficients[static_cast<std::size_t>(t.decision)] = t.coefficient.to_double();
  const double scale = lowering.goal_scale.to_double();
  for (std::size_t j = 0; j < decisions; ++j) {
    const Interval room = found.root.relaxed.cost_rooms[j];
    const double down = (lowering.goal_sign > 0 ? room.low : -room.high) / scale;
    const double up = (lowering.goal_sign > 0 ? room.high : -room.low) / scale;
    r.coefficient_stretches.push_back(
        {end_of(r.coefficients[j], down), end_of(r.coefficients[j], up)});
  }
}

// Before there was anything to search.
Result stopped_early(const Model& model, bool relaxed, double seconds, const Interrupt& interrupt) {
  Result result(model);
  result.outcome = Outcome::undecided;
  result.relaxed_only = relaxed;
  for (const auto& f : model.data().families) result.has_integers |= f->integer && !relaxed;
  if (!model.data().goals.empty())
    result.goals.push_back(
        {model.data().first_goal().name, model.data().first_goal().sense, {}, {}, {}});
  result.search.seconds = seconds;
  result.search.stopped_by = interrupt.by_hand() ? "hand" : "time";
  return result;
}

// Value, bound and gap as the user states the goal.
GoalResult first_goal(const ModelData& m, const Result& result, const mip::SearchResult& found,
                      const Lowering& lowering) {
  GoalResult goal{m.first_goal().name, m.first_goal().sense, {}, {}, {}};
  if (result.report) goal.value = result.report->goal;
  if (std::isfinite(found.bound) && found.outcome != Outcome::infeasible &&
      found.outcome != Outcome::unbounded)
    goal.bound = lowering.to_user(found.bound);
  if (goal.value && goal.bound) {
    // An exact proof is a gap of 0, whatever the last digit of a double says; any other is not.
    constexpr double kLeastGap = 0x1p-53;
    if (found.proven_exactly) goal.bound = goal.value->to_double();
    goal.gap = found.proven_exactly
                   ? 0.0
                   : std::max(mip::relative_gap(goal.value->to_double(), *goal.bound, 1.0),
                              found.outcome == Outcome::optimal ? kLeastGap : 0.0);
  }
  return goal;
}

// `before`: seconds until the search began.
SearchCounts counts_of(const mip::SearchResult& found, double before, bool had_start,
                       const Lowering& lowering, const Translator& translator) {
  SearchCounts counts;
  counts.nodes = found.counts.nodes;
  counts.lp_iterations = found.counts.pivots;
  counts.generated_constraints = found.counts.generated_rows;
  counts.cuts = found.counts.cuts;
  if (std::isfinite(found.root.bound)) counts.root_bound = lowering.to_user(found.root.bound);
  if (found.root.left) {
    const mip::Left& l = *found.root.left;
    counts.reduced = Reduced{l.columns, l.columns_before, l.rows, l.rows_before};
    if (std::isfinite(l.relaxed_value)) counts.reduced->relaxed = lowering.to_user(l.relaxed_value);
  }
  counts.work = found.counts.work;
  counts.workers = found.crew.workers;
  counts.seconds_shared = found.crew.seconds;
  counts.without_branch = found.crew.idle;
  counts.waited = found.crew.ahead;
  counts.processes = found.ranks;
  counts.branches_of_processes = found.nodes_of_ranks;
  counts.seconds = before + found.seconds;
  counts.stopped_by = word(found.stopped_by);
  counts.found_by = found.found_by;
  counts.structure = found.structure.name;
  counts.structure_method = found.structure.method;
  for (std::size_t k = 1; k < mip::kWaysToClose; ++k)
    if (found.closed[k] > 0)
      counts.closed.emplace_back(mip::name_of(static_cast<mip::ClosedBy>(k)), found.closed[k]);
  for (const mip::PartTally& p : found.parts)
    if (p.tally.calls > 0)
      counts.parts.push_back({std::string(p.kind), std::string(p.name), p.tally.calls, p.tally.work,
                              p.tally.steps, p.tally.conflicts});
  for (const mip::Standing& s : found.history) counts.progress.push_back(translator.progress_of(s));
  if (had_start) counts.start = found.start_goal ? "plan" : "none";
  if (found.start_goal) counts.start_value = lowering.to_user(found.start_goal->to_double());
  return counts;
}

}  // namespace

Result search(const Model& given, const SolveOptions& options, Observer* observer, bool relaxed,
              Memory* memory) {
  if (options.generator) memory = nullptr;  // it knows nothing of generated rules
  const bool kept = options.keep != nullptr || options.from != nullptr;
  if (options.generator && kept)
    throw UsageError("a search with generated rules cannot be kept: nothing says what they ask");
  if (options.generator && options.in_rounds && !relaxed)
    return search_in_rounds(given, options, observer);
  const Model model = given;  // whoever listens may change theirs
  const ModelData& m = model.data();
  if (m.goals.size() > 1 && kept)
    throw UsageError("a search for several goals in order cannot be kept");
  if (m.goals.size() > 1) {  // each rank by itself
    SolveOptions alone = options;
    alone.ranks.reset();
    return search_in_order(model, alone, observer, relaxed, memory);
  }
  const Plan stated(model);
  for (const auto& [decision, value] : options.start) (void)stated[decision];  // it is this model's
  const Stopwatch clock;
  const Interrupt interrupt = budget_of(options).interrupt(clock);
  Lowering lowering;
  try {
    lowering = lower(m, relaxed, memory != nullptr, interrupt);
  } catch (const LoweringStopped&) {
    return stopped_early(model, relaxed, clock.seconds(), interrupt);
  }
  std::shared_ptr<GeneratedRules> generated;
  if (options.generator) {
    generated = std::make_shared<GeneratedRules>(model, twin_of(*options.generator));
    std::shared_ptr<mip::RowGenerator> all = generated;
    if (auto own = mip::generator_of(lowering.problem))
      all = std::make_shared<JoinedGenerators>(
          std::vector<std::shared_ptr<mip::RowGenerator>>{std::move(own), all});
    mip::set_generator(lowering.problem, std::move(all));
  }
  const bool has_integers = lowering.problem.num_integers() > 0, has_goal = !m.goals.empty();
  // A plan to begin with, from a way that problems of this kind have.
  std::optional<KindPlan> kind_plan;
  if (!relaxed && !options.plain && options.looks_for_plans && !options.generator && has_goal &&
      lowering.problem.num_columns() == m.num_decisions)
    kind_plan = plan_of_kind(lowering.problem, options.seed, interrupt);
  const bool engine_bound_holds = lowering.problem.exact();  // its costs are the model's
  const double before = clock.seconds();
  mip::SearchOptions engine = engine_options(options, lowering, m.num_decisions, memory);
  if (kind_plan && engine.given.plans.empty()) {
    engine.given.plans.push_back(std::move(kind_plan->columns));
    engine.given.plans_by = std::move(kind_plan->by);
    if (engine_bound_holds)
      engine.given.known_bound = std::max(engine.given.known_bound, kind_plan->bound);
  }
  if (options.ranks && !relaxed && memory == nullptr) {
    if (options.ranks->inside()->used())
      throw UsageError("a group of ranks is for one solve, and this one has had it");
    engine.ranks = options.ranks->inside();
    if (!options.ranks->leads()) {  // limits are rank 0's
      engine.budget.seconds = HUGE_VAL;
      engine.budget.nodes = std::numeric_limits<std::int64_t>::max();
      engine.gap = 0.0;
    }
  }
  const auto keep_problem = std::make_shared<std::string>();
  if (kept) {
    const std::optional<std::uint64_t> mark = mip::mark_of(lowering.problem);
    if (options.from) go_on_from(*options.from, mark, engine);
    if (options.keep)
      engine.keeper = keeper_of(
          *options.keep,
          {model.title(), mark,
           has_goal ? std::function([&](double v) { return lowering.to_user(v); }) : nullptr},
          keep_problem);
  }
  // What comes after the search (values, the check as stated) goes over the model's terms once or
  // twice; lowering has done so several times.
  constexpr double kAfterwards = 0.3;  // of lowering
  engine.budget = engine.budget.less((1.0 + kAfterwards) * before, 0);
  const std::vector<Index> conditions =  // the problem goes to the search
      options.record_branches > 0 ? lowering.problem.stated().condition_column
                                  : std::vector<Index>{};
  Translator translator(model, lowering, before, observer);
  // No fraction may meet what is not linear: such plans are taken as the check as stated takes
  // them.
  const bool exact = lowering.problem.exact();
  const bool of_relaxation = relaxed && !(has_goal && takes_fractions(m, m.goals[0].expression));
  const mip::Judge judge = [&](std::span<const Rational> values) {
    const Plan plan = plan_of(model, values);
    PlanReport report = exact ? check_exactly(model, plan, relaxed) : check(model, plan, relaxed);
    mip::Verdict verdict{report.feasible, 0, {}};
    // A relaxed point has the goal of the relaxation, whatever its curves would say.
    if (report.goal)
      verdict.goal = lowering.to_problem(of_relaxation ? lowering.goal_at(values) : *report.goal);
    if (verdict.accepted) verdict.remarks = std::move(report);
    return verdict;
  };
  mip::SearchResult found =
      mip::Search(memory != nullptr ? lowering.problem : std::move(lowering.problem), judge,
                  std::move(engine), &translator)
          .run();
  if (memory != nullptr) memory->remember(found, lowering, m.num_decisions);

  Result result(model);
  result.outcome = found.outcome;
  result.reason = found.reason;
  result.relaxed_only = relaxed;
  result.has_integers = has_integers;
  result.relaxed = relaxed_of(found, lowering, m, exact);
  if (found.ray) result.direction.assign(found.ray->begin(), found.ray->begin() + m.num_decisions);
  if (found.plan) {
    result.plan.emplace(plan_of(model, *found.plan));
    // Whole decisions have no tolerances: the report is the same.
    const bool whole =
        !relaxed && std::ranges::all_of(m.families, [](const auto& f) { return f->integer; });
    PlanReport* said = std::any_cast<PlanReport>(&found.remarks);
    result.report =
        whole && said != nullptr ? std::move(*said) : check(model, *result.plan, relaxed);
    if (of_relaxation && result.report->goal) result.report->goal = lowering.goal_at(*found.plan);
  }
  if (exact) tell_stretches(result.relaxed, found, lowering, result);
  if (has_goal) result.goals.push_back(first_goal(m, result, found, lowering));
  if (generated) result.generated = generated->names();
  result.search = counts_of(found, before, !options.start.empty(), lowering, translator);
  result.search.keep_problem = *keep_problem;
  if (options.from) result.search.seconds_before = options.from->seconds();
  result.search.tree = tree_of(found, lowering, conditions, m);
  return result;
}

}  // namespace kiteknot::methods

namespace kiteknot {

Result solve(const Model& model, const SolveOptions& options, Observer* observer) {
  need_sensible(options);
  return methods::search(model, options, observer, false);
}

Result solve_relaxed(const Model& model, const SolveOptions& options, Observer* observer) {
  need_sensible(options);
  return methods::search(model, options, observer, true);
}

}  // namespace kiteknot
