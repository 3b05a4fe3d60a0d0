// One node: what it costs to find out that it holds nothing, or that it goes into parts.

#include "mip/worker/worker.hpp"

#include <algorithm>
#include <cmath>
#include <new>

#include "base/check.hpp"
#include "mip/propagators/probing.hpp"

namespace kiteknot::mip {

namespace {

Index decisions_of(const Problem& problem, const SearchOptions& options) {
  return options.decisions < 0 ? problem.num_columns() : options.decisions;
}

}  // namespace

Worker::Worker(Problem problem, const Judge& judge, const SearchOptions& options,
               const Stopwatch& clock, SubSearch sub_search, std::int32_t number)
    : setting_{judge, options, clock, std::move(sub_search), decisions_of(problem, options)},
      space_(std::move(problem), options, clock, number),
      known_(space_.problem, options),
      ranges_(space_, known_, options),
      brancher_(space_, options),
      cuts_(space_, options),
      finder_(setting_, space_, known_, brancher_.costs(), node_) {
  if (options.given.symmetry)
    orbits_.emplace(*options.given.symmetry, space_.problem.num_columns());
  if (options.node.learning && space_.problem.num_integers() > 0)
    learner_.emplace(space_, brancher_.costs());
  if (!space_.separation.empty())
    space_.propagation.add(
        std::make_unique<RowPropagator>("generated rows", space_.pool.source(), space_.domain));
}

bool Worker::bounds_in_order() const {
  for (Index j = 0; j < space_.problem.num_columns(); ++j)
    if (space_.domain.lower(j) > space_.domain.upper(j)) return false;
  return true;
}

std::vector<PartTally> Worker::parts() const {
  std::vector<PartTally> parts;
  for (std::size_t k = 0; k < space_.propagation.tallies().size(); ++k)
    parts.push_back({"propagator", space_.propagation.name(k), space_.propagation.tallies()[k]});
  for (std::size_t k = 0; k < space_.separation.tallies().size(); ++k)
    parts.push_back({"separator", space_.separation.name(k), space_.separation.tallies()[k]});
  const auto add = [&](std::vector<PartTally> more) {
    parts.insert(parts.end(), more.begin(), more.end());
  };
  add(cuts_.parts());
  parts.push_back({"propagator", "orbits of symmetric columns", orbit_tally_});
  if (learner_) parts.push_back({"learning", "from lost branches", learner_->tally()});
  parts.push_back(brancher_.part());
  add(finder_.parts());
  return parts;
}

NodeOutcome Worker::try_given_plans() {
  finder_.try_given();
  return hand_out(End::stopped);
}

NodeOutcome Worker::build_first_plan() {
  finder_.build_first();
  return hand_out(End::stopped);
}

NodeOutcome Worker::complete_start() {
  finder_.complete_start();
  return hand_out(End::stopped);
}

void Worker::learn(const SharedKnowledge& known) {
  known_.forget_key();
  node_.nodes = known.nodes;
  node_.pivots = known.pivots;
  known_.learn(known);
  bases_.kept = known.keep_bases;
  brancher_.costs().learn_from(known.observations);
  for (const PooledRow& row : known.rows) space_.pool.adopt(row);
  if (learner_)
    for (const Conflict& conflict : known.conflicts) learner_->adopt(conflict);
  if (known.root && !root_.facts()) root_.adopt(known.root, space_);
}

// The outcome goes out with what was spent on it; the next one begins.
NodeOutcome Worker::hand_out(End end) {
  node_.out.end = end;
  node_.out.counts.work = work_since_then();
  node_.out.rows = space_.pool.take_found();
  node_.out.observations = brancher_.costs().take_observations();
  if (learner_) node_.out.conflicts = learner_->take_found();
  node_.task = nullptr;
  return std::exchange(node_.out, {});
}

std::int64_t Worker::work_since_then() {
  const std::int64_t work = space_.spent();
  return work - std::exchange(work_before_, work);
}

Worker::End Worker::closed(ClosedBy by) {
  node_.out.by = by;
  return End::closed;
}

// Brings the domain and the relaxation to the node; false on a conflict.
bool Worker::go_to(const Task& task) {
  if (!task.stay) {
    if (task.stops == 0 && setting_.options.node.price_fixing) {
      root_.tighten(known_, space_);
      if (ranges_.due()) root_.narrow(ranges_, space_);
    }
    if (task.basis) space_.pool.set_basis(task.basis->load(), space_.relaxation);
  }
  if (!space_.path.go(task.stops, task.legs, root_.mark(), space_.domain)) return false;
  space_.pool.enter(
      [&](std::int64_t scope) { return scope == task.number || space_.path.passes(scope); },
      space_.relaxation);
  KITEKNOT_ASSERT(!std::isnan(task.bound), "a bound is a number");
  KITEKNOT_ASSERT_INVARIANTS(space_.domain);
  KITEKNOT_ASSERT_INVARIANTS(space_.path);
  KITEKNOT_ASSERT((space_.pool.check_invariants(space_.relaxation), true),
                  "the pool fits the relaxation");
  return true;
}

NodeOutcome Worker::process(const Task& task, const SharedKnowledge& known) {
  learn(known);
  return work_on(task);
}

NodeOutcome Worker::work_on(const Task& task) {
  node_.task = &task;
  node_.out.bound = task.bound;
  try {
    if (!go_to(task)) return hand_out(closed(ClosedBy::conflict));
    std::optional<End> end = look(true);
    while (!end) end = look(false);
    if (*end == End::divided) {
      if (task.depth == 0) node_.out.root = root_.hand_out(space_.domain, cuts_.came_from_paths());
      space_.path.leave(task.number, space_.domain.mark());
    }
    return hand_out(*end);
  } catch (const std::bad_alloc&) {  // plans that were found are kept
    node_.out.stopped_by = StoppedBy::memory;
    return hand_out(End::stopped);
  }
}

// Before the root of a smooth problem is divided: with a first plan ranges get smaller.
Worker::Ranged Worker::settle_root_ranges() {
  if (space_.problem.exact() || node_.task->depth > 0 || root_ranged_) return Ranged::no;
  root_ranged_ = true;
  const std::vector<double> point(space_.relaxation.point().begin(),
                                  space_.relaxation.point().end());
  finder_.look_locally(point, false);
  if (!known_.any()) return Ranged::no;
  const bool closes = known_.closes(node_.out.bound);
  const std::size_t before = space_.domain.mark();
  if (closes || !ranges_.settle()) {
    (void)closed(closes ? ClosedBy::bound : ClosedBy::conflict);
    return Ranged::closed;
  }
  return space_.domain.mark() == before ? Ranged::no : Ranged::again;
}

// Nothing: strong branching has tightened the node, which is to be looked at again.
std::optional<Worker::End> Worker::look(bool first) {
  const std::size_t stood = space_.domain.mark();
  if (!space_.propagation.run(space_.domain, space_.work)) {
    learn_from_rows();
    return closed(ClosedBy::conflict);
  }
  if (node_.task->depth == 0 && first && !ranges_.settle()) return closed(ClosedBy::conflict);
  space_.relaxation.tighten(space_.domain);
  known_.narrow_to_key(space_.domain);
  if (first && node_.task->branched.column >= 0)
    brancher_.costs().infer(node_.task->branched.column,
                            static_cast<std::int64_t>(space_.domain.mark() - stood));
  KITEKNOT_ASSERT((space_.propagation.check_invariants(space_.domain), true),
                  "activities follow the domain");
  if (node_.task->depth == 0 && first && setting_.options.presolving.probing &&
      !node_.task->brief) {
    constexpr std::int64_t kLooks = 20;  // at everything there is
    const std::int64_t most =
        kLooks * (space_.problem.rows().num_nonzeros() + space_.problem.num_columns());
    if (!probe(space_.domain, space_.propagation, most, space_.work, space_.implied))
      return closed(ClosedBy::conflict);
  }
  if (!fix_by_symmetry()) return closed(ClosedBy::conflict);
  if (const std::optional<End> end = divide_by_domain()) return end;
  double bound = -kInf;
  if (const std::optional<End> end = solve(first, bound)) return end;
  if (known_.closes(node_.out.bound)) return closed(ClosedBy::bound);
  if (finder_.enumerate_rest(bound)) return closed(ClosedBy::remainder);
  return divide();
}

// 1. relax   2. close by the bound   3. while generated rows cut the point off, again   4. tighten
// by reduced costs, and where that cuts the point off, again. Nothing: the node is to be divided.
std::optional<Worker::End> Worker::solve(bool first, double& bound) {
  constexpr int kFractionRounds = 30, kSlackRounds = 10;
  bool quick = node_.task->depth > 0;  // until the point may be a plan
  for (int round = 0;; ++round) {
    const lp::Report report = relax(false, quick);
    const std::optional<End> end = take_report(report, bound);
    if (round == 0 && node_.task->depth > 0 && !space_.domain_rules.empty())
      worth_.solved(end ? 1.0 : closed_share(report.objective));
    if (end) return end;
    // Plans that a generator refuses bring rows in, of whose values nothing is known yet.
    const Index rows = space_.relaxation.simplex().program().num_rows();
    const auto rows_came = [&] { return space_.relaxation.simplex().program().num_rows() != rows; };
    if (node_.task->depth == 0 && round == 0 && (propose_at_root() || rows_came())) continue;
    const Branched& from = node_.task->branched;
    if (round == 0 && first && from.column >= 0)
      brancher_.costs().learn(
          {from.column, from.up, from.distance, report.objective - from.parent_goal});
    find_fractional();
    const bool integral = node_.fractional.empty();
    if (integral && quick) {
      quick = false;
      continue;
    }
    if ((integral || round < kFractionRounds) &&
        finder_.separate(space_.relaxation.point(), integral) > 0) {
      // What was found on the way and is no longer needed leaves on the way; in the end it stays,
      // so that there is one.
      if (round < kFractionRounds) (void)space_.pool.age(space_.relaxation, kSlackRounds);
      if (space_.interrupt.now()) return End::stopped;
      continue;
    }
    if (cuts_.by_point(bound, known_.best(), node_)) {
      if (space_.interrupt.now()) return End::stopped;
      continue;
    }
    // Where little is left, that is less work than cuts are.
    if (node_.task->depth == 0 && round <= 1 && !integral && finder_.enumerate_rest(bound))
      return closed(ClosedBy::remainder);
    if (rows_came()) {
      if (space_.interrupt.now()) return End::stopped;
      continue;
    }
    if (!integral && cut(bound)) {
      if (space_.interrupt.now()) return End::stopped;
      continue;
    }
    if (!known_.any() || !setting_.options.node.price_fixing) return std::nullopt;
    const std::size_t before = space_.domain.mark();
    if (!fix_by_prices(bound)) {
      learn_from_rows();
      return closed(ClosedBy::conflict);
    }
    // A point outside the tightened domain says nothing about where to branch.
    if (!space_.domain.cuts_off(space_.relaxation.point(), before)) return std::nullopt;
  }
}

// Of what the domain leaves open below the best plan.
double Worker::closed_share(double relaxed) const {
  const double least = least_goal(space_.domain), open = known_.best() - least;
  if (std::isinf(least) || relaxed >= known_.best()) return 1.0;
  return std::isinf(open) ? (relaxed > least ? 1.0 : 0.0) : std::max(0.0, relaxed - least) / open;
}

// Where the relaxation says no more than the domain does. Nothing: it is asked.
std::optional<Worker::End> Worker::divide_by_domain() {
  if (space_.domain_rules.empty() || node_.task->depth == 0 || !worth_.leave_out())
    return std::nullopt;
  node_.out.bound = std::max(node_.out.bound, least_goal(space_.domain));
  if (known_.closes(node_.out.bound)) return closed(ClosedBy::bound);
  for (const auto& rule : space_.domain_rules) {
    Branching branching;
    if (!rule->split({space_.domain, brancher_.costs(), known_.point()}, branching)) continue;
    node_.out.estimate = node_.out.bound;
    return split(std::move(branching));
  }
  return std::nullopt;
}

// Before cuts; true where the relaxation moved on the way, and is to be solved again from where it
// was.
bool Worker::propose_at_root() {
  const NodeBasis stand = space_.pool.basis(space_.relaxation);
  const std::int64_t before = space_.relaxation.simplex().work().units();
  (void)finder_.propose(NodeView::Moment::relaxed);
  if (space_.relaxation.simplex().work().units() == before) return false;
  space_.pool.set_basis(stand, space_.relaxation);
  return true;
}

// False: nothing better is left.
bool Worker::fix_by_prices(double bound) {
  space_.domain.because({Reason::By::reduced_cost});
  tighten_by_reduced_costs(space_.domain, node_.costs, known_.cutoff(), bound,
                           space_.relaxation.ends());
  space_.domain.because({});
  return space_.propagation.run(space_.domain, space_.work);
}

// False: nothing better is left that some other part of the search does not have as well.
bool Worker::fix_by_symmetry() {
  if (!orbits_) return true;
  const std::int64_t before = space_.work.units(), steps = orbit_tally_.steps;
  ++orbit_tally_.calls;
  const bool possible = orbits_->fix(space_.domain, orbit_tally_.steps, space_.work);
  orbit_tally_.work += space_.work.units() - before;
  if (possible && orbit_tally_.steps == steps) return true;
  if (possible && space_.propagation.run(space_.domain, space_.work)) return true;
  ++orbit_tally_.conflicts;
  return false;
}

void Worker::learn_from_rows() {
  if (learner_) learner_->from_rows({node_.task->depth, node_.nodes, root_.mark()});
}

void Worker::learn_from_relaxation(bool infeasible) {
  if (!learner_ || setting_.options.any_plan) return;
  learner_->from_relaxation({node_.task->depth, node_.nodes, root_.mark()},
                            infeasible ? std::nullopt : std::optional(known_.cutoff()));
}

// True where the relaxation is to be solved again.
bool Worker::cut(double bound) {
  if (node_.task->depth == 0) return cuts_.at_root(bound, known_.best(), node_);
  return root_.facts() && root_.facts()->cut_by_paths && cuts_.below(bound, known_.best(), node_);
}

// Into two parts at a fraction, or its whole point is settled. Nothing: it is to be looked at
// again.
std::optional<Worker::End> Worker::divide() {
  const Brancher::Choice choice = brancher_.choose(known_, node_);
  if (choice.nothing_left) return closed(ClosedBy::children);
  if (choice.tightened) return std::nullopt;
  const Index column = choice.column;
  const double value = column < 0 ? 0.0 : space_.relaxation.point()[at(column)];
  (void)space_.pool.age(space_.relaxation);
  const auto basis = BasisDifference::keep(space_.pool.basis(space_.relaxation), bases_.full);
  if (bases_.kept) node_.out.basis = basis;
  if (column < 0) {
    const Ranged ranged = settle_root_ranges();
    if (ranged == Ranged::closed) return End::closed;
    if (ranged == Ranged::again) return std::nullopt;
    return settle_point(true);
  }
  if (finder_.propose(NodeView::Moment::divided)) {
    space_.pool.set_basis(basis->load(), space_.relaxation);
    if (known_.closes(node_.out.bound)) return closed(ClosedBy::bound);
  }
  const double below = std::floor(value);
  Branching branching;
  branching.children = {{{Change::What::upper, column, below}},
                        {{Change::What::lower, column, below + 1.0}}};
  node_.out.estimate = brancher_.estimate(node_);
  if (PseudoCosts::up_first(value - below)) std::swap(branching.children[0], branching.children[1]);
  brancher_.split(std::move(branching), column, value, node_);
  return End::divided;
}

}  // namespace kiteknot::mip
