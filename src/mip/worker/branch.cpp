// What is left of a node goes into parts.

#include <algorithm>
#include <cmath>

#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

// Into two parts at a fraction, or its whole point is settled. Nothing: it is to be looked at
// again.
std::optional<Worker::End> Worker::divide() {
  nothing_left_ = false;
  const std::optional<Index> chosen = choose_column();
  if (nothing_left_) return closed(ClosedBy::children);
  if (!chosen) return std::nullopt;
  const Index column = *chosen;
  const double value = column < 0 ? 0.0 : relaxation_.point()[at(column)];
  (void)pool_.age(relaxation_);
  const auto basis = BasisDifference::keep(pool_.basis(relaxation_), full_basis_);
  if (bases_kept_) out_.basis = basis;
  if (column < 0) return settle_point(true);
  if (propose(NodeView::Moment::divided)) {
    pool_.set_basis(basis->load(), relaxation_);
    if (closes(out_.bound)) return closed(ClosedBy::bound);
  }

  const double below = std::floor(value);
  Branching branching;
  branching.children = {{{Change::What::upper, column, below}},
                        {{Change::What::lower, column, below + 1.0}}};
  out_.estimate = estimate();
  if (PseudoCosts::up_first(value - below)) std::swap(branching.children[0], branching.children[1]);
  return split(std::move(branching), column, value);
}

// What the best plan below may be worth: every fractional column goes to the cheaper side.
double Worker::estimate() const {
  double sum = relaxed_goal_;
  for (const Index j : fractional_) {
    const double part = relaxation_.point()[at(j)] - std::floor(relaxation_.point()[at(j)]);
    sum +=
        std::min(part * pseudo_costs_.rise(j, false), (1.0 - part) * pseudo_costs_.rise(j, true));
  }
  return sum;
}

// The fractional column to branch on, -1 where there is none; nothing where strong branching left
// only one of them (the domain has it then, or a contradiction).
std::optional<Index> Worker::choose_column() {
  if (fractional_.empty()) return -1;
  const std::int64_t before = relaxation_.simplex().work().units();
  BranchingRule::Choice choice =
      rule_->choose({domain_, fractional_, relaxation_.point(), relaxed_goal_, cutoff(),
                     pivots_ + out_.counts.pivots, relaxation_, interrupt_},
                    pseudo_costs_);
  out_.counts.look_pivots += choice.pivots;
  ++rule_tally_.calls;
  rule_tally_.work += relaxation_.simplex().work().units() - before;
  rule_tally_.steps += static_cast<std::int64_t>(choice.implied.size());
  rule_tally_.conflicts += choice.nothing_left ? 1 : 0;
  domain_.because({Reason::By::strong_branching});
  for (const Change& c : choice.implied)
    if (!domain_.apply(c)) nothing_left_ = true;
  domain_.because({});
  nothing_left_ = nothing_left_ || choice.nothing_left;
  if (nothing_left_ || !choice.implied.empty()) return std::nullopt;
  return choice.column;
}

Worker::End Worker::split(Branching branching, Index column, double value) {
  for (std::vector<Change>& changes : branching.children) {
    Child child;
    if (column >= 0) {
      const bool up = changes.front().what == Change::What::lower;
      child.branched = {column, up, up ? std::ceil(value) - value : value - std::floor(value),
                        relaxed_goal_};
    }
    child.changes = std::move(changes);
    out_.children.push_back(std::move(child));
  }
  return End::divided;
}

}  // namespace kiteknot::mip
