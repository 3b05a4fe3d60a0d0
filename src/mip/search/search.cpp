#include "mip/search/search.hpp"

#include <algorithm>
#include <cmath>
#include <new>

#include "base/check.hpp"
#include "base/interval.hpp"
#include "mip/propagators/whole_equations.hpp"
#include "mip/relaxation/ray.hpp"

namespace kiteknot::mip {

double relative_gap(double value, double bound, double goal_size) {
  if (value == bound) return 0.0;
  constexpr double kLeast = 1e-10;
  return std::abs(value - bound) / std::max(std::abs(value), kLeast * goal_size);
}

Search::Search(Problem problem, Judge judge, SearchOptions options, Listener* listener)
    : problem_(std::move(problem)),
      judge_(std::move(judge)),
      options_(std::move(options)),
      listener_(listener),
      domain_(problem_),
      propagation_(domain_),
      disjunctions_(disjunctions_of(problem_)),
      relaxation_(problem_),
      pool_(problem_, relaxation_),
      separation_(problem_),
      pseudo_costs_(problem_.num_columns()) {
  relaxation_.simplex().set_seed(options_.seed);
  if (options_.pseudo_costs && options_.pseudo_costs->num_columns() == problem_.num_columns())
    pseudo_costs_ = std::move(*options_.pseudo_costs);
  interrupt_.clock = &clock_;
  interrupt_.seconds = options_.seconds;
  interrupt_.stopped = options_.stop;
  work_.obey(interrupt_);
  if (options_.decisions < 0) options_.decisions = problem_.num_columns();
  for (Index j = 0; j < problem_.num_columns(); ++j)
    goal_size_ = std::max(goal_size_, std::abs(problem_.cost(j)));
  if (!separation_.empty())
    propagation_.add(std::make_unique<RowPropagator>("generated rows", pool_.source(), domain_));
}

SearchResult Search::run() {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (domain_.lower(j) > domain_.upper(j)) {
      result_.outcome = Outcome::infeasible;
      result_.relaxed.status = lp::Status::infeasible;
      result_.seconds = clock_.seconds();
      return std::move(result_);
    }
  judge_given_plans();
  if (options_.known_bound == kInf && !result_.plan) {
    result_.outcome = Outcome::infeasible;
  } else if (solve_root()) {
    try {
      loop();
    } catch (const std::bad_alloc&) {  // the best plan, and what is proven, are kept
      next_.reset();
      unresolved_bound_ = std::min({unresolved_bound_, current_bound_, global_bound(kInf)});
      open_ = OpenNodes();
      way_.clear();
      result_.stopped_by = "memory";
    }
    conclude();
  }
  result_.pivots += reliability_.pivots();
  result_.pseudo_costs = std::move(pseudo_costs_);
  result_.work = work_.units() + relaxation_.simplex().work().units();
  result_.seconds = clock_.seconds();
  return std::move(result_);
}

// The relaxation as it came; true where the tree search should follow.
bool Search::solve_root() {
  if (!options_.basis.empty()) relaxation_.simplex().set_basis(options_.basis);
  const lp::Report report = relaxation_.solve({.cutoff = kInf, .interrupt = interrupt_});
  result_.pivots += report.pivots;
  result_.root_pivots = report.pivots;
  RelaxedAnswer& relaxed = result_.relaxed;
  relaxed.status = report.status;
  std::shared_ptr<Node> root = new_node();
  root->bound = -kInf;
  switch (report.status) {
    case lp::Status::infeasible:
      result_.outcome = Outcome::infeasible;
      return false;
    case lp::Status::unbounded:
      // Rows that wait for a condition may be what keeps the goal in; then branching will tell.
      if (problem_.num_conditional_rows() == 0 || exact_ray(problem_, relaxation_.ray())) {
        answer_unbounded();
        return false;
      }
      break;
    case lp::Status::optimal: {
      const auto point = relaxation_.point();
      relaxed.value = report.objective;
      relaxed.point.assign(point.begin(), point.end());
      relaxed.integral = is_integral(point);
      relaxed.row_duals = relaxation_.row_duals();
      relaxed.row_duals.resize(at(problem_.num_rows()));
      relaxed.reduced_costs = relaxation_.reduced_costs();
      if (options_.rooms && problem_.num_integers() == 0) find_rooms();
      break;
    }
    default:
      break;
  }
  result_.root_basis = relaxation_.simplex().basis();
  if (!problem_.round_limits()) {
    result_.outcome = Outcome::infeasible;
    return false;
  }
  if (equations_unsolvable(problem_, work_)) {
    result_.outcome = Outcome::infeasible;
    return false;
  }
  for (Index i = 0; i < problem_.num_rows(); ++i)  // linear rows come first in the relaxation
    relaxation_.set_limits(i, problem_.row_lower(i), problem_.row_upper(i));
  root->bound = relaxation_.simplex().bound();
  root->basis = std::make_shared<const NodeBasis>(NodeBasis{result_.root_basis, {}});
  next_ = std::move(root);
  return true;
}

void Search::find_rooms() {
  RelaxedAnswer& relaxed = result_.relaxed;
  relaxed.degenerate = relaxation_.simplex().degenerate();
  constexpr double kMostWork = 1e9;  // a solve and a pricing for every line
  const lp::Program& program = relaxation_.simplex().program();
  if (static_cast<double>(program.num_rows()) * static_cast<double>(program.num_nonzeros()) >
      kMostWork)
    return;
  for (Index i = 0; i < problem_.num_rows(); ++i) {
    if (interrupt_.now()) return relaxed.limit_rooms.clear();
    relaxed.limit_rooms.push_back(relaxation_.limit_room(i));
  }
  for (Index j = 0; j < problem_.num_columns(); ++j) {
    if (interrupt_.now()) return relaxed.cost_rooms.clear();
    relaxed.cost_rooms.push_back(relaxation_.cost_room(j));
  }
}

bool Search::is_integral(std::span<const double> point) const {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) &&
        std::abs(point[at(j)] - std::round(point[at(j)])) > Tolerances{}.integrality)
      return false;
  return true;
}

