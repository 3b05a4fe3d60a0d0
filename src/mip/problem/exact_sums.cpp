#include "mip/problem/exact_sums.hpp"

#include <algorithm>
#include <cmath>

#include "base/interval.hpp"

namespace kiteknot::mip {
namespace {
constexpr double kMostSum = 0x1p52;
}

bool sums_are_exact(const Problem& p, std::span<const double> reach) {
  if (!p.only_rows_over_integers() || !p.cost_exact() || p.goal_step() <= 0.0) return false;
  double goal = 0.0;
  for (Index j = 0; j < p.num_columns(); ++j) {
    if (!whole(p.cost(j))) return false;
    goal += std::abs(p.cost(j)) * reach[at(j)];
  }
  if (!(goal < kMostSum)) return false;
  for (Index i = 0; i < p.num_rows(); ++i) {
    if (!p.row_whole(i)) return false;
    double sum = 0.0;
    for (std::size_t k = 0; k < p.rows().index(i).size(); ++k)
      sum += std::abs(p.rows().value(i)[k]) * reach[at(p.rows().index(i)[k])];
    if (!(sum < kMostSum)) return false;
  }
  return true;
}

bool sums_are_exact(const Problem& p) {
  std::vector<double> reach;
  for (Index j = 0; j < p.num_columns(); ++j) {
    reach.push_back(std::max(std::abs(p.lower(j)), std::abs(p.upper(j))));
    if (!std::isfinite(reach.back())) return false;
  }
  return sums_are_exact(p, reach);
}

bool said_by_doubles(const Problem& p) {
  if (!p.cost_exact() || !p.known_costs().empty() || !p.known_bounds().empty()) return false;
  for (const auto& kind : p.kinds().all())
    if (!kind->said_by_doubles(p)) return false;
  return true;
}

}  // namespace kiteknot::mip
