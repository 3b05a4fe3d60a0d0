#include "mip/search.hpp"

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "base/interval.hpp"
#include "mip/ray.hpp"

namespace kiteknot::mip {
namespace {
constexpr double kInf = std::numeric_limits<double>::infinity();
}

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
      kinds_(make_kinds(problem_)),
      relaxation_(problem_),
      domain_(problem_),
      pseudo_costs_(problem_.num_columns()) {
  relaxation_.simplex().set_seed(options_.seed);
  if (options_.pseudo_costs && options_.pseudo_costs->num_columns() == problem_.num_columns())
    pseudo_costs_ = std::move(*options_.pseudo_costs);
  interrupt_.clock = &clock_;
  interrupt_.seconds = options_.seconds;
  interrupt_.stopped = options_.stop;
  for (Index j = 0; j < problem_.num_columns(); ++j)
    goal_size_ = std::max(goal_size_, std::abs(problem_.cost(j)));
  for (const auto& kind : kinds_) kind->start(relaxation_);
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
    loop();
    conclude();
  }
  result_.pseudo_costs = std::move(pseudo_costs_);
  result_.work = work_.units() + relaxation_.simplex().work().units();
  result_.seconds = clock_.seconds();
  return std::move(result_);
}

// The relaxation as it came; true where the tree search should follow.
bool Search::solve_root() {
  if (!options_.basis.empty()) relaxation_.simplex().set_basis(options_.basis);
  for (const auto& kind : kinds_) kind->enter(relaxation_, domain_);
  const lp::Report report = relaxation_.solve({.cutoff = kInf, .interrupt = interrupt_});
  result_.pivots += report.pivots;
  result_.root_pivots = report.pivots;
  RelaxedAnswer& relaxed = result_.relaxed;
  relaxed.status = report.status;
  auto root = std::make_shared<Node>();
  root->bound = -kInf;
  switch (report.status) {
    case lp::Status::infeasible:
      result_.outcome = Outcome::infeasible;
      return false;
    case lp::Status::unbounded:
      // Rows that wait for a condition may be what keeps the goal in; then branching will tell.
      if (problem_.conditional_rows().empty() || exact_ray(problem_, relaxation_.ray())) {
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
  for (Index i = 0; i < problem_.num_rows(); ++i)  // linear rows come first in the relaxation
    relaxation_.set_limits(i, problem_.row_lower(i), problem_.row_upper(i));
  root->bound = relaxation_.simplex().bound();
  root->basis = std::make_shared<lp::Basis>(result_.root_basis);
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

// The relaxed goal has no end. With a plan and a direction that holds exactly, neither has the
// goal.
void Search::answer_unbounded() {
  const std::vector<double> ray = relaxation_.ray();
  Problem goalless = problem_;
  goalless.clear_goal();
  SearchOptions options = options_;
  options.any_plan = true;
  options.seconds = options_.seconds - clock_.seconds();
  options.basis = relaxation_.simplex().basis();
  SearchResult inner = Search(goalless, judge_, options).run();
  result_.nodes = inner.nodes;
  result_.pivots += inner.pivots;
  result_.stopped_by = inner.stopped_by;
  if (inner.outcome == Outcome::infeasible) {
    result_.outcome = Outcome::infeasible;
    return;
  }
  if (!inner.plan) {
    result_.reason =
        "the relaxed goal has no end, and no plan was found that would show it for whole decisions";
    return;
  }
  result_.plan = std::move(inner.plan);
  result_.found_by = inner.found_by;
  result_.goal = judge_(*result_.plan).goal;
  result_.ray = exact_ray(problem_, ray);
  if (result_.ray) {
    result_.outcome = Outcome::unbounded;
  } else {
    result_.outcome = Outcome::unproven;
    result_.reason =
        "the relaxed goal has no end, but the direction could not be confirmed exactly";
  }
}

bool Search::is_integral(std::span<const double> point) const {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) &&
        std::abs(point[at(j)] - std::round(point[at(j)])) > Tolerances{}.integrality)
      return false;
  return true;
}

// Of the best plan, relative to its value as the user states it.
double Search::gap_to(double bound) const {
  return relative_gap(best_ + options_.goal_offset, bound + options_.goal_offset, goal_size_);
}

// Whether a node with this bound holds nothing better than the best plan. Where the goal moves in
// steps, only a bound above best - step is needed.
bool Search::closes(double bound) const {
  if (best_ == kInf) return false;
  if (options_.any_plan || bound >= best_) return true;
  const double step = problem_.goal_step();
  if (step > 0.0) return bound > step_up(best_ - step);
  return gap_to(bound) <= kProofGap || best_ - bound <= kProofGapNearZero * goal_size_;
}

bool Search::closed_by_bound(const Node& node) {
  if (!closes(node.bound)) return false;
  closed_bound_ = std::min(closed_bound_, node.bound);
  return true;
}

double Search::global_bound(double current) const {
  double bound = std::min({current, closed_bound_, unresolved_bound_, best_});
  if (!open_.empty()) bound = std::min(bound, open_.best_bound());
  if (next_) bound = std::min(bound, next_->bound);
  bound = std::max(bound, std::min(options_.known_bound, best_));
  const double step = problem_.goal_step();
  if (step > 0.0 && std::isfinite(bound)) {  // lift to the next value that a plan can have
    const double lifted = std::ceil(divide_down(bound, step)) * step;
    bound = std::min(std::max(bound, lifted), best_);
  }
  return bound;
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
  else if (options_.gap > 0.0 && best_ < kInf && !closes(global_bound(kInf)) &&
           gap_to(global_bound(kInf)) <= options_.gap)
    result_.stopped_by = "gap";
  return !result_.stopped_by.empty();
}

void Search::loop() {
  while (next_ || !open_.empty()) {
    if (closes(options_.known_bound)) return;
    if (out_of_limits()) return;
    const bool plunging = next_ != nullptr;
    const std::shared_ptr<Node> node = plunging ? std::move(next_) : open_.pop();
    next_.reset();
    if (closed_by_bound(*node)) continue;
    current_bound_ = node->bound;
    ++result_.nodes;
    bool possible = true;
    if (!plunging || node->depth == 0) {
      possible = enter(*node);
    } else {
      for (const Change& c : node->changes) possible = possible && domain_.apply(c);
    }
    if (!possible) continue;
    if (process(node) == NodeEnd::stopped) {
      open_.push(node);
      return;
    }
    if (listener_ != nullptr) listener_->progress(standing(kInf));
  }
}

// Brings the domain to a node that is not a child of the present one; false on a conflict.
bool Search::enter(const Node& node) {
  domain_.undo_to(root_mark_);
  tighten_root();
  if (node.depth == 0) domain_.touch_all();
  if (node.basis) relaxation_.simplex().set_basis(*node.basis);
  const std::vector<Change> path = node.path();
  return std::all_of(path.begin(), path.end(), [&](const Change& c) { return domain_.apply(c); });
}

lp::Report Search::relax(bool loose) {
  relaxation_.take_bounds(domain_, loose);
  for (const auto& kind : kinds_) kind->enter(relaxation_, domain_);
  double cutoff = kInf;
  if (best_ < kInf)
    cutoff = problem_.goal_step() > 0.0 ? step_up(best_ - problem_.goal_step()) : best_;
  lp::Report report = relaxation_.solve({.cutoff = cutoff, .interrupt = interrupt_});
  result_.pivots += report.pivots;
  return report;
}

Index Search::separate(std::span<const double> point, bool integral) {
  Index added = 0;
  const std::vector<double> copy(point.begin(), point.end());
  for (const auto& kind : kinds_) added += kind->separate(relaxation_, copy, integral);
  result_.generated_rows += added;
  return added;
}

// 1. propagate   2. relax, and again while generated rows cut the point off   3. close by bound
// 4. tighten by reduced costs   5. branch, or settle an integral point
Search::NodeEnd Search::process(const std::shared_ptr<Node>& node) {
  if (!propagate(domain_, kinds_, work_)) return NodeEnd::closed;
  constexpr int kFractionRounds = 30;
  std::vector<Interval> reduced;
  double bound = -kInf;
  for (int round = 0;; ++round) {
    const lp::Report report = relax();
    if (report.status == lp::Status::infeasible) return NodeEnd::closed;
    if (report.status == lp::Status::limit) {
      node->bound = std::max(node->bound, relaxation_.simplex().bound());
      (void)out_of_limits();
      return NodeEnd::stopped;
    }
    if (report.status == lp::Status::unbounded || report.status == lp::Status::undecided) {
      result_.reason = report.reason.empty() ? "a relaxation could not be settled" : report.reason;
      return settle_point(node, false);
    }
    bound = relaxation_.simplex().bound(&reduced);
    if (node->depth == 0 && std::isfinite(bound)) remember_root(bound, reduced);
    node->bound = std::max(node->bound, bound);
    current_bound_ = node->bound;
    relaxed_goal_ = report.objective;
    if (closed_by_bound(*node)) return NodeEnd::closed;
    if (report.status == lp::Status::cutoff) return leave_unresolved(node);
    if (node->depth == 0 && round == 0) look_around();
    if (round == 0 && node->column >= 0)
      pseudo_costs_.learn(node->column, node->up, node->distance,
                          report.objective - node->parent_goal);
    const bool integral = is_integral(relaxation_.point());
    if ((integral || round < kFractionRounds) && separate(relaxation_.point(), integral) > 0) {
      if (interrupt_.now()) return (void)out_of_limits(), NodeEnd::stopped;
      continue;
    }
    if (best_ < kInf) {
      const std::size_t before = domain_.mark();
      tighten_by_reduced_costs(bound, reduced);
      if (!propagate(domain_, kinds_, work_)) return NodeEnd::closed;
      // A point outside the tightened domain says nothing about where to branch.
      if (domain_.cuts_off(relaxation_.point(), before)) continue;
    }
    break;
  }
  if (closed_by_bound(*node) || enumerate_rest(bound, reduced)) return NodeEnd::closed;
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  const auto basis = std::make_shared<lp::Basis>(relaxation_.simplex().basis());
  node->basis = basis;
  const Index column = pseudo_costs_.choose(domain_, point);
  if (column < 0) return settle_point(node, true);
  constexpr int kRoundingEvery = 64;
  if (node->depth == 0 || (best_ == kInf && result_.nodes % 8 == 0) ||
      result_.nodes % kRoundingEvery == 0) {
    round_with_propagation();
    relaxation_.simplex().set_basis(*basis);
    if (closed_by_bound(*node)) return NodeEnd::closed;
  }
  return split(node, split_column(column, point[at(column)]), column, point[at(column)]);
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
    auto child = std::make_shared<Node>();
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

// The relaxed point has no fractional column (or cannot be trusted). It is offered as a plan; the
// node is closed only if its bound says so or nothing is left to decide.
Search::NodeEnd Search::settle_point(const std::shared_ptr<Node>& node, bool trusted) {
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  if (trusted) {
    Branching branching;
    for (const auto& kind : kinds_)
      if (!kind->check(domain_, point) && kind->branch(domain_, point, branching))
        return split(node, std::move(branching), -1, 0.0);
    (void)try_plan(point, "the relaxation");
    if (best_ < kInf && node->bound < best_ &&
        (problem_.goal_step() == 0.0 || !closes(node->bound))) {
      // Outward rounding may have cost the last digit that the proof needs.
      (void)relax(true);
      const auto exact = lp::exact_bound(relaxation_.simplex().program(),
                                         relaxation_.simplex().basis(), options_.exact);
      if (exact && *exact >= result_.goal)
        node->bound = best_;
      else if (exact)
        node->bound = std::max(node->bound, step_down(exact->to_double()));
    }
    if (closed_by_bound(*node)) return NodeEnd::closed;
  }
  return branch_on_anything(node, point);
}

// Branches on an integer column at its value, or on a condition, while one is open. Then one point
// of the integers is left: the judge decides about it, or, with real columns, it stays unresolved.
Search::NodeEnd Search::branch_on_anything(const std::shared_ptr<Node>& node,
                                           std::span<const double> point) {
  Branching branching;
  Index widest = -1;
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) && !domain_.fixed(j) &&
        (widest < 0 ||
         domain_.upper(j) - domain_.lower(j) > domain_.upper(widest) - domain_.lower(widest)))
      widest = j;
  if (widest >= 0) {
    const double low = domain_.lower(widest), high = domain_.upper(widest);
    double value = std::round(point[at(widest)]);
    if (!std::isfinite(value))
      value = std::isfinite(low) ? low : (std::isfinite(high) ? high : 0.0);
    value = std::clamp(value, low, high);
    const double below = value < high ? value : value - 1.0;
    branching.children = {{{Change::What::upper, widest, below}},
                          {{Change::What::lower, widest, below + 1.0}}};
    return split(node, std::move(branching), -1, 0.0);
  }
  for (Index c = 0; c < problem_.num_conditions(); ++c)
    if (domain_.state(c) == State::open) {
      branching.children = {{{Change::What::condition, c, 1.0}},
                            {{Change::What::condition, c, 0.0}}};
      return split(node, std::move(branching), -1, 0.0);
    }
  if (problem_.num_integers() == problem_.num_columns()) {
    std::vector<double> only;
    for (Index j = 0; j < problem_.num_columns(); ++j) only.push_back(domain_.lower(j));
    (void)try_plan(only, "branching");
    return NodeEnd::closed;
  }
  return leave_unresolved(node);
}

