#include "structures/tours/neighbours.hpp"

#include <algorithm>

#include "structures/tours/point_tree.hpp"

namespace kiteknot::structures::tours {

Neighbours::Neighbours(const Distances& distances, std::size_t count) {
  const Index n = distances.size();
  count = std::min(count, n > 0 ? at(n) - 1 : 0);
  if (distances.has_places()) {
    const PointTree tree(distances.in_space());
    for (Index i = 0; i < n; ++i) {
      std::vector<Index> near = tree.nearest(i, count);
      // By length: some formulas order otherwise than straight lines do.
      std::stable_sort(near.begin(), near.end(),
                       [&](Index a, Index b) { return distances(i, a) < distances(i, b); });
      list_.insert(list_.end(), near.begin(), near.end());
      first_.push_back(list_.size());
    }
    measure(distances);
    return;
  }
  std::vector<std::pair<double, Index>> row;
  for (Index i = 0; i < n; ++i) {
    row.clear();
    for (Index j = 0; j < n; ++j)
      if (j != i) row.emplace_back(std::min(distances(i, j), distances(j, i)), j);
    const auto middle = row.begin() + static_cast<std::ptrdiff_t>(count);
    std::partial_sort(row.begin(), middle, row.end());
    for (auto it = row.begin(); it != middle; ++it) list_.push_back(it->second);
    first_.push_back(list_.size());
  }
  measure(distances);
}

void Neighbours::measure(const Distances& distances) {
  for (Index i = 0; i < size(); ++i)
    for (const Index j : of(i)) length_.push_back(distances(i, j));
}

}  // namespace kiteknot::structures::tours
