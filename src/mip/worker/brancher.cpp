#include "mip/worker/brancher.hpp"

#include <algorithm>
#include <cmath>

#include "mip/branching/reliability.hpp"

namespace kiteknot::mip {

Brancher::Brancher(NodeWorkspace& space, const SearchOptions& options)
    : space_(space), costs_(space.problem.num_columns()) {
  if (options.given.pseudo_costs &&
      options.given.pseudo_costs->num_columns() == space.problem.num_columns())
    costs_ = *options.given.pseudo_costs;
  costs_.keep_observations();
  if (options.node.strong)
    rule_ = std::make_unique<Reliability>();
  else
    rule_ = std::make_unique<ByPseudoCosts>();
}

Brancher::Choice Brancher::choose(const KnownBest& known, PresentNode& node) {
  if (node.fractional.empty()) return {};
  const std::int64_t before = space_.relaxation.simplex().work().units();
  const BranchingRule::Choice choice = rule_->choose(
      {space_.domain, node.fractional, space_.relaxation.point(), node.relaxed_goal, known.cutoff(),
       node.pivots + node.out.counts.pivots, space_.relaxation, space_.interrupt},
      costs_);
  node.out.counts.look_pivots += choice.pivots;
  ++tally_.calls;
  tally_.work += space_.relaxation.simplex().work().units() - before;
  tally_.steps += static_cast<std::int64_t>(choice.implied.size());
  tally_.conflicts += choice.nothing_left ? 1 : 0;
  Choice chosen{choice.column, !choice.implied.empty(), choice.nothing_left};
  space_.domain.because({Reason::By::strong_branching});
  for (const Change& c : choice.implied)
    if (!space_.domain.apply(c)) chosen.nothing_left = true;
  space_.domain.because({});
  return chosen;
}

double Brancher::estimate(const PresentNode& node) const {
  double sum = node.relaxed_goal;
  for (const Index j : node.fractional) {
    const double x = space_.relaxation.point()[at(j)], part = x - std::floor(x);
    sum += std::min(part * costs_.rise(j, false), (1.0 - part) * costs_.rise(j, true));
  }
  return sum;
}

void Brancher::split(Branching branching, Index column, double value, PresentNode& node) const {
  for (std::vector<Change>& changes : branching.children) {
    Child child;
    if (column >= 0) {
      const bool up = changes.front().what == Change::What::lower;
      child.branched = {column, up, up ? std::ceil(value) - value : value - std::floor(value),
                        node.relaxed_goal};
    }
    child.changes = std::move(changes);
    node.out.children.push_back(std::move(child));
  }
}

}  // namespace kiteknot::mip
