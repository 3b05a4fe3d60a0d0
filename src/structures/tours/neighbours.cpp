#include "structures/tours/neighbours.hpp"

#include <algorithm>
#include <future>
#include <thread>

#include "structures/tours/point_tree.hpp"

namespace kiteknot::structures::tours {

namespace {

// Ranges of stops side by side on a few threads, where that is worth their start; what is done to
// one stop does not touch another.
template <class Work>
void for_ranges(Index count, const Work& work) {
  constexpr Index kWorthIt = 20'000;
  constexpr unsigned kMost = 4;
  const unsigned threads =
      count < kWorthIt ? 1 : std::clamp(std::thread::hardware_concurrency(), 1U, kMost);
  std::vector<std::future<void>> others;
  const auto from = [&](unsigned k) {
    return static_cast<Index>(static_cast<std::int64_t>(count) * k / threads);
  };
  for (unsigned k = 1; k < threads; ++k)
    others.push_back(std::async(std::launch::async, [&, k] { work(from(k), from(k + 1)); }));
  work(0, from(1));
  for (std::future<void>& other : others) other.get();
}

}  // namespace

Neighbours::Neighbours(const Distances& distances, std::size_t count) {
  const Index n = distances.size();
  count = std::min(count, n > 0 ? at(n) - 1 : 0);
  if (distances.has_places()) {
    const PointTree tree(distances.in_space());
    for (Index i = 0; i < n; ++i) first_.push_back((at(i) + 1) * count);
    list_.resize(at(n) * count);
    length_.resize(list_.size());
    for_ranges(n, [&](Index from, Index to) {
      for (Index i = from; i < to; ++i) {
        std::vector<Index> near = tree.nearest(i, count);
        // By length: some formulas order otherwise than straight lines do.
        std::stable_sort(near.begin(), near.end(),
                         [&](Index a, Index b) { return distances(i, a) < distances(i, b); });
        for (std::size_t k = 0; k < count; ++k) {
          list_[first_[at(i)] + k] = near[k];
          length_[first_[at(i)] + k] = distances(i, near[k]);
        }
      }
    });
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
  for (Index i = 0; i < n; ++i)
    for (const Index j : of(i)) length_.push_back(distances(i, j));
}

}  // namespace kiteknot::structures::tours
