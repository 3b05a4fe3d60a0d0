#include "mip/heuristics/pump.hpp"

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"

namespace kiteknot::mip {

// True where some column went elsewhere than last time.
bool Pump::round(const Problem& problem, std::span<const double> point) {
  bool moved = rounded_.empty();
  rounded_.resize(point.size());
  for (Index j = 0; j < problem.num_columns(); ++j) {
    if (!problem.integer(j)) continue;
    const double near = std::clamp(std::round(point[at(j)]), problem.lower(j), problem.upper(j));
    moved = moved || near != rounded_[at(j)];
    rounded_[at(j)] = near;
  }
  return moved;
}

// Those whose values are farthest from where they were rounded to go to the other side.
void Pump::turn_some(const Problem& problem, std::span<const double> point) {
  constexpr std::int64_t kLeast = 10, kMost = 30;
  std::vector<std::pair<double, Index>> far;
  for (Index j = 0; j < problem.num_columns(); ++j)
    if (problem.integer(j) && problem.lower(j) < problem.upper(j))
      far.emplace_back(-std::abs(point[at(j)] - rounded_[at(j)]) - 1e-3 * random_.fraction(), j);
  const std::size_t many =
      std::min(far.size(), static_cast<std::size_t>(random_.between(kLeast, kMost)));
  std::partial_sort(far.begin(), far.begin() + static_cast<std::ptrdiff_t>(many), far.end());
  for (std::size_t k = 0; k < many; ++k) {
    const Index j = far[k].second;
    double& value = rounded_[at(j)];
    const double other = point[at(j)] > value ? value + 1.0 : value - 1.0;
    value = other < problem.lower(j) ? value + 1.0 : other > problem.upper(j) ? value - 1.0 : other;
  }
}

std::optional<std::vector<double>> Pump::look(const NodeView& node) {
  constexpr int kMostRounds = 50;
  constexpr double kFading = 0.9;
  const Problem& problem = node.domain.problem();
  Relaxation relaxation(problem);  // its own goal
  relaxation.take(node.domain);
  constexpr std::int64_t kShare = 4, kGrace = 5'000'000;  // of work
  const std::int64_t most = node.spent / kShare + kGrace;
  double length = 0.0;  // of the true goal
  for (Index j = 0; j < problem.num_columns(); ++j) length += problem.cost(j) * problem.cost(j);
  length = std::sqrt(length);
  rounded_.clear();
  std::vector<double> point(node.point.begin(), node.point.end());
  double share = 1.0;
  std::optional<std::vector<double>> found;
  for (int k = 0; k < kMostRounds && !node.interrupt.now(); ++k) {
    if (!round(problem, point)) turn_some(problem, point);
    share *= kFading;
    double ends = 0.0;  // columns that the distance can be told of
    for (Index j = 0; j < problem.num_columns(); ++j)
      ends += problem.integer(j) && problem.lower(j) < problem.upper(j) ? 1.0 : 0.0;
    const double of_goal = length > 0.0 ? share * std::sqrt(ends) / length : 0.0;
    for (Index j = 0; j < problem.num_columns(); ++j) {
      double away = 0.0;  // from one of its ends; a whole value between them has no slope
      if (problem.integer(j) && problem.lower(j) < problem.upper(j)) {
        if (rounded_[at(j)] == problem.lower(j))
          away = 1.0;
        else if (rounded_[at(j)] == problem.upper(j))
          away = -1.0;
      }
      relaxation.set_cost(j, (1.0 - share) * away + of_goal * problem.cost(j));
    }
    const std::int64_t left = most - relaxation.simplex().work().units();
    if (left <= 0) break;
    const lp::Report report = relaxation.solve(
        {.max_work = left, .quick = true, .exact_pivots = 0, .interrupt = node.interrupt});
    node.own_pivots += report.pivots;
    if (report.status != lp::Status::optimal) break;
    point.assign(relaxation.point().begin(), relaxation.point().end());
    bool whole = true;
    for (Index j = 0; j < problem.num_columns() && whole; ++j)
      whole = !problem.integer(j) ||
              std::abs(point[at(j)] - std::round(point[at(j)])) <= Tolerances{}.integrality;
    if (whole) {
      found = point;
      break;
    }
  }
  node.work.add(relaxation.simplex().work().units());
  return found;
}

}  // namespace kiteknot::mip
