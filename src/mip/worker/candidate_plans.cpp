// From a relaxed point to a plan that the judge accepts.

#include <algorithm>
#include <cmath>

#include "mip/heuristics/enumerate.hpp"
#include "mip/heuristics/exchange.hpp"
#include "mip/interface/exact_goals.hpp"
#include "mip/problem/violation.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

// Integer columns rounded; real ones by their shortest decimal.
std::vector<Rational> Worker::exact_point(std::span<const double> point) const {
  std::vector<Rational> plan;
  plan.reserve(point.size());
  for (Index j = 0; j < problem_.num_columns(); ++j)
    plan.push_back(problem_.integer(j) ? Rational::exactly(std::round(point[at(j)]))
                                       : Rational(point[at(j)]));
  return plan;
}

// Rows that it breaks are found and come into the relaxation; those that are known it meets
// exactly.
bool Worker::meets_generated(std::span<const Rational> plan) {
  if (separation_.empty()) return true;
  std::vector<double> point;
  for (const Rational& x : plan) point.push_back(x.to_double());
  return separate(point, true) == 0 && pool_.met_exactly(plan);
}

void Worker::take_best(std::shared_ptr<const std::vector<Rational>> plan) {
  best_plan_ = std::move(plan);
  best_point_ = in_doubles(*best_plan_);
}

bool Worker::judge_plan(std::span<const Rational> plan, std::string_view by) {
  Verdict verdict = judge_(plan);
  if (!verdict.accepted || !meets_generated(plan)) return false;
  Rational goal = options_.any_plan ? Rational(0) : std::move(verdict.goal);
  if (few_.on() && !few_.offer(plan, goal)) return true;
  if (!few_.on() && goal_ && goal >= *goal_) return true;
  // Not the key's own goal, of the best few: the domain may stand at the plan for the moment.
  const Rational* cut = few_.on() ? few_.last() : &goal;
  if (cut != nullptr && (!goal_ || *cut < *goal_)) {
    goal_ = *cut;
    best_ = rounded_up(*cut);
  }
  take_best(std::make_shared<const std::vector<Rational>>(plan.begin(), plan.end()));
  out_.plans.push_back({{plan.begin(), plan.end()},
                        std::move(goal),
                        std::move(verdict.remarks),
                        std::string(by),
                        clock_.seconds()});
  return true;
}

// Plans of earlier answers: the best one that holds here as it is, and what comes of mending the
// nearest one that would be better and does not.
NodeOutcome Worker::try_given_plans() {
  struct Given {
    std::vector<double> point;
    const std::vector<Rational>* plan;
    double goal;
  };
  std::vector<Given> given;
  for (const std::vector<Rational>& plan : options_.plans) {
    Given g{{}, &plan, 0.0};
    for (Index j = 0; j < problem_.num_columns(); ++j) {
      g.point.push_back(plan[at(j)].to_double());
      g.goal += problem_.cost(j) * g.point.back();
    }
    given.push_back(std::move(g));
  }
  std::stable_sort(given.begin(), given.end(),
                   [](const Given& a, const Given& b) { return a.goal < b.goal; });
  // Where the decisions are all columns, a look at the rows saves the judge the trouble; elsewhere
  // helper columns are unknown, and all plans are judged.
  // Of several the first one has to stand: a plan of thirds breaks rows of doubles by a sliver.
  const bool sure = !few_.on() && decisions_ == problem_.num_columns();
  const auto fits = [&](const Given& g) {
    for (Index i = 0; i < problem_.num_rows(); ++i)
      if (row_violation(problem_.row(i), g.point) > 0.0) return false;
    return std::all_of(disjunctions_.begin(), disjunctions_.end(),
                       [&](const auto& d) { return d->met(domain_, g.point); });
  };
  const Given* failed = nullptr;
  for (const Given& g : given) {
    if ((!sure || fits(g)) && judge_plan(*g.plan, "an earlier answer")) {
      if (sure) break;
    } else {
      failed = &g;
    }
  }
  if (failed == nullptr || options_.any_plan) return hand_out(End::stopped);
  constexpr std::int64_t kMostWork = 20'000;
  const auto mended = exchange(problem_, failed->point, kMostWork, work_);
  if (mended) (void)judge_plan(exact_point(*mended), "an earlier answer, mended");
  return hand_out(End::stopped);
}

// True where some heuristic looked: the relaxation may have moved on.
bool Worker::propose(NodeView::Moment moment) {
  const std::function<std::vector<double>()> reduced_costs = [&] {
    return relaxation_.reduced_costs();
  };
  std::function<std::optional<std::vector<double>>(Problem, std::int64_t)> part_search;
  if (problem_.complete())  // else its generator's twins are the coordinator's to make
    part_search = [this](Problem part, std::int64_t nodes) {
      return search_part(std::move(part), nodes);
    };
  const auto work = [&] { return work_.units() + relaxation_.simplex().work().units(); };
  std::vector<double> point;  // a copy, since a plan that is tried moves the relaxation
  for (std::size_t k = 0; k < heuristics_.size(); ++k) {
    NodeView node{.moment = moment,
                  .domain = domain_,
                  .propagation = propagation_,
                  .point = relaxation_.point(),
                  .reduced_costs = reduced_costs,
                  .cutoff = cutoff(),
                  .depth = task_->depth,
                  .nodes = nodes_,
                  .work = work_,
                  .relaxation = relaxation_,
                  .spent = work(),
                  .own_pivots = out_.counts.pivots,
                  .interrupt = interrupt_,
                  .best_plan = best_point_,
                  .history = pseudo_costs_,
                  .part_search = part_search};
    if (interrupt_.now()) break;  // a look may cost as much as the limit
    if (!heuristics_[k]->wants(node)) continue;
    if (point.empty()) point.assign(node.point.begin(), node.point.end());
    node.point = point;
    Tally& tally = heuristic_tallies_[k];
    const std::int64_t before = work();
    const std::size_t plans = out_.plans.size();
    if (const auto proposed = heuristics_[k]->look(node))
      (void)try_plan(*proposed, heuristics_[k]->name());
    ++tally.calls;
    tally.work += work() - before;
    tally.steps += static_cast<std::int64_t>(out_.plans.size() - plans);
  }
  return !point.empty();
}