Standing Search::standing(double current) const {
  return {clock_.seconds(),
          best_,
          global_bound(current),
          result_.nodes,
          static_cast<std::int64_t>(open_.size()) + (next_ ? 1 : 0),
          result_.found_by};
}

bool Search::out_of_limits() {
  if (interrupt_.by_hand())
    result_.stopped_by = "hand";
  else if (interrupt_.by_time())
    result_.stopped_by = "time";
  else if (result_.nodes >= options_.nodes)
    result_.stopped_by = "nodes";
  else if (out_of_memory())
    result_.stopped_by = "memory";
  else if (options_.gap > 0.0 && best_ < kInf && !closes(global_bound(kInf)) &&
           gap_to(global_bound(kInf)) <= options_.gap)
    result_.stopped_by = "gap";
  return !result_.stopped_by.empty();
}

// What the tree holds, roughly. Bases go first: nodes can do without.
bool Search::out_of_memory() {
  constexpr double kBytesANode = sizeof(Node) + 96.0;  // with its counts and one change
  const double nodes = static_cast<double>(nodes_alive_) * kBytesANode;
  const double bases =
      static_cast<double>(open_.size()) * 5.0 *
      static_cast<double>(problem_.num_columns() + relaxation_.simplex().program().num_rows());
  if (nodes + (bases_kept_ ? bases : 0.0) <= options_.memory_bytes) return false;
  if (bases_kept_) open_.drop_bases();
  bases_kept_ = false;
  return nodes > options_.memory_bytes;
}

void Search::loop() {
  while (next_ || !open_.empty()) {
    if (closes(options_.known_bound)) return;
    if (out_of_limits()) return;
    const bool plunging = next_ != nullptr;
    const std::shared_ptr<Node> node = plunging ? std::move(next_) : open_.pop();
    next_.reset();
    if (closes(node->bound)) continue;
    current_bound_ = node->bound;
    ++result_.nodes;
    bool possible = true;
    if (!plunging || node->depth == 0) {
      possible = enter(node);
    } else {
      for (const Change& c : node->changes) possible = possible && domain_.apply(c);
    }
    if (!possible) continue;
    pool_.enter([&](std::int64_t scope) { return scope == node->number || way_.passes(scope); },
                relaxation_);
    KITEKNOT_ASSERT(!std::isnan(node->bound), "a bound is a number");
    KITEKNOT_ASSERT(!node->parent || node->bound >= node->parent->bound || node->parent->depth == 0,
                    "a part is bounded as well as the whole");
    KITEKNOT_ASSERT_INVARIANTS(domain_);
    KITEKNOT_ASSERT_INVARIANTS(open_);
    KITEKNOT_ASSERT_INVARIANTS(way_);
    here_ = node.get();
    const NodeEnd end = process(node);
    here_ = nullptr;
    switch (end) {
      case NodeEnd::stopped:
        open_.push(node);
        return;
      case NodeEnd::branched:
        if (node->depth == 0) root_mark_ = domain_.mark();  // what the root found out holds for all
        way_.leave(node, domain_.mark());
        break;
      case NodeEnd::closed:
        break;
    }
    if (listener_ != nullptr) listener_->progress(standing(kInf));
  }
}

// Brings the domain to a node that is not a child of the present one; false on a conflict.
bool Search::enter(const std::shared_ptr<Node>& node) {
  tighten_root();
  if (node->basis) pool_.set_basis(*node->basis, relaxation_);
  const bool possible = way_.go_to(node, root_mark_, domain_);
  return possible;
}

void Search::conclude() {
  if (result_.ray) {
    result_.outcome = Outcome::unbounded;
    result_.bound = -kInf;
    result_.reason.clear();
    return;
  }
  const double bound = global_bound(kInf);
  const bool finished = !next_ && open_.empty();
  result_.bound = bound;
  if (result_.plan) {  // best_ may be infinite beside it: a goal beyond the doubles
    if ((finished && unresolved_bound_ == kInf) || closes(bound)) {
      result_.outcome = Outcome::optimal;
      result_.stopped_by.clear();
      result_.reason.clear();
    } else if (options_.gap > 0.0 && gap_to(bound) <= options_.gap) {
      result_.outcome = Outcome::accepted;
    } else {
      result_.outcome = Outcome::unproven;
    }
  } else if (finished && unresolved_bound_ == kInf) {
    result_.outcome = Outcome::infeasible;
  } else {
    result_.outcome = Outcome::undecided;
  }
  if (result_.outcome == Outcome::optimal || result_.outcome == Outcome::infeasible ||
      (!result_.stopped_by.empty() && unresolved_bound_ == kInf))
    result_.reason.clear();
  result_.proven_exactly =
      result_.outcome == Outcome::optimal && bound >= best_ && loose_bound_ >= best_;
  // best_ was rounded up; as a bound it is handed on rounded down.
  if (result_.plan && best_ < kInf && bound >= best_ && Rational::exactly(best_) > result_.goal)
    result_.bound = step_down(best_);
  result_.history.push_back(standing(kInf));
}

}  // namespace kiteknot::mip
