#include "mip/heuristics/rounding.hpp"

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"

namespace kiteknot::mip {

bool RoundingWithPropagation::wants(const NodeView& node) const {
  constexpr std::int64_t kEvery = 64, kEveryWithoutPlan = 8;
  if (node.moment == NodeView::Moment::relaxed) return node.depth == 0;
  return node.depth == 0 || (node.cutoff.best == kInf && node.nodes % kEveryWithoutPlan == 0) ||
         node.nodes % kEvery == 0;
}

std::optional<std::vector<double>> RoundingWithPropagation::look(const NodeView& node) {
  Domain& domain = node.domain;
  const Problem& problem = domain.problem();
  const std::span<const double> point = node.point;
  const std::size_t mark = domain.mark();
  std::vector<Index> fractional;
  bool possible = true;
  const auto fix = [&](Index j, double value) {
    return domain.raise_lower(j, value) && domain.drop_upper(j, value);
  };
  for (Index j = 0; j < problem.num_columns() && possible; ++j) {
    if (!problem.integer(j) || domain.fixed(j)) continue;
    const double near = std::round(point[at(j)]);
    if (std::abs(point[at(j)] - near) > Tolerances{}.integrality)
      fractional.push_back(j);
    else
      possible = fix(j, std::clamp(near, domain.lower(j), domain.upper(j)));
  }
  const auto distance = [&](Index j) { return std::abs(point[at(j)] - std::round(point[at(j)])); };
  std::stable_sort(fractional.begin(), fractional.end(),
                   [&](Index a, Index b) { return distance(a) < distance(b); });
  possible = possible && node.propagation.run(domain, node.work);
  for (const Index j : fractional) {
    if (!possible) break;
    if (domain.fixed(j)) continue;
    const double near = std::clamp(std::round(point[at(j)]), domain.lower(j), domain.upper(j));
    const double far = near > point[at(j)] ? near - 1.0 : near + 1.0;
    const std::size_t here = domain.mark();
    if (fix(j, near) && node.propagation.run(domain, node.work)) continue;
    domain.undo_to(here);
    possible = fix(j, far) && node.propagation.run(domain, node.work);
  }
  std::optional<std::vector<double>> rounded;
  if (possible) {
    rounded.emplace(point.begin(), point.end());
    for (Index j = 0; j < problem.num_columns(); ++j)
      if (problem.integer(j)) (*rounded)[at(j)] = domain.lower(j);
  }
  domain.undo_to(mark);
  return rounded;
}

}  // namespace kiteknot::mip