NodeOutcome Worker::complete_start() {
  constexpr std::int64_t kNodes = 500;
  Problem part = problem_;
  for (const auto& [j, value] : options_.start) {
    const double v = value.to_double();
    if (!problem_.integer(j) || !value.is_integer() || v < part.lower(j) || v > part.upper(j))
      continue;
    part.set_bounds(j, v, v);
  }
  if (!problem_.complete()) return hand_out(End::stopped);
  SearchResult inner = sub_search_(std::move(part), judge_, part_options(kNodes));
  take_work_of(inner);
  if (!inner.plan) return hand_out(End::stopped);
  out_.start_goal = inner.goal;
  (void)judge_plan(*inner.plan, "the start");
  return hand_out(End::stopped);
}

SearchOptions Worker::part_options(std::int64_t nodes) const {
  SearchOptions options = for_part(options_);
  options.nodes = std::min(nodes, options_.nodes - nodes_);
  options.seconds = options_.seconds - clock_.seconds();
  options.near_plan = options.probing = options.structures = options.brief_look = false;
  options.basis = {};
  return options;
}

void Worker::take_work_of(const SearchResult& inner) {
  work_.add(inner.counts.work);
  out_.counts.pivots += inner.counts.pivots;
}

// The best plan, if there is one, is told first, so that only better ones count.
std::optional<std::vector<double>> Worker::search_part(Problem part, std::int64_t nodes) {
  SearchOptions options = part_options(nodes);
  if (best_plan_) options.plans.push_back(*best_plan_);
  const SearchResult inner = sub_search_(std::move(part), judge_, std::move(options));
  take_work_of(inner);
  if (!inner.plan || (best_plan_ && *inner.plan == *best_plan_)) return std::nullopt;  // no news
  return in_doubles(*inner.plan);
}

// Visits what the node can still hold below the best plan; true where that was all.
bool Worker::enumerate_rest(double bound) {
  if (best_ == kInf || options_.any_plan || !options_.enumeration || !std::isfinite(bound))
    return false;
  // Where it fails more often than not it is tried more rarely.
  constexpr std::int64_t kMostPoints = 5'000, kPatience = 4;
  Tally& tally = rest_tally_;
  const std::int64_t failures = 2 * tally.conflicts - tally.calls, before = work_.units();
  if (failures > kPatience && nodes_ % std::min<std::int64_t>(failures, 64) != 0) return false;
  BestPoint rest(cutoff(), bound);
  const bool complete = enumerate(problem_, domain_, {reduced_, &relaxation_.simplex().program()},
                                  rest, kMostPoints, work_);
  const bool judged = !rest.found() ||
                      judge_plan(exact_point(rest.point()), "looking through the rest of a branch");
  ++tally.calls;
  tally.work += work_.units() - before;
  tally.steps += rest.found() && judged ? 1 : 0;
  if (!complete) ++tally.conflicts;
  return complete && judged;
}

// Integers are rounded and fixed, reals solved again around them, and the vertex taken exactly.
// Whatever comes out is judged as stated.
bool Worker::try_plan(std::span<const double> point, std::string_view by) {
  std::vector<double> rounded(point.begin(), point.end());
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j)) rounded[at(j)] = std::round(rounded[at(j)]);
  if (problem_.num_integers() == problem_.num_columns())
    return judge_plan(exact_point(rounded), by);

  const std::size_t mark = domain_.mark();
  bool possible = true;
  for (Index j = 0; j < problem_.num_columns() && possible; ++j)
    if (problem_.integer(j))
      possible = domain_.raise_lower(j, rounded[at(j)]) && domain_.drop_upper(j, rounded[at(j)]);
  bool accepted = false;
  if (possible) {
    relaxation_.follow(domain_, true);
    const lp::Report report = relaxation_.solve({.interrupt = interrupt_});
    out_.counts.pivots += report.pivots;
    if (report.status == lp::Status::optimal) {
      const auto judge_vertex = [&] {
        const auto exact = relaxation_.exact_values(exact_limits());
        return exact && judge_plan(*exact, by);
      };
      accepted = judge_vertex() || judge_plan(exact_point(relaxation_.point()), by);
      // The vertex misses some limit by what tolerances let through.
      if (!accepted && relaxation_.refine(exact_limits()) == lp::Status::optimal)
        accepted = judge_vertex();
    }
  }
  domain_.undo_to(mark);
  return accepted;
}

}  // namespace kiteknot::mip
