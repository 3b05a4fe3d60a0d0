#include "mip/heuristics/alternation.hpp"

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"

namespace kiteknot::mip {

bool Alternation::wants(const NodeView& node) const {
  constexpr std::int64_t kEvery = 50;
  const Problem& p = node.domain.problem();
  if (p.exact()) return false;
  if (!sides_) {
    sides_.emplace();
    for (const auto& kind : p.kinds().all())
      if (kind->any(p)) kind->add_sides(p, (*sides_)[0], (*sides_)[1]);
  }
  if ((*sides_)[0].empty()) return false;
  if (node.depth == 0) return true;
  return node.cutoff.best == kInf && node.nodes % kEvery == 0;
}

std::optional<std::vector<double>> Alternation::with_held(const NodeView& node,
                                                          std::span<const Index> columns,
                                                          std::span<const double> at_point,
                                                          double& goal) {
  const std::size_t mark = node.domain.mark();
  bool possible = true;
  for (const Index j : columns) {
    const double x = std::clamp(at_point[at(j)], node.domain.lower(j), node.domain.upper(j));
    possible = possible && node.domain.raise_lower(j, x) && node.domain.drop_upper(j, x);
  }
  std::optional<std::vector<double>> point;
  if (possible && node.propagation.run(node.domain, node.work)) {
    node.relaxation.follow(node.domain);
    node.relaxation.tighten(node.domain);
    const lp::Report report =
        node.relaxation.solve({.quick = true, .exact_pivots = 0, .interrupt = node.interrupt});
    node.own_pivots += report.pivots;
    goal = report.objective;
    if (report.status == lp::Status::optimal)
      point.emplace(node.relaxation.point().begin(), node.relaxation.point().end());
  }
  node.domain.undo_to(mark);
  const Problem& p = node.domain.problem();
  for (Index j = 0; j < p.num_columns() && point; ++j)
    if (p.integer(j) &&
        std::abs((*point)[at(j)] - std::round((*point)[at(j)])) > Tolerances{}.integrality)
      point.reset();
  return point;
}

std::optional<std::vector<double>> Alternation::look(const NodeView& node) {
  constexpr int kTurns = 6;
  constexpr double kLeastGain = 1e-4;  // of the goal
  std::vector<double> from(node.point.begin(), node.point.end());
  std::optional<std::vector<double>> best;
  double last = kInf;
  for (std::size_t k = 0; k < kTurns && !node.interrupt.now(); ++k) {
    double goal = kInf;
    auto point = with_held(node, (*sides_)[k % 2], from, goal);
    if (!point || !(goal < last - kLeastGain * std::abs(goal))) break;
    last = goal;
    from = *point;
    best = std::move(point);
  }
  node.relaxation.follow(node.domain);
  node.relaxation.tighten(node.domain);
  return best;
}

}  // namespace kiteknot::mip
