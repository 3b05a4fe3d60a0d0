// One node: what it costs to find out that it holds nothing, or that it goes into parts.

#include "mip/worker/worker.hpp"

#include <algorithm>
#include <cmath>
#include <new>

#include "base/check.hpp"
#include "mip/branching/reliability.hpp"
#include "mip/propagators/probing.hpp"

namespace kiteknot::mip {

Worker::Worker(Problem problem, const Judge& judge, const SearchOptions& options,
               const Stopwatch& clock, SubSearch sub_search, std::int32_t number)
    : problem_(std::move(problem)),
      judge_(judge),
      options_(options),
      clock_(clock),
      sub_search_(std::move(sub_search)),
      decisions_(options.decisions < 0 ? problem_.num_columns() : options.decisions),
      interrupt_{&clock, options.seconds, options.stop},
      domain_(problem_),
      propagation_(domain_),
      disjunctions_(disjunctions_of(problem_)),
      relaxation_(problem_),
      pool_(problem_, relaxation_, number),
      separation_(problem_),
      cutting_(options.any_plan ? CutSwitches::none() : options.cuts),
      below_(options.any_plan || !options.cuts.below ? CutSwitches::none()
                                                     : CutSwitches::only_paths()),
      implied_(options.implied),
      pseudo_costs_(problem_.num_columns()),
      heuristics_(heuristics({.core = options.look_around && !options.any_plan,
                              .rounding = options.rounding,
                              .dives = options.dives,
                              .near_plan = options.near_plan && !options.any_plan,
                              .pump = options.pump})),
      heuristic_tallies_(heuristics_.size()),
      few_(options.few) {
  relaxation_.simplex().set_seed(options_.seed);
  if (options_.pseudo_costs && options_.pseudo_costs->num_columns() == problem_.num_columns())
    pseudo_costs_ = *options_.pseudo_costs;
  pseudo_costs_.keep_observations();
  if (options_.symmetry) orbits_.emplace(*options_.symmetry, problem_.num_columns());
  if (options_.strong)
    rule_ = std::make_unique<Reliability>();
  else
    rule_ = std::make_unique<ByPseudoCosts>();
  work_.obey(interrupt_);
  for (Index j = 0; j < problem_.num_columns(); ++j)
    goal_size_ = std::max(goal_size_, std::abs(problem_.cost(j)));
  if (options_.learning && problem_.num_integers() > 0) {
    auto learned = std::make_unique<LearnedPropagator>(domain_);
    learned_ = learned.get();
    propagation_.add(std::move(learned));
    analysis_.emplace(domain_, pool_, *learned_);
  }
  if (!separation_.empty())
    propagation_.add(std::make_unique<RowPropagator>("generated rows", pool_.source(), domain_));
}

bool Worker::bounds_in_order() const {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (domain_.lower(j) > domain_.upper(j)) return false;
  return true;
}

std::vector<PartTally> Worker::parts() const {
  std::vector<PartTally> parts;
  for (std::size_t k = 0; k < propagation_.tallies().size(); ++k)
    parts.push_back({"propagator", propagation_.name(k), propagation_.tallies()[k]});
  for (std::size_t k = 0; k < separation_.tallies().size(); ++k)
    parts.push_back({"separator", separation_.name(k), separation_.tallies()[k]});
  for (std::size_t k = 0; k < cutting_.size(); ++k)
    parts.push_back({"cuts", cutting_.name(k), cutting_.tallies()[k]});
  for (std::size_t k = 0; k < below_.size(); ++k)
    parts.push_back({"cuts below the root", below_.name(k), below_.tallies()[k]});
  parts.push_back({"propagator", "orbits of symmetric columns", orbit_tally_});
  if (learned_ != nullptr) parts.push_back({"learning", "from lost branches", learning_tally_});
  parts.push_back({"branching", rule_->name(), rule_tally_});
  for (std::size_t k = 0; k < heuristics_.size(); ++k)
    parts.push_back({"heuristic", heuristics_[k]->name(), heuristic_tallies_[k]});
  parts.push_back({"heuristic", "looking through the rest of a branch", rest_tally_});
  return parts;
}

void Worker::learn(const SharedKnowledge& known) {
  nodes_ = known.nodes;
  pivots_ = known.pivots;
  if (known.goal && (!goal_ || *known.goal < *goal_)) {
    goal_ = known.goal;
    best_ = known.best;
    if (known.plan) take_best(known.plan);
  }
  pseudo_costs_.learn_from(known.observations);
  for (const PooledRow& row : known.rows) pool_.adopt(row);
  if (known.root && !root_) adopt_root(known.root);
}

// The outcome goes out with what was spent on it; the next one begins.
NodeOutcome Worker::hand_out(End end) {
  out_.end = end;
  out_.counts.work = work_since_then();
  out_.rows = pool_.take_found();
  out_.observations = pseudo_costs_.take_observations();
  task_ = nullptr;
  return std::exchange(out_, {});
}

std::int64_t Worker::work_since_then() {
  const std::int64_t work = work_.units() + relaxation_.simplex().work().units();
  return work - std::exchange(work_before_, work);
}

Worker::End Worker::closed(ClosedBy by) {
  out_.by = by;
  return End::closed;
}

// Brings the domain and the relaxation to the node; false on a conflict.
bool Worker::go_to(const Task& task) {
  if (!task.stay) {
    if (task.stops == 0) tighten_root();
    if (task.basis) pool_.set_basis(task.basis->load(), relaxation_);
  }
  if (!path_.go(task.stops, task.legs, root_mark_, domain_)) return false;
  pool_.enter([&](std::int64_t scope) { return scope == task.number || path_.passes(scope); },
              relaxation_);
  KITEKNOT_ASSERT(!std::isnan(task.bound), "a bound is a number");
  KITEKNOT_ASSERT_INVARIANTS(domain_);
  KITEKNOT_ASSERT_INVARIANTS(path_);
  KITEKNOT_ASSERT((pool_.check_invariants(relaxation_), true), "the pool fits the relaxation");
  return true;
}

NodeOutcome Worker::process(const Task& task, const SharedKnowledge& known) {
  forget_key();
  learn(known);
  task_ = &task;
  out_.bound = task.bound;
  try {
    if (!go_to(task)) return hand_out(closed(ClosedBy::conflict));
    std::optional<End> end = look(true);
    while (!end) end = look(false);
    if (*end == End::divided) {
      if (task.depth == 0) hand_out_root();
      path_.leave(task.number, domain_.mark());
    }
    return hand_out(*end);
  } catch (const std::bad_alloc&) {  // plans that were found are kept
    out_.stopped_by = StoppedBy::memory;
    return hand_out(End::stopped);
  }
}

// Nothing: strong branching has tightened the node, which is to be looked at again.
std::optional<Worker::End> Worker::look(bool first) {
  const std::size_t stood = domain_.mark();
  if (!propagation_.run(domain_, work_)) {
    learn_from_rows();
    return closed(ClosedBy::conflict);
  }
  narrow_to_key();
  if (first && task_->branched.column >= 0)
    pseudo_costs_.infer(task_->branched.column, static_cast<std::int64_t>(domain_.mark() - stood));
  KITEKNOT_ASSERT((propagation_.check_invariants(domain_), true), "activities follow the domain");
  if (task_->depth == 0 && first && options_.probing && !task_->brief) {
    constexpr std::int64_t kLooks = 20;  // at everything there is
    const std::int64_t most = kLooks * (problem_.rows().num_nonzeros() + problem_.num_columns());
    if (!probe(domain_, propagation_, most, work_, implied_)) return closed(ClosedBy::conflict);
  }
  if (!fix_by_symmetry()) return closed(ClosedBy::conflict);
  double bound = -kInf;
  if (const std::optional<End> end = solve(first, bound)) return end;
  if (closes(out_.bound)) return closed(ClosedBy::bound);
  if (enumerate_rest(bound)) return closed(ClosedBy::remainder);
  return divide();
}

// 1. relax   2. close by the bound   3. while generated rows cut the point off, again   4. tighten
// by reduced costs, and where that cuts the point off, again. Nothing: the node is to be divided.
std::optional<Worker::End> Worker::solve(bool first, double& bound) {
  constexpr int kFractionRounds = 30, kSlackRounds = 10;
  bool quick = task_->depth > 0;  // until the point may be a plan
  for (int round = 0;; ++round) {
    const lp::Report report = relax(false, quick);
    if (const std::optional<End> end = take_report(report, bound)) return end;
    // Plans that a generator refuses bring rows in, of whose values nothing is known yet.
    const Index rows = relaxation_.simplex().program().num_rows();
    const auto rows_came = [&] { return relaxation_.simplex().program().num_rows() != rows; };
    if (task_->depth == 0 && round == 0 && (propose_at_root() || rows_came())) continue;
    const Branched& from = task_->branched;
    if (round == 0 && first && from.column >= 0)
      pseudo_costs_.learn(
          {from.column, from.up, from.distance, report.objective - from.parent_goal});
    find_fractional();
    const bool integral = fractional_.empty();
    if (integral && quick) {
      quick = false;
      continue;
    }
    if ((integral || round < kFractionRounds) && separate(relaxation_.point(), integral) > 0) {
      // What was found on the way and is no longer needed leaves on the way; in the end it stays,
      // so that there is one.
      if (round < kFractionRounds) (void)pool_.age(relaxation_, kSlackRounds);
      if (interrupt_.now()) return End::stopped;
      continue;
    }
    // Where little is left, that is less work than cuts are.
    if (task_->depth == 0 && round <= 1 && !integral && enumerate_rest(bound))
      return closed(ClosedBy::remainder);
    if (rows_came()) {
      if (interrupt_.now()) return End::stopped;
      continue;
    }
    if (!integral && cut(bound)) {
      if (interrupt_.now()) return End::stopped;
      continue;
    }
    if (best_ == kInf || !options_.price_fixing) return std::nullopt;
    const std::size_t before = domain_.mark();
    if (!fix_by_prices(bound)) {
      learn_from_rows();
      return closed(ClosedBy::conflict);
    }
    // A point outside the tightened domain says nothing about where to branch.
    if (!domain_.cuts_off(relaxation_.point(), before)) return std::nullopt;
  }
}

// Before cuts; true where the relaxation moved on the way, and is to be solved again from where it
// was.
bool Worker::propose_at_root() {
  const NodeBasis stand = pool_.basis(relaxation_);
  const std::int64_t before = relaxation_.simplex().work().units();
  (void)propose(NodeView::Moment::relaxed);
  if (relaxation_.simplex().work().units() == before) return false;
  pool_.set_basis(stand, relaxation_);
  return true;
}

// What the relaxation's verdict means for the node, and its bound.
std::optional<Worker::End> Worker::take_report(const lp::Report& report, double& bound) {
  switch (report.status) {
    case lp::Status::infeasible:
      learn_from_relaxation(true);
      return closed(ClosedBy::relaxation);
    case lp::Status::limit:
      out_.bound = std::max(out_.bound, relaxation_.simplex().bound());
      return End::stopped;
    case lp::Status::unbounded:
      return settle_endless();
    case lp::Status::undecided:
      out_.reason = report.reason.empty() ? "a relaxation could not be settled" : report.reason;
      return settle_point(false);
    case lp::Status::optimal:
    case lp::Status::cutoff:
      break;
  }
  bound = certain_bound(reduced_);
  if (task_->depth == 0 && std::isfinite(bound)) remember_root(bound);
  out_.bound = std::max(out_.bound, bound);
  relaxed_goal_ = report.objective;
  if (report.status == lp::Status::optimal && worth_sharpening(out_.bound)) sharpen();
  if (closes(out_.bound)) {
    learn_from_relaxation(false);
    return closed(ClosedBy::bound);
  }
  if (report.status == lp::Status::cutoff) return settle_point(false);
  return std::nullopt;
}

lp::Report Worker::relax(bool loose, bool quick) {
  relaxation_.follow(domain_, loose);
  lp::Report report =
      relaxation_.solve({.cutoff = cutoff().target(), .quick = quick, .interrupt = interrupt_});
  out_.counts.pivots += report.pivots;
  return report;
}

// In plain arithmetic where that decides as much as outward rounding would.
double Worker::certain_bound(std::vector<Interval>& reduced) {
  lp::Simplex& simplex = relaxation_.simplex();
  const double bound = simplex.bound(&reduced);
  if (task_->depth > 0 && (closes(bound) || !closes(add_up(bound, 2.0 * simplex.bound_radius()))))
    return bound;
  return simplex.sharp_bound(&reduced);
}

// Local rows hold below the present node; where there is none they rule this one point out.
Index Worker::separate(std::span<const double> point, bool integral) {
  if (separation_.empty()) return 0;
  const std::vector<double> copy(point.begin(), point.end());
  constexpr std::int64_t kNowhere = std::numeric_limits<std::int64_t>::max();
  const Index added =
      separation_.run({domain_, copy, relaxation_, work_, implied_, integral},
                      task_ != nullptr ? task_->number : kNowhere, pool_, relaxation_);
  out_.counts.generated_rows += added;
  return added;
}

// False: nothing better is left.
bool Worker::fix_by_prices(double bound) {
  domain_.because({Reason::By::reduced_cost});
  tighten_by_reduced_costs(domain_, reduced_, cutoff().room(bound), relaxation_.ends());
  domain_.because({});
  return propagation_.run(domain_, work_);
}

// False: nothing better is left that some other part of the search does not have as well.
bool Worker::fix_by_symmetry() {
  if (!orbits_) return true;
  const std::int64_t before = work_.units(), steps = orbit_tally_.steps;
  ++orbit_tally_.calls;
  const bool possible = orbits_->fix(domain_, orbit_tally_.steps, work_);
  orbit_tally_.work += work_.units() - before;
  if (possible && orbit_tally_.steps == steps) return true;
  if (possible && propagation_.run(domain_, work_)) return true;
  ++orbit_tally_.conflicts;
  return false;
}

// Whole columns that are not basic stand at whole bounds.
void Worker::find_fractional() {
  fractional_.clear();
  const std::span<const double> point = relaxation_.point();
  for (const Index j : relaxation_.simplex().basic()) {
    if (j >= problem_.num_columns() || !problem_.integer(j) || domain_.fixed(j)) continue;
    const double fraction = point[at(j)] - std::floor(point[at(j)]);
    if (std::min(fraction, 1.0 - fraction) > Tolerances{}.integrality) fractional_.push_back(j);
  }
  std::sort(fractional_.begin(), fractional_.end());
}

}  // namespace kiteknot::mip
