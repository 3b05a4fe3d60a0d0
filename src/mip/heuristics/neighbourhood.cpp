#include "mip/heuristics/neighbourhood.hpp"

#include <cmath>

#include "base/tolerances.hpp"

namespace kiteknot::mip {

bool NearBestPlan::wants(const Sighting& node) const {
  constexpr std::int64_t kEvery = 50, kShare = 8, kGrace = 2'000'000;  // of work
  return node.moment == Sighting::Moment::divided && node.depth > 0 && !node.best_plan.empty() &&
         node.part_search && node.nodes - last_at_ >= kEvery * (1 + 2 * (calls_ - points_)) &&
         work_ <= node.spent / kShare + kGrace;
}

std::optional<std::vector<double>> NearBestPlan::look(const Sighting& node) {
  constexpr double kLeastFixed = 0.4;  // of the whole columns that are free
  constexpr std::int64_t kNodes = 200;
  last_at_ = node.nodes;
  Problem part = node.domain.problem();
  double free = 0.0, fixed = 0.0;
  for (Index j = 0; j < part.num_columns(); ++j) {
    if (!part.integer(j) || part.lower(j) == part.upper(j)) continue;
    free += 1.0;
    const double value = node.best_plan[at(j)];
    if (std::abs(node.point[at(j)] - value) > Tolerances{}.integrality) continue;
    part.set_bounds(j, value, value);
    fixed += 1.0;
  }
  node.work.add(part.num_columns());
  if (fixed < kLeastFixed * free || fixed == free) return std::nullopt;
  ++calls_;
  const std::int64_t before = node.work.units();
  auto point = node.part_search(std::move(part), kNodes);
  work_ += node.work.units() - before;
  if (point) ++points_;
  return point;
}

}  // namespace kiteknot::mip