Search::NodeEnd Search::leave_unresolved(const std::shared_ptr<Node>& node) {
  unresolved_bound_ = std::min(unresolved_bound_, node->bound);
  if (result_.reason.empty())
    result_.reason = "the arithmetic did not suffice to settle every part of the search";
  return NodeEnd::closed;
}

// The reduced costs belong to the bounds that the relaxation had.
void Search::remember_root(double bound, const std::vector<Interval>& reduced) {
  root_bound_ = bound;
  root_reduced_ = reduced;
  root_lower_.clear();
  root_upper_.clear();
  for (Index j = 0; j < problem_.num_columns(); ++j) {
    root_lower_.push_back(relaxation_.simplex().program().lower(j));
    root_upper_.push_back(relaxation_.simplex().program().upper(j));
  }
}

// A better plan than the one last used at the root makes bounds tighter for the whole tree.
void Search::tighten_root() {
  if (root_reduced_.empty() || best_ >= root_fixed_for_) return;
  root_fixed_for_ = best_;
  tighten_by_reduced_costs(root_bound_, root_reduced_);
  if (!propagate(domain_, kinds_, work_)) domain_.undo_to(root_mark_);  // every node will find out
  root_mark_ = domain_.mark();
}

// With bound B and reduced cost d > 0 of a column at its lower bound, a plan better than the best
// has x <= lower + (best - step - B) / d; likewise from above.
void Search::tighten_by_reduced_costs(double bound, const std::vector<Interval>& reduced) {
  if (!std::isfinite(bound)) return;
  const double target = problem_.goal_step() > 0.0 ? best_ - problem_.goal_step() : best_;
  const double room = add_up(target, -bound);
  if (room < 0.0) return;
  const lp::Program& program = relaxation_.simplex().program();
  const bool at_root = &reduced == &root_reduced_;
  for (Index j = 0; j < problem_.num_columns(); ++j) {
    if (!problem_.integer(j) || domain_.fixed(j)) continue;
    const Interval d = reduced[at(j)];
    const double low = at_root ? root_lower_[at(j)] : program.lower(j);
    const double high = at_root ? root_upper_[at(j)] : program.upper(j);
    if (d.low > 0.0 && std::isfinite(low))
      (void)domain_.drop_upper(j, low + std::floor(divide_up(room, d.low)));
    else if (d.high < 0.0 && std::isfinite(high))
      (void)domain_.raise_lower(j, high - std::floor(divide_up(room, -d.high)));
  }
}

void Search::conclude() {
  const double bound = global_bound(kInf);
  const bool finished = !next_ && open_.empty();
  result_.bound = bound;
  if (best_ < kInf) {
    if (finished && unresolved_bound_ == kInf) {
      result_.outcome = Outcome::optimal;
      result_.stopped_by.clear();
      result_.reason.clear();
    } else if (closes(bound)) {
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
  result_.history.push_back(standing(kInf));
}

}  // namespace kiteknot::mip
