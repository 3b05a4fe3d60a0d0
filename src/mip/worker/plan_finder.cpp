// From a relaxed point to a plan that the judge accepts.

#include "mip/worker/plan_finder.hpp"

#include <algorithm>
#include <cmath>

#include "mip/heuristics/construction.hpp"
#include "mip/heuristics/enumerate.hpp"
#include "mip/heuristics/exchange.hpp"
#include "mip/interface/exact_goals.hpp"
#include "mip/problem/violation.hpp"

namespace kiteknot::mip {
namespace {

// Where any plan will do, none is looked for near another.
HeuristicSwitches switches_of(const SearchOptions& options) {
  HeuristicSwitches switches = options.finding;
  switches.core = switches.core && !options.any_plan;
  switches.near_plan = switches.near_plan && !options.any_plan;
  return switches;
}

}  // namespace

PlanFinder::PlanFinder(const WorkerSetting& setting, NodeWorkspace& space, KnownBest& known,
                       const PseudoCosts& costs, PresentNode& node)
    : setting_(setting),
      space_(space),
      known_(known),
      costs_(costs),
      node_(node),
      heuristics_(heuristics(switches_of(setting.options))),
      tallies_(heuristics_.size()) {
  if (LocalSearch::wanted(space.problem))
    local_.emplace(space.problem, setting.decisions, setting.options.budget.seed);
}

std::vector<PartTally> PlanFinder::parts() const {
  std::vector<PartTally> parts;
  for (std::size_t k = 0; k < heuristics_.size(); ++k)
    parts.push_back({"heuristic", heuristics_[k]->name(), tallies_[k]});
  parts.push_back({"heuristic", "a greedy construction before the relaxation", first_tally_});
  if (local_) parts.push_back({"heuristic", "local search", local_tally_});
  parts.push_back({"heuristic", "looking through the rest of a branch", rest_tally_});
  return parts;
}

Index PlanFinder::separate(std::span<const double> point, bool integral, bool stated_only) {
  const Task* task = node_.task;
  const Separation::Added added = space_.separate(
      point, integral, task != nullptr ? std::optional(task->number) : std::nullopt, stated_only);
  node_.out.counts.generated_rows += added.stated;
  return added.rows;
}

// Rows that it breaks are found and come into the relaxation; those that are known it meets
// exactly.
bool PlanFinder::meets_generated(std::span<const Rational> plan) {
  if (!space_.separation.any_stated()) return true;
  std::vector<double> point;
  for (const Rational& x : plan) point.push_back(x.to_double());
  return separate(point, true, true) == 0 && space_.pool.met_exactly(plan);
}

bool PlanFinder::judge(std::span<const Rational> plan, std::string_view by) {
  Verdict verdict = setting_.judge(plan);
  if (!verdict.accepted || !meets_generated(plan)) return false;
  Rational goal = setting_.options.any_plan ? Rational(0) : std::move(verdict.goal);
  if (!known_.offer(plan, goal)) return true;
  node_.out.plans.push_back({{plan.begin(), plan.end()},
                             std::move(goal),
                             std::move(verdict.remarks),
                             std::string(by),
                             setting_.clock.seconds()});
  return true;
}

void PlanFinder::try_given() {
  struct Given {
    std::vector<double> point;
    const std::vector<Rational>* plan;
    double goal;
  };
  std::vector<Given> given;
  for (const std::vector<Rational>& plan : setting_.options.given.plans) {
    Given g{{}, &plan, 0.0};
    for (Index j = 0; j < space_.problem.num_columns(); ++j) {
      g.point.push_back(plan[at(j)].to_double());
      g.goal += space_.problem.cost(j) * g.point.back();
    }
    given.push_back(std::move(g));
  }
  std::stable_sort(given.begin(), given.end(),
                   [](const Given& a, const Given& b) { return a.goal < b.goal; });
  // Where the decisions are all columns, a look at the rows saves the judge the trouble; elsewhere
  // helper columns are unknown, and all plans are judged.
  // Of several the first one has to stand: a plan of thirds breaks rows of doubles by a sliver.
  const bool sure =
      setting_.options.few.count == 0 && setting_.decisions == space_.problem.num_columns();
  const auto fits = [&](const Given& g) {
    for (Index i = 0; i < space_.problem.num_rows(); ++i)
      if (row_violation(space_.problem.row(i), g.point) > 0.0) return false;
    return std::all_of(space_.disjunctions.begin(), space_.disjunctions.end(),
                       [&](const auto& d) { return d->met(space_.domain, g.point); });
  };
  const Given* failed = nullptr;
  for (const Given& g : given) {
    if ((!sure || fits(g)) && judge(*g.plan, setting_.options.given.plans_by)) {
      if (sure) break;
    } else {
      failed = &g;
    }
  }
  if (failed == nullptr || setting_.options.any_plan) return;
  constexpr std::int64_t kMostWork = 20'000;
  const auto mended = exchange(space_.problem, failed->point, kMostWork, space_.work);
  if (mended)
    (void)judge(space_.exact_point(*mended), setting_.options.given.plans_by + ", mended");
}

bool PlanFinder::propose(NodeView::Moment moment) {
  // Real columns under rows alone: the relaxation's point is the best plan.
  if (space_.problem.num_integers() == 0 && space_.problem.linear()) return false;
  const std::function<std::vector<double>()> reduced_costs = [&] {
    return space_.relaxation.reduced_costs();
  };
  std::function<std::optional<std::vector<double>>(Problem, std::int64_t)> part_search;
  if (space_.problem.complete())  // else its generator's twins are the coordinator's to make
    part_search = [this](Problem part, std::int64_t nodes) {
      return search_part(std::move(part), nodes);
    };
  std::vector<double> point;  // a copy, since a plan that is tried moves the relaxation
  for (std::size_t k = 0; k < heuristics_.size(); ++k) {
    NodeView node{.moment = moment,
                  .domain = space_.domain,
                  .propagation = space_.propagation,
                  .point = space_.relaxation.point(),
                  .reduced_costs = reduced_costs,
                  .cutoff = known_.cutoff(),
                  .depth = node_.task->depth,
                  .nodes = node_.nodes,
                  .work = space_.work,
                  .relaxation = space_.relaxation,
                  .spent = space_.spent(),
                  .own_pivots = node_.out.counts.pivots,
                  .interrupt = space_.interrupt,
                  .best_plan = known_.point(),
                  .history = costs_,
                  .part_search = part_search};
    if (space_.interrupt.now()) break;  // a look may cost as much as the limit
    if (!heuristics_[k]->wants(node)) continue;
    if (point.empty()) point.assign(node.point.begin(), node.point.end());
    node.point = point;
    Tally& tally = tallies_[k];
    const std::int64_t before = space_.spent();
    const std::size_t plans = node_.out.plans.size();
    if (const auto proposed = heuristics_[k]->look(node))
      (void)try_point(*proposed, heuristics_[k]->name());
    ++tally.calls;
    tally.work += space_.spent() - before;
    tally.steps += static_cast<std::int64_t>(node_.out.plans.size() - plans);
  }
  return !point.empty();
}

void PlanFinder::build_first() {
  constexpr std::int64_t kLooks = 40, kGrace = 1'000'000;  // at everything there is
  if (!setting_.options.finding.construction || local_) return;
  Construction build(space_.problem, setting_.options.budget.seed);
  const std::int64_t before = space_.spent();
  const std::size_t plans = node_.out.plans.size();
  const auto point =
      build.build({space_.domain,
                   space_.propagation,
                   space_.work,
                   space_.interrupt,
                   space_.work.units() + kGrace + kLooks * space_.problem.rows().num_nonzeros(),
                   {}});
  // As it is, if that will do: the best real values around it are a relaxation away.
  if (point && !judge(space_.exact_point(*point), FirstPlans::kName)) {
    const lp::Basis start = space_.relaxation.simplex().basis();
    (void)try_point(*point, FirstPlans::kName);
    space_.relaxation.simplex().set_basis(start);
  }
  ++first_tally_.calls;
  first_tally_.work += space_.spent() - before;
  first_tally_.steps += static_cast<std::int64_t>(node_.out.plans.size() - plans);
}

void PlanFinder::complete_start() {
  constexpr std::int64_t kNodes = 500;
  Problem part = space_.problem;
  for (const auto& [j, value] : setting_.options.given.start) {
    const double v = value.to_double();
    if (!space_.problem.integer(j) || !value.is_integer() || v < part.lower(j) || v > part.upper(j))
      continue;
    part.set_bounds(j, v, v);
  }
  if (!space_.problem.complete()) return;
  SearchResult inner = setting_.sub_search(std::move(part), setting_.judge, part_options(kNodes));
  take_work_of(inner);
  if (!inner.plan) return;
  node_.out.start_goal = inner.goal;
  (void)judge(*inner.plan, "the start");
}

SearchOptions PlanFinder::part_options(std::int64_t nodes) const {
  SearchOptions options = for_part(setting_.options);
  options.budget = options.budget.less(setting_.clock.seconds(), node_.nodes);
  options.budget.nodes = std::min(nodes, options.budget.nodes);
  options.finding.near_plan = options.finding.sequencing = options.presolving.probing =
      options.structures = options.presolving.brief_look = false;
  options.given.basis = {};
  return options;
}

void PlanFinder::take_work_of(const SearchResult& inner) {
  space_.work.add_told(inner.counts.work);
  node_.out.counts.pivots += inner.counts.pivots;
}

// The best plan, if there is one, is told first, so that only better ones count.
std::optional<std::vector<double>> PlanFinder::search_part(Problem part, std::int64_t nodes) {
  SearchOptions options = part_options(nodes);
  options.plans_only = true;
  if (known_.plan()) options.given.plans.push_back(*known_.plan());
  const SearchResult inner =
      setting_.sub_search(std::move(part), setting_.judge, std::move(options));
  take_work_of(inner);
  if (!inner.plan || (known_.plan() && *inner.plan == *known_.plan()))
    return std::nullopt;  // no news
  return in_doubles(*inner.plan);
}

bool PlanFinder::enumerate_rest(double bound) {
  if (!known_.any() || setting_.options.any_plan || !setting_.options.node.enumeration ||
      !std::isfinite(bound) || !node_.costs.serve(known_.cutoff()))
    return false;
  // Where it fails more often than not it is tried more rarely.
  constexpr std::int64_t kMostPoints = 5'000, kPatience = 4;
  Tally& tally = rest_tally_;
  const std::int64_t failures = 2 * tally.conflicts - tally.calls, before = space_.work.units();
  if (failures > kPatience && node_.nodes % std::min<std::int64_t>(failures, 64) != 0) return false;
  BestPoint rest(known_.cutoff(), bound);
  const bool complete = enumerate(space_.problem, space_.domain,
                                  {node_.costs.reduced, &space_.relaxation.simplex().program()},
                                  rest, kMostPoints, space_.work);
  const bool judged = !rest.found() || judge(space_.exact_point(rest.point()),
                                             "looking through the rest of a branch");
  ++tally.calls;
  tally.work += space_.work.units() - before;
  tally.steps += rest.found() && judged ? 1 : 0;
  if (!complete) ++tally.conflicts;
  return complete && judged;
}

bool PlanFinder::local_pays(std::int64_t more) const {
  constexpr std::int64_t kShare = 4, kGrace = 300'000;  // of all work, beside a start
  return local_tally_.work + more <= kGrace + space_.spent() / kShare;
}

bool PlanFinder::try_locally(std::vector<double> point, std::string_view by) {
  const auto found = local_->around(space_.domain, std::move(point), space_.work);
  return found &&
         (judge(space_.exact_point(LocalSearch::tidied(space_.domain, found->point)), by) ||
          judge(space_.exact_point(found->point), by));
}

// Whole columns are fixed at the nearest value one after the other, those nearest to one first;
// what follows from each is seen before the next.
bool PlanFinder::round_locally(std::vector<double> point, std::string_view by) {
  std::vector<std::pair<double, Index>> order;
  for (Index j = 0; j < space_.problem.num_columns(); ++j)
    if (space_.problem.integer(j) && !space_.domain.fixed(j))
      order.emplace_back(std::abs(point[at(j)] - std::round(point[at(j)])), j);
  std::ranges::sort(order);
  const std::size_t mark = space_.domain.mark();
  bool possible = true;
  for (const auto& [away, j] : order) {
    const double x =
        std::clamp(std::round(point[at(j)]), space_.domain.lower(j), space_.domain.upper(j));
    possible = space_.domain.raise_lower(j, x) && space_.domain.drop_upper(j, x) &&
               space_.propagation.run(space_.domain, space_.work);
    if (!possible) break;
  }
  for (Index j = 0; j < space_.problem.num_columns() && possible; ++j)
    point[at(j)] = std::clamp(point[at(j)], space_.domain.lower(j), space_.domain.upper(j));
  const bool found = possible && try_locally(std::move(point), by);
  space_.domain.undo_to(mark);
  return found;
}

void PlanFinder::look_locally(std::span<const double> point, bool nearly) {
  constexpr int kStarts = 8;
  if (!local_ || (!nearly && !local_pays())) return;
  const std::int64_t before = space_.work.units();
  const std::size_t plans = node_.out.plans.size();
  ++local_tally_.calls;
  std::vector<double> start(point.begin(), point.end());
  const auto look = [&](std::vector<double> from) {
    if (try_locally(from, "local search")) return;
    const auto free = local_->relaxed(space_.domain, std::move(from), space_.work);
    if (free) (void)round_locally(free->point, "local search");
  };
  look(start);
  if (local_tally_.calls == 1)
    for (int k = 0;
         k < kStarts && !space_.interrupt.now() && local_pays(space_.work.units() - before); ++k)
      look(local_->anywhere(space_.domain, start));
  local_tally_.work += space_.work.units() - before;
  local_tally_.steps += static_cast<std::int64_t>(node_.out.plans.size() - plans);
}

bool PlanFinder::try_point(std::span<const double> point, std::string_view by) {
  if (local_) {  // as it is, and what a local search makes of it
    const bool found = judge(
        space_.exact_point(LocalSearch::tidied(space_.domain, {point.begin(), point.end()})), by);
    return (local_pays() && try_locally({point.begin(), point.end()}, by)) || found;
  }
  std::vector<double> rounded(point.begin(), point.end());
  for (Index j = 0; j < space_.problem.num_columns(); ++j)
    if (space_.problem.integer(j)) rounded[at(j)] = std::round(rounded[at(j)]);
  if (space_.problem.num_integers() == space_.problem.num_columns())
    return judge(space_.exact_point(rounded), by);

  const std::size_t mark = space_.domain.mark();
  bool possible = true;
  for (Index j = 0; j < space_.problem.num_columns() && possible; ++j)
    if (space_.problem.integer(j))
      possible = space_.domain.raise_lower(j, rounded[at(j)]) &&
                 space_.domain.drop_upper(j, rounded[at(j)]);
  bool accepted = false;
  if (possible) {
    space_.relaxation.follow(space_.domain, true);
    const lp::Report report = space_.relaxation.solve({.interrupt = space_.interrupt});
    node_.out.counts.pivots += report.pivots;
    if (report.status == lp::Status::optimal) {
      const auto judge_vertex = [&] {
        const auto exact = space_.relaxation.exact_values(space_.exact);
        return exact && judge(*exact, by);
      };
      accepted = judge_vertex() || judge(space_.exact_point(space_.relaxation.point()), by);
      // The vertex misses some limit by what tolerances let through.
      if (!accepted && space_.relaxation.refine(space_.exact) == lp::Status::optimal)
        accepted = judge_vertex();
    }
  }
  space_.domain.undo_to(mark);
  return accepted;
}

}  // namespace kiteknot::mip
