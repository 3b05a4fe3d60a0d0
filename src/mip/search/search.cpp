#include "mip/search/search.hpp"

#include <algorithm>
#include <cmath>
#include <new>

#include "base/check.hpp"
#include "mip/propagators/whole_equations.hpp"
#include "mip/structures/knapsack.hpp"
#include "mip/structures/network.hpp"

namespace kiteknot::mip {

namespace {

// Beside or into the one of the same name.
void add_part(std::vector<PartTally>& parts, PartTally part) {
  const auto it = std::find_if(parts.begin(), parts.end(), [&](const PartTally& p) {
    return p.kind == part.kind && p.name == part.name;
  });
  if (it == parts.end()) {
    parts.push_back(std::move(part));
    return;
  }
  it->tally.calls += part.tally.calls;
  it->tally.work += part.tally.work;
  it->tally.steps += part.tally.steps;
  it->tally.conflicts += part.tally.conflicts;
}

}  // namespace

Search::Search(Problem problem, Judge judge, SearchOptions options, Listener* listener)
    : judge_(std::move(judge)),
      options_(std::move(options)),
      listener_(listener),
      interrupt_{&clock_, options_.seconds, options_.stop},
      worker_(std::move(problem), judge_, options_, clock_, &sub_search),
      incumbents_(worker_.problem().goal_step(), options_.few),
      record_(options_.record_nodes) {}

SearchResult sub_search(Problem problem, const Judge& judge, SearchOptions options) {
  return Search(std::move(problem), judge, std::move(options)).run();
}

SearchResult Search::run() {
  if (!worker_.bounds_in_order()) {
    result_.outcome = Outcome::infeasible;
    result_.relaxed.status = lp::Status::infeasible;
    result_.seconds = clock_.seconds();
    return std::move(result_);
  }
  NodeOutcome given = worker_.try_given_plans();
  take_counts(given);
  take_plans(given);
  if (options_.known_bound == kInf && !incumbents_.any()) {
    result_.outcome = Outcome::infeasible;
  } else if (start()) {
    try {
      brief_ = options_.presolve && worker_.problem().num_integers() > 0;
      work_before_ = result_.work;
      loop();
      if (std::exchange(brief_, false) && goes_on()) search_inside();
      if (goes_on()) loop();
    } catch (const std::bad_alloc&) {  // the best plan, and what is proven, are kept
      unresolved_bound_ = std::min({unresolved_bound_, current_bound_, global_bound(kInf)});
      drop_tree();
      result_.stopped_by = StoppedBy::memory;
    }
    conclude();
  }
  const bool whole = result_.outcome == Outcome::optimal || result_.outcome == Outcome::infeasible;
  const double surely = whole ? kInf : result_.bound;
  tell_in_place(surely);
  incumbents_.hand_over(result_, surely);
  result_.pivots += result_.look_pivots;
  if (!result_.pseudo_costs) result_.pseudo_costs = worker_.take_pseudo_costs();
  result_.parts = worker_.parts();
  if (result_.tree.empty()) result_.tree = record_.take();
  if (overflow_.ever() > 0)
    result_.parts.push_back({"tree", "branches that waited on disk", {.calls = overflow_.ever()}});
  for (PartTally& part : inside_) add_part(result_.parts, std::move(part));
  result_.seconds = clock_.seconds();
  return std::move(result_);
}

// The relaxation as it came; true where the tree search should follow.
bool Search::start() {
  start_from_network();
  RootOutcome root = worker_.solve_as_stated();
  result_.relaxed = std::move(root.relaxed);
  result_.pivots += root.pivots;
  result_.root_pivots = root.pivots;
  result_.work += root.work;
  if (root.endless) {
    answer_unbounded();
    return false;
  }
  result_.root_basis = root.basis;
  WorkCounter work;
  work.obey(interrupt_);
  if (result_.relaxed.status == lp::Status::infeasible || !root.possible ||
      equations_unsolvable(worker_.problem(), work)) {
    result_.outcome = Outcome::infeasible;
    return false;
  }
  result_.work += work.units();
  if (!options_.start.empty()) {
    NodeOutcome started = worker_.complete_start();
    take_counts(started);
    take_plans(started);
    result_.start_goal = std::move(started.start_goal);
  }
  if (options_.structures && !options_.any_plan) solve_structure();
  Node node;
  node.bound = root.bound;
  std::shared_ptr<const BasisDifference> full;
  node.basis = BasisDifference::keep({std::move(root.basis), {}}, full);
  root_node_ = next_ = tree_.add(std::move(node));
  record_.clear();
  record_new(root_node_, kNoNode);
  Node stays;
  stays.parent = root_node_;
  (void)tree_.add(std::move(stays));  // what comes back from disk comes back below the root
  return true;
}

void Search::answer_unbounded() {
  NodeOutcome found = worker_.settle_endless_root();
  take_counts(found);
  result_.stopped_by = found.stopped_by;
  if (found.end == NodeOutcome::End::closed) {
    result_.outcome = Outcome::infeasible;
    return;
  }
  result_.reason = found.reason;
  if (found.plans.empty()) return;
  incumbents_.replace(std::move(found.plans.back()));
  result_.ray = std::move(found.ray);
  result_.outcome = result_.ray ? Outcome::unbounded : Outcome::unproven;
}

// A problem that is all one network: its best basis, from which the linear engine goes on.
void Search::start_from_network() {
  constexpr Index kLeastColumns = 500;
  if (!options_.structures || options_.any_plan || !options_.basis.empty()) return;
  WorkCounter work;
  work.obey(interrupt_);
  auto start = network_start(worker_.problem(), kLeastColumns, work);
  result_.work += work.units();
  if (!start) return;
  result_.structure = start->structure;
  result_.structure_method = start->method;
  options_.basis = std::move(start->basis);
}

// A problem that is all one structure: the plan is judged like any other, and its goal is the
// bound.
void Search::solve_structure() {
  constexpr std::int64_t kMostStates = 20'000'000;  // 12 bytes each
  WorkCounter work;
  work.obey(interrupt_);
  const Problem& p = worker_.problem();
  const auto point = solve_knapsack(p, kMostStates, work);
  result_.work += work.units();
  if (!point) return;
  std::vector<Rational> plan;
  double goal = 0.0;  // exact: whole figures
  for (Index j = 0; j < p.num_columns(); ++j) {
    plan.push_back(Rational::exactly((*point)[at(j)]));
    goal += p.cost(j) * (*point)[at(j)];
  }
  Verdict verdict = judge_(plan);
  if (!verdict.accepted || verdict.goal != Rational::exactly(goal)) return;
  options_.known_bound = std::max(options_.known_bound, goal);
  result_.structure = "knapsack";
  result_.structure_method = "a dynamic program";
  NodeOutcome found;
  found.plans.push_back({std::move(plan), std::move(verdict.goal), std::move(verdict.remarks),
                         "a dynamic program for knapsacks", clock_.seconds()});
  take_plans(found);
}

bool Search::goes_on() {
  return (next_ != kNoNode || !open_.empty() || !overflow_.empty()) && !result_.ray &&
         !closes(options_.known_bound) && !out_of_limits();
}

void Search::loop() {
  while (goes_on() && !brief_look_is_over()) {
    if (incumbents_.any() && !open_.best_bound_first()) open_.take_best_bound_first();
    bring_back();
    if (next_ == kNoNode && open_.empty()) return;
    const bool stay = next_ != kNoNode;
    const NodeId id = stay ? std::exchange(next_, kNoNode) : open_.pop();
    if (closes(tree_[id].bound)) {
      ++result_.closed[static_cast<std::size_t>(ClosedBy::bound)];
      record_.closed(tree_[id], ClosedBy::bound, incumbents_.best());
      tree_.close(id);
      continue;
    }
    current_bound_ = tree_[id].bound;
    ++result_.nodes;
    KITEKNOT_ASSERT_INVARIANTS(open_);
    const Task task = task_for(id, stay);
    if (!merge(id, worker_.process(task, snapshot()))) return;
    watch_bound();
    if (listener_ == nullptr) continue;
    const Standing now = standing(kInf);
    tell_in_place(now.bound);
    listener_->progress(now);
  }
}

// Of the best few those that a bound of all that is left to find proves to be in their place.
void Search::tell_in_place(double bound) {
  if (options_.few.count == 0 || listener_ == nullptr) return;
  for (const Found* found : incumbents_.in_place(bound, few_told_))
    listener_->in_place(few_told_++, found->plan, found->goal);
}

Task Search::task_for(NodeId id, bool stay) {
  const Node& node = tree_[id];
  Task task;
  task.number = node.number;
  task.depth = node.depth;
  task.bound = node.bound;
  task.brief = brief_;
  task.stay = stay && node.depth > 0;
  task.branched = node.branched;
  task.basis = node.basis;
  // A better plan makes the root tighter: the worker starts its way there.
  const bool afresh = !task.stay && root_ && incumbents_.best() < root_fixed_for_;
  if (afresh) root_fixed_for_ = incumbents_.best();
  task.stops =
      tree_.legs_to(id, afresh ? std::span<const std::int64_t>() : worker_.way(), task.legs);
  return task;
}

SharedKnowledge Search::snapshot() const {
  SharedKnowledge known;
  if (const Rational* goal = incumbents_.goal()) known.goal = *goal;
  known.best = incumbents_.best();
  known.plan = incumbents_.shared();
  known.nodes = result_.nodes;
  known.pivots = result_.pivots;
  known.root = root_;
  return known;
}

// False where the search ends here.
bool Search::merge(NodeId id, NodeOutcome outcome) {
  KITEKNOT_ASSERT(outcome.bound >= tree_[id].bound, "a part is bounded as well as the whole");
  take_counts(outcome);
  tree_.raise_bound(id, outcome.bound);
  current_bound_ = outcome.bound;
  if (!outcome.reason.empty() && (result_.reason.empty() || outcome.by != ClosedBy::unresolved))
    result_.reason = outcome.reason;
  if (outcome.ray) {
    incumbents_.replace(std::move(outcome.plans.back()));
    result_.ray = std::move(outcome.ray);
    open_.push(id, tree_[id]);
    return false;
  }
  record_.looked_at(tree_[id], outcome.bound);
  const double best_before = incumbents_.best();
  take_plans(outcome);
  record_plans(id, best_before);
  if (tree_[id].depth == 0) result_.root_bound = outcome.bound;
  if (outcome.root) root_ = outcome.root;
  switch (outcome.end) {
    case NodeOutcome::End::stopped:
      if (outcome.stopped_by == StoppedBy::memory) throw std::bad_alloc();
      open_.push(id, tree_[id]);
      result_.stopped_by = outcome.stopped_by;
      if (outcome.stopped_by == StoppedBy::nothing) (void)out_of_limits();
      return false;
    case NodeOutcome::End::divided:
      divide(id, outcome);
      break;
    case NodeOutcome::End::closed:
      close(id, outcome);
      break;
  }
  return true;
}

void Search::close(NodeId id, const NodeOutcome& outcome) {
  ++result_.closed[static_cast<std::size_t>(outcome.by)];
  if (outcome.by == ClosedBy::nearly) loose_bound_ = std::min(loose_bound_, outcome.bound);
  if (outcome.by == ClosedBy::unresolved)
    unresolved_bound_ = std::min(unresolved_bound_, outcome.bound);
  record_.closed(tree_[id], outcome.by, incumbents_.best());
  tree_.close(id);
}

void Search::divide(NodeId id, NodeOutcome& outcome) {
  const std::shared_ptr<const BasisDifference> basis =
      outcome.basis ? outcome.basis : tree_[id].basis;
  if (outcome.basis) {
    bases_bytes_ += static_cast<double>(outcome.basis->bytes());
    ++bases_;
  }
  for (Child& c : outcome.children) {
    Node child;
    child.parent = id;
    child.depth = tree_[id].depth + 1;
    child.number = ++next_number_;
    child.bound = outcome.bound;
    child.estimate = outcome.estimate;
    child.changes = std::move(c.changes);
    child.branched = c.branched;
    if (bases_kept_) child.basis = basis;
    const NodeId made = tree_.add(std::move(child));
    record_new(made, id);
    if (next_ == kNoNode)
      next_ = made;
    else
      open_.push(made, tree_[made]);
  }
  record_.divided(tree_[id]);
  tree_.forget_basis(id);  // the children share it
}

void Search::take_counts(const NodeOutcome& outcome) {
  result_.nodes += outcome.nodes;
  result_.pivots += outcome.pivots;
  result_.look_pivots += outcome.look_pivots;
  result_.generated_rows += outcome.generated_rows;
  result_.cuts += outcome.cuts;
  result_.work += outcome.work;
}

void Search::take_plans(NodeOutcome& outcome) {
  constexpr std::size_t kMostHistory = 2000;
  for (Found& found : outcome.plans) {
    const double seconds = found.seconds;
    if (!incumbents_.offer(std::move(found))) continue;
    Standing now = standing(current_bound_);
    now.seconds = seconds;
    if (result_.history.size() < kMostHistory) result_.history.push_back(now);
    if (listener_ != nullptr) listener_->better_plan(now, incumbents_.plan().plan);
  }
}

}  // namespace kiteknot::mip
