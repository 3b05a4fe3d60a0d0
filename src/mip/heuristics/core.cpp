#include "mip/heuristics/core.hpp"

#include "mip/heuristics/exchange.hpp"

namespace kiteknot::mip {

std::optional<std::vector<double>> AroundRelaxation::look(const NodeView& node) {
  const Problem& problem = node.domain.problem();
  BestPoint around;
  best_in_core(problem, node.point, node.reduced_costs(), around, node.work);
  if (!around.found()) return std::nullopt;
  constexpr std::int64_t kMostWork = 400'000;
  const auto better = exchange(problem, around.point(), kMostWork, node.work);
  const std::vector<double>& point = better ? *better : around.point();
  double goal = 0.0;
  for (Index j = 0; j < problem.num_columns(); ++j) goal += problem.cost(j) * point[at(j)];
  if (goal >= node.cutoff.best) return std::nullopt;
  return point;
}

}  // namespace kiteknot::mip
