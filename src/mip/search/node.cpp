// One node: what it costs to find out that it holds nothing, or into which parts it goes.

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "base/interval.hpp"
#include "mip/propagators/probing.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::mip {

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
  return divide(node);
}

// What is left of a node goes into two parts, or its whole point is settled.
std::optional<Search::NodeEnd> Search::divide(const std::shared_ptr<Node>& node) {
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
  const Reliability::Choice choice = reliability_.choose(
      {domain_, fractional_, relaxation_.point(), relaxed_goal_, cutoff(), result_.pivots},
      pseudo_costs_, relaxation_, interrupt_);
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

}  // namespace kiteknot::mip
