#include "mip/search/search.hpp"

#include <algorithm>
#include <cmath>
#include <new>

#include "base/check.hpp"
#include "base/interval.hpp"
#include "mip/propagators/probing.hpp"
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

// Whole columns that are not basic stand at whole bounds.
void Search::find_fractional() {
  fractional_.clear();
  const std::span<const double> point = relaxation_.point();
  for (const Index j : relaxation_.simplex().basic()) {
    if (j >= problem_.num_columns() || !problem_.integer(j) || domain_.fixed(j)) continue;
    const double fraction = point[at(j)] - std::floor(point[at(j)]);
    if (std::min(fraction, 1.0 - fraction) > Tolerances{}.integrality) fractional_.push_back(j);
  }
  std::sort(fractional_.begin(), fractional_.end());
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

// In plain arithmetic where that decides as much as outward rounding would.
double Search::certain_bound(const Node& node, std::vector<Interval>& reduced) {
  lp::Simplex& simplex = relaxation_.simplex();
  const double bound = simplex.bound(&reduced);
  if (node.depth > 0 && (closes(bound) || !closes(add_up(bound, 2.0 * simplex.bound_radius()))))
    return bound;
  return simplex.sharp_bound(&reduced);
}

lp::Report Search::relax(bool loose, bool quick) {
  relaxation_.follow(domain_, loose);
  lp::Report report =
      relaxation_.solve({.cutoff = cutoff().target(), .quick = quick, .interrupt = interrupt_});
  result_.pivots += report.pivots;
  return report;
}

// Local rows hold below the present node; where there is none they rule this one point out.
Index Search::separate(std::span<const double> point, bool integral) {
  if (separation_.empty()) return 0;
  const std::vector<double> copy(point.begin(), point.end());
  constexpr std::int64_t kNowhere = std::numeric_limits<std::int64_t>::max();
  const Index added = separation_.run(
      {domain_, copy, integral}, here_ != nullptr ? here_->number : kNowhere, pool_, relaxation_);
  result_.generated_rows += added;
  return added;
}

Search::NodeEnd Search::process(const std::shared_ptr<Node>& node) {
  std::optional<NodeEnd> end = look_at(node, true);
  while (!end) end = look_at(node, false);
  return *end;
}

// 1. propagate   2. relax, and again while generated rows cut the point off   3. close by bound
// 4. tighten by reduced costs   5. branch, or settle an integral point
// Nothing: a look at children has tightened the node, which is to be looked at again.
std::optional<Search::NodeEnd> Search::look_at(const std::shared_ptr<Node>& node, bool first) {
  if (!propagation_.run(domain_, work_)) return NodeEnd::closed;
  KITEKNOT_ASSERT((propagation_.check_invariants(domain_), true), "activities follow the domain");
  if (node->depth == 0 && first && options_.probing) {
    constexpr std::int64_t kLooks = 20;  // at everything there is
    const std::int64_t most = kLooks * (problem_.rows().num_nonzeros() + problem_.num_columns());
    if (!probe(domain_, propagation_, most, work_)) return NodeEnd::closed;
  }
  constexpr int kFractionRounds = 30;
  std::vector<Interval>& reduced = reduced_;
  double bound = -kInf;
  bool quick = node->depth > 0;  // until the point may be a plan
  for (int round = 0;; ++round) {
    const lp::Report report = relax(false, quick);
    if (report.status == lp::Status::infeasible) return NodeEnd::closed;
    if (report.status == lp::Status::limit) {
      node->bound = std::max(node->bound, relaxation_.simplex().bound());
      (void)out_of_limits();
      return NodeEnd::stopped;
    }
    if (report.status == lp::Status::unbounded) return settle_endless(node);
    if (report.status == lp::Status::undecided) {
      result_.reason = report.reason.empty() ? "a relaxation could not be settled" : report.reason;
      return settle_point(node, false);
    }
    bound = certain_bound(*node, reduced);
    if (node->depth == 0 && std::isfinite(bound)) remember_root(bound, reduced);
    node->bound = std::max(node->bound, bound);
    current_bound_ = node->bound;
    relaxed_goal_ = report.objective;
    if (report.status == lp::Status::optimal && worth_sharpening(node->bound)) sharpen(*node);
    if (closes(node->bound)) return NodeEnd::closed;
    if (report.status == lp::Status::cutoff) return settle_point(node, false);
    if (node->depth == 0 && round == 0) look_around();
    if (round == 0 && first && node->column >= 0)
      pseudo_costs_.learn(node->column, node->up, node->distance,
                          report.objective - node->parent_goal);
    find_fractional();
    const bool integral = fractional_.empty();
    if (integral && quick) {
      quick = false;
      continue;
    }
    if ((integral || round < kFractionRounds) && separate(relaxation_.point(), integral) > 0) {
      if (interrupt_.now()) return (void)out_of_limits(), NodeEnd::stopped;
      continue;
    }
    if (best_ < kInf) {
      const std::size_t before = domain_.mark();
      domain_.because({Reason::By::reduced_cost});
      tighten_by_reduced_costs(domain_, reduced, cutoff().room(bound), relaxation_.ends());
      domain_.because({});
      if (!propagation_.run(domain_, work_)) return NodeEnd::closed;
      // A point outside the tightened domain says nothing about where to branch.
      if (domain_.cuts_off(relaxation_.point(), before)) continue;
    }
    break;
  }
  if (closes(node->bound) || enumerate_rest(bound, reduced)) return NodeEnd::closed;
  nothing_left_ = false;
  const std::optional<Index> chosen = choose_column();
  if (nothing_left_) return NodeEnd::closed;
  if (!chosen) return std::nullopt;
  const Index column = *chosen;
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  pool_.age(relaxation_);
  const auto basis = std::make_shared<const NodeBasis>(pool_.basis(relaxation_));
  if (bases_kept_) node->basis = basis;
  if (column < 0) return settle_point(node, true);
  constexpr int kRoundingEvery = 64;
  if (node->depth == 0 || (best_ == kInf && result_.nodes % 8 == 0) ||
      result_.nodes % kRoundingEvery == 0) {
    round_with_propagation();
    pool_.set_basis(*basis, relaxation_);
    if (closes(node->bound)) return NodeEnd::closed;
  }
  return split(node, split_column(column, point[at(column)]), column, point[at(column)]);
}

// The fractional column to branch on, -1 where there is none; nothing where a look at children left
// only one of them (the domain has it then, or a contradiction).
std::optional<Index> Search::choose_column() {
  if (!options_.strong || fractional_.empty())
    return pseudo_costs_.choose(fractional_, relaxation_.point());
  const Reliability::Choice choice =
      reliability_.choose({fractional_, relaxation_.point(), relaxed_goal_}, domain_, cutoff(),
                          result_.pivots, interrupt_, pseudo_costs_, relaxation_);
  for (const Change& c : choice.implied)
    if (!domain_.apply(c)) nothing_left_ = true;
  nothing_left_ = nothing_left_ || choice.nothing_left;
  if (nothing_left_ || !choice.implied.empty()) return std::nullopt;
  return choice.column;
}

Branching Search::split_column(Index j, double value) const {
  const double below = std::floor(value);
  Branching branching;
  branching.children = {{{Change::What::upper, j, below}}, {{Change::What::lower, j, below + 1.0}}};
  if (PseudoCosts::up_first(value - below)) std::swap(branching.children[0], branching.children[1]);
  return branching;
}

Search::NodeEnd Search::split(const std::shared_ptr<Node>& node, Branching branching, Index column,
                              double value) {
  bool first = true;
  for (std::vector<Change>& changes : branching.children) {
    std::shared_ptr<Node> child = new_node();
    child->parent = node;
    child->bound = node->bound;
    child->depth = node->depth + 1;
    child->number = ++next_number_;
    child->basis = node->basis;
    if (column >= 0) {
      child->column = column;
      child->up = changes.front().what == Change::What::lower;
      child->distance = child->up ? std::ceil(value) - value : value - std::floor(value);
      child->parent_goal = relaxed_goal_;
    }
    child->changes = std::move(changes);
    if (first)
      next_ = std::move(child);
    else
      open_.push(std::move(child));
    first = false;
  }
  node->basis.reset();  // the children share it
  return NodeEnd::branched;
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
