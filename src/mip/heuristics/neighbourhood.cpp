#include "mip/heuristics/neighbourhood.hpp"

#include <cmath>

#include "base/tolerances.hpp"

namespace kiteknot::mip {
namespace {

constexpr std::int64_t kNodes = 200;  // of a search
constexpr double kLeastFixed = 0.4;   // of the whole columns that are free

bool is_free(const Problem& p, Index j) {
  return p.integer(j) && p.lower(j) < p.upper(j);
}

bool near(double a, double b) {
  return std::abs(a - b) <= Tolerances{}.integrality;
}

// Not more than so many binary columns differ from the plan.
bool limit_changes(Problem& p, std::span<const double> plan, double most) {
  LinearRow row{{}, -kInf, most};
  for (Index j = 0; j < p.num_columns(); ++j) {
    if (!is_free(p, j) || p.lower(j) != 0.0 || p.upper(j) != 1.0) continue;
    const bool one = plan[at(j)] > 0.5;
    row.entries.push_back({j, one ? -1.0 : 1.0});
    row.upper -= one ? 1.0 : 0.0;
  }
  if (static_cast<double>(row.entries.size()) <= 2.0 * most) return false;
  p.add_row(row);
  return true;
}

}  // namespace

bool NearBestPlan::wants(const NodeView& node) const {
  constexpr std::int64_t kEvery = 50, kShare = 8, kGrace = 2'000'000;  // of work
  return node.moment == NodeView::Moment::divided && node.depth > 0 && !node.best_plan.empty() &&
         node.part_search && node.nodes - last_at_ >= kEvery * (1 + 2 * (calls_ - points_)) &&
         work_ <= node.spent / kShare + kGrace;
}

std::optional<Problem> NearBestPlan::part(Way way, const NodeView& node) {
  constexpr double kDrawn = 0.6;
  Problem part = node.domain.problem();
  node.work.add(part.num_columns());
  if (way == kFewChanges) {
    node.work.add(part.rows().num_nonzeros());  // its rows are copied
    if (!limit_changes(part, node.best_plan, changes_)) return std::nullopt;
    return part;
  }
  double free = 0.0, fixed = 0.0;
  for (Index j = 0; j < part.num_columns(); ++j) {
    if (!is_free(part, j)) continue;
    free += 1.0;
    const double value = node.best_plan[at(j)];
    if (way == kAgreeing ? !near(node.point[at(j)], value) : !random_.chance(kDrawn)) continue;
    part.set_bounds(j, value, value);
    fixed += 1.0;
  }
  if (fixed < kLeastFixed * free || fixed == free) return std::nullopt;
  return part;
}

std::optional<std::vector<double>> NearBestPlan::look(const NodeView& node) {
  constexpr double kMostChanges = 20.0;
  last_at_ = node.nodes;
  if (around_.size() != node.best_plan.size() ||
      !std::equal(around_.begin(), around_.end(), node.best_plan.begin())) {
    around_.assign(node.best_plan.begin(), node.best_plan.end());
    changes_ = 2.0;
  }
  const auto way = static_cast<Way>(
      chooser_.next([&](std::size_t k) { return k != kFewChanges || changes_ <= kMostChanges; }));
  std::optional<Problem> there = part(way, node);
  if (!there) {
    chooser_.tried(way, false);
    return std::nullopt;
  }
  ++calls_;
  const std::int64_t before = node.work.units();
  auto point = node.part_search(std::move(*there), kNodes);
  work_ += node.work.units() - before;
  if (way == kFewChanges && !point) changes_ *= 2.0;
  if (point) ++points_;
  chooser_.tried(way, point.has_value());
  return point;
}

std::optional<std::vector<double>> NearRelaxedPoint::look(const NodeView& node) {
  Problem part = node.domain.problem();
  node.work.add(part.num_columns());
  double free = 0.0, fixed = 0.0;
  for (Index j = 0; j < part.num_columns(); ++j) {
    if (!is_free(part, j)) continue;
    free += 1.0;
    const double value = node.point[at(j)];
    if (near(value, std::round(value))) {
      part.set_bounds(j, std::round(value), std::round(value));
      fixed += 1.0;
    } else {
      part.set_bounds(j, std::floor(value), std::floor(value) + 1.0);
    }
  }
  if (fixed < kLeastFixed * free || fixed == free) return std::nullopt;
  return node.part_search(std::move(part), kNodes);
}

}  // namespace kiteknot::mip
