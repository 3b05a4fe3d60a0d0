#include "mip/search/tree_search.hpp"

#include <algorithm>
#include <cmath>
#include <new>

#include "base/check.hpp"
#include "mip/propagators/whole_equations.hpp"
#include "mip/structures/knapsack.hpp"
#include "mip/structures/network.hpp"

namespace kiteknot::mip {
TreeSearch::TreeSearch(Problem problem, Translation terms, SearchOptions options,
                       SolveContext& context, SubSearch sub_search)
    : terms_(std::move(terms)),
      context_(context),
      judge_(terms_.judge_in(context.judge)),
      options_(std::move(options)),
      interrupt_(options_.budget.interrupt(context.clock)),
      sub_search_(std::move(sub_search)),
      worker_(problem, judge_, prepared(problem), context.clock, sub_search_),
      goal_size_(goal_size(worker_.problem())),
      proof_gap_(proof_gap_of(worker_.problem(), options_)),
      record_(options_.record_nodes) {
  context_.incumbents.enter(terms_, worker_.problem());
}

// What the first worker does is told where others may work beside it; what a kept tree knows of
// branching goes to it.
const SearchOptions& TreeSearch::prepared(const Problem& problem) {
  if (options_.crew.threads > 1) options_.budget.pulse = &first_clock_;
  if (options_.keeper != nullptr || options_.given.tree != nullptr || shares())
    mark_ = mark_of(problem);
  restored_ = options_.given.tree != nullptr && mark_ == options_.given.tree->problem;
  if (restored_ && options_.given.tree->pseudo_costs.num_columns() == problem.num_columns())
    options_.given.pseudo_costs = options_.given.tree->pseudo_costs;
  return options_;
}

void TreeSearch::take_given_plans() {
  NodeOutcome given = worker_.try_given_plans();
  counts_ += given.counts;
  take_plans(given);
}

bool TreeSearch::open_root() {
  if (!worker_.bounds_in_order()) {
    root_report_.relaxed.status = lp::Status::infeasible;
    shut_ = true;
    return false;
  }
  start_from_network();
  build_first_plan();
  RootOutcome root = worker_.solve_as_stated();
  root_report_.relaxed = std::move(root.relaxed);
  root_report_.pivots = root.counts.pivots;
  counts_ += root.counts;
  if (root.endless) {
    answer_unbounded();
    return false;
  }
  root_report_.basis = root.basis;
  WorkCounter work;
  work.obey(interrupt_);
  if (root_report_.relaxed.status == lp::Status::infeasible || !root.possible ||
      equations_unsolvable(worker_.problem(), work)) {
    shut_ = true;
    return false;
  }
  counts_.work += work.units();
  if (!options_.given.start.empty()) {
    NodeOutcome started = worker_.complete_start();
    counts_ += started.counts;
    take_plans(started);
    start_goal_ = std::move(started.start_goal);
  }
  if (options_.structures && !options_.any_plan) solve_structure();
  if (restored_) {
    go_on_from(*options_.given.tree);
  } else {
    open_at(std::move(root));
  }
  Node stays;
  stays.parent = root_node_;
  (void)tree_.add(std::move(stays));  // what comes back from disk comes back below the root
  opening_work_ = counts_.work;
  opened_ = true;
  return true;
}

void TreeSearch::open_at(RootOutcome root) {
  Node node;
  node.bound = root.bound;
  std::shared_ptr<const BasisDifference> full;
  node.basis = BasisDifference::keep({std::move(root.basis), {}}, full);
  root_node_ = seats_[0].next = tree_.add(std::move(node));
  record_new(root_node_, kNoNode);
}

void TreeSearch::answer_unbounded() {
  NodeOutcome found = worker_.settle_endless_root();
  counts_ += found.counts;
  stopped_by_ = found.stopped_by;
  if (found.end == NodeOutcome::End::closed) {
    shut_ = true;
    return;
  }
  bounds_.unresolved = -kInf;  // without a direction nothing is known
  reason_ = found.reason;
  if (found.plans.empty()) return;
  context_.incumbents.replace(std::move(found.plans.back()));
  ray_ = std::move(found.ray);
}

// A problem that is all one network: its best basis, from which the linear engine goes on.
void TreeSearch::start_from_network() {
  constexpr Index kLeastColumns = 500;
  if (!options_.structures || options_.any_plan || !options_.given.basis.empty()) return;
  WorkCounter work;
  work.obey(interrupt_);
  auto start = network_start(worker_.problem(), kLeastColumns, work);
  counts_.work += work.units();
  if (!start) return;
  structure_ = {std::string(start->structure), std::string(start->method)};
  options_.given.basis = std::move(start->basis);
}

// Where the relaxation takes long something is known before it.
void TreeSearch::build_first_plan() {
  constexpr std::int64_t kLeastEntries = 20'000;
  if (context_.incumbents.any() || worker_.problem().num_integers() == 0 ||
      !structure_.name.empty())
    return;
  std::int64_t entries = 0;
  for (const auto& kind : worker_.problem().kinds().all())
    entries += kind->num_entries(worker_.problem());
  if (entries < kLeastEntries) return;
  NodeOutcome found = worker_.build_first_plan();
  counts_ += found.counts;
  take_plans(found);
}

// A problem that is all one structure: the plan is judged like any other, and its goal is the
// bound.
void TreeSearch::solve_structure() {
  constexpr std::int64_t kMostStates = 20'000'000;  // 12 bytes each
  WorkCounter work;
  work.obey(interrupt_);
  const Problem& p = worker_.problem();
  const auto point = solve_knapsack(p, kMostStates, work);
  counts_.work += work.units();
  if (!point) return;
  std::vector<Rational> plan;
  double goal = 0.0;  // exact: whole figures
  for (Index j = 0; j < p.num_columns(); ++j) {
    plan.push_back(Rational::exactly((*point)[at(j)]));
    goal += p.cost(j) * (*point)[at(j)];
  }
  Verdict verdict = judge_(plan);
  if (!verdict.accepted || verdict.goal != Rational::exactly(goal)) return;
  options_.given.known_bound = std::max(options_.given.known_bound, goal);
  structure_ = {"knapsack", "a dynamic program"};
  NodeOutcome found;
  found.plans.push_back({std::move(plan), std::move(verdict.goal), std::move(verdict.remarks),
                         "a dynamic program for knapsacks", context_.clock.seconds()});
  take_plans(found);
}

bool TreeSearch::goes_on() {
  return !finished() && !ray_ && !closes(options_.given.known_bound) && !out_of_limits();
}

// The best plan, and what is proven, are kept where memory runs out.
void TreeSearch::run(std::optional<Look> enough) {
  try {
    if (!enough && shares()) join_ranks();
    loop(enough);
    if (!enough && shares()) leave_ranks();
  } catch (const std::bad_alloc&) {
    if (crew_ != nullptr) crew_->stop();  // who is at work looks at the tree
    bounds_.unresolved = std::min(bounds_.unresolved, global_bound());
    drop_tree();
    stopped_by_ = StoppedBy::memory;
  }
}

void TreeSearch::loop(const std::optional<Look>& enough) {
  brief_ = enough.has_value();
  while (goes_on()) {
    if (enough && (counts_.nodes >= enough->nodes || counts_.work - opening_work_ > enough->work))
      return;
    if (!enough && crew_pays()) {
      gather();
      if (crew_ != nullptr) return loop_with_crew();
    }
    Seat& seat = seats_[0];
    bool stay = false;
    const NodeId id = take_node(seat, stay);
    if (id == kNoNode) {
      if (ranks_.joined && !wait_for_nodes()) return;
      continue;
    }
    seat.in_hand = id;
    ++counts_.nodes;
    NodeOutcome outcome = worker_.process(task_for(id, stay), snapshot_for(seat));
    for (Child& child : outcome.children) child.number = ++next_number_;
    if (!merge(seat, std::move(outcome))) return;
    exchange_if_due();
    tell_progress();
  }
}

void TreeSearch::tell_progress() {
  keep_if_due();
  watch_bound();
  if (context_.listener == nullptr) return;
  const Standing now = standing();
  context_.tell_in_place(now.bound);
  context_.listener->progress(now);
}

bool TreeSearch::any_next() const {
  return std::any_of(seats_.begin(), seats_.end(),
                     [](const Seat& seat) { return seat.next != kNoNode; });
}

bool TreeSearch::any_in_hand() const {
  return std::any_of(seats_.begin(), seats_.end(), [](const Seat& seat) {
    return seat.in_hand != kNoNode || !seat.given.empty();
  });
}

NodeId TreeSearch::take_node(Seat& seat, bool& stay) {
  const Incumbents& known = context_.incumbents;
  if (known.any() && !open_.best_bound_first()) open_.take_best_bound_first();
  for (;;) {
    if (seat.next == kNoNode) bring_back();
    stay = seat.next != kNoNode;
    if (!stay && open_.empty()) return kNoNode;
    const NodeId id = stay ? std::exchange(seat.next, kNoNode) : open_.pop();
    if (!closes(tree_[id].bound)) {
      KITEKNOT_ASSERT_INVARIANTS(open_);
      return id;
    }
    ++closed_[static_cast<std::size_t>(ClosedBy::bound)];
    record_.closed(tree_[id], ClosedBy::bound, known.best());
    tree_.close(id);
  }
}

Task TreeSearch::task_of(NodeId id, bool stay) const {
  const Node& node = tree_[id];
  Task task;
  task.number = node.number;
  task.depth = node.depth;
  task.bound = node.bound;
  task.brief = brief_;
  task.stay = stay && node.depth > 0;
  task.branched = node.branched;
  task.basis = node.basis;
  return task;
}

// For the first worker, which stands still.
Task TreeSearch::task_for(NodeId id, bool stay) {
  Task task = task_of(id, stay);
  // A better plan makes the root tighter: the worker starts its way there.
  const bool afresh = !task.stay && root_ && context_.incumbents.best() < root_fixed_for_;
  if (afresh) root_fixed_for_ = context_.incumbents.best();
  task.stops =
      tree_.legs_to(id, afresh ? std::span<const std::int64_t>() : worker_.way(), task.legs);
  return task;
}

SharedKnowledge TreeSearch::snapshot_for(Seat& seat) const {
  SharedKnowledge known = std::exchange(seat.news, {});
  known.goal = context_.incumbents.goal();
  known.best = context_.incumbents.best();
  known.plan = context_.incumbents.shared();
  known.nodes = counts_.nodes;
  known.pivots = counts_.pivots;
  known.root = root_;
  known.keep_bases = bases_.on;
  return known;
}

// False where the search ends here.
bool TreeSearch::merge(Seat& seat, NodeOutcome outcome) {
  const NodeId id = seat.in_hand;
  KITEKNOT_ASSERT(outcome.bound >= tree_[id].bound, "a part is bounded as well as the whole");
  counts_ += outcome.counts;
  gather_for_keeping(outcome);
  gather_for_ranks(outcome);
  tree_.raise_bound(id, outcome.bound);
  if (!outcome.reason.empty() && (reason_.empty() || outcome.by != ClosedBy::unresolved))
    reason_ = outcome.reason;
  if (outcome.ray) {
    context_.incumbents.replace(std::move(outcome.plans.back()));
    ray_ = std::move(outcome.ray);
    seat.in_hand = kNoNode;
    open_.push(id, tree_[id]);
    return false;
  }
  record_.looked_at(tree_[id], outcome.bound);
  const double best_before = context_.incumbents.best();
  take_plans(outcome);
  record_plans(id, best_before);
  if (tree_[id].depth == 0) {
    root_report_.bound = outcome.bound;
    root_report_.seconds = context_.clock.seconds();
  }
  if (outcome.root) root_ = outcome.root;
  switch (outcome.end) {
    case NodeOutcome::End::stopped:
      if (outcome.stopped_by == StoppedBy::memory) throw std::bad_alloc();
      seat.in_hand = kNoNode;
      open_.push(id, tree_[id]);
      stopped_by_ = outcome.stopped_by;
      if (outcome.stopped_by == StoppedBy::nothing) (void)out_of_limits();
      return false;
    case NodeOutcome::End::divided:
      divide(seat, outcome);
      break;
    case NodeOutcome::End::closed:
      close(id, outcome);
      break;
  }
  seat.in_hand = kNoNode;
  return true;
}

void TreeSearch::close(NodeId id, const NodeOutcome& outcome) {
  ++closed_[static_cast<std::size_t>(outcome.by)];
  if (outcome.by == ClosedBy::nearly) bounds_.loose = std::min(bounds_.loose, outcome.bound);
  if (outcome.by == ClosedBy::unresolved)
    bounds_.unresolved = std::min(bounds_.unresolved, outcome.bound);
  record_.closed(tree_[id], outcome.by, context_.incumbents.best());
  tree_.close(id);
}

void TreeSearch::divide(Seat& seat, NodeOutcome& outcome) {
  const NodeId id = seat.in_hand;
  const std::shared_ptr<const BasisDifference> basis =
      outcome.basis ? outcome.basis : tree_[id].basis;
  if (outcome.basis) {
    bases_.bytes += static_cast<double>(outcome.basis->bytes());
    ++bases_.number;
  }
  for (Child& c : outcome.children) {
    Node child;
    child.parent = id;
    child.depth = tree_[id].depth + 1;
    child.number = c.number;
    child.bound = outcome.bound;
    child.estimate = outcome.estimate;
    child.changes = std::move(c.changes);
    child.branched = c.branched;
    if (bases_.on) child.basis = basis;
    const NodeId made = tree_.add(std::move(child));
    record_new(made, id);
    if (seat.next == kNoNode)
      seat.next = made;
    else
      open_.push(made, tree_[made]);
  }
  record_.divided(tree_[id]);
  tree_.forget_basis(id);  // the children share it
}

void TreeSearch::take_plans(NodeOutcome& outcome) {
  constexpr std::size_t kMostHistory = 2000;
  for (Found& found : outcome.plans) {
    const double seconds = found.seconds;
    std::optional<ToldPlan> told;
    if (ranks_.joined && ranks_.telling) told = {found.plan, found.by};
    if (!context_.incumbents.offer(std::move(found))) continue;
    if (told) options_.ranks->tell(*told);
    Standing now = standing();
    now.seconds = seconds;
    if (context_.history.size() < kMostHistory) context_.history.push_back(now);
    if (context_.listener != nullptr)
      context_.listener->better_plan(now, context_.incumbents.plan().plan);
  }
}

void TreeSearch::hand_over(SearchResult& result) {
  context_.spent += counts_;
  counts_ = {};
  for (std::size_t k = 0; k < kWaysToClose; ++k) result.closed[k] += closed_[k];
  if (!structure_.name.empty()) result.structure = std::move(structure_);
  if (start_goal_) result.start_goal = std::move(start_goal_);
  hand_over_parts(result);
  if (overflow_.ever() > 0)
    add_part(result.parts, {"tree", "branches that waited on disk", {.calls = overflow_.ever()}});
  result.pseudo_costs = terms_.out(worker_.take_pseudo_costs());
  if (std::vector<NodeRecord> tree = record_.take(); !tree.empty())
    result.tree = terms_.out(std::move(tree));
  if (terms_.same()) {
    result.root = std::move(root_report_);
    return;
  }
  result.root.bound = terms_.bound_out(root_report_.bound);
  result.root.seconds = root_report_.seconds;
  if (result.root.left && root_report_.relaxed.status == lp::Status::optimal)
    result.root.left->relaxed_value = terms_.bound_out(root_report_.relaxed.value);
}

}  // namespace kiteknot::mip
