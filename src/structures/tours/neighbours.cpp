#include "structures/tours/neighbours.hpp"

#include <algorithm>
#include <future>
#include <thread>
#include <tuple>

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

Neighbours::Neighbours(const Distances& distances, std::size_t count, const Interrupt& interrupt) {
  const Index n = distances.size();
  count = std::min(count, n > 0 ? at(n) - 1 : 0);
  for (Index i = 0; i < n; ++i) first_.push_back((at(i) + 1) * count);
  list_.resize(at(n) * count);
  length_.resize(list_.size());
  distances.has_places() ? find_in_space(distances, count, interrupt)
                         : find_in_matrix(distances, count, interrupt);
  if (!interrupt.now()) return;
  first_.assign(first_.size(), 0);
  list_.clear();
  length_.clear();
}

// Stops of one leaf after the other, as they look at the same part of the tree.
void Neighbours::find_in_space(const Distances& distances, std::size_t count,
                               const Interrupt& interrupt) {
  constexpr Index kBetweenLooks = 500;
  const PointTree tree(distances.in_space());
  for_ranges(distances.size(), [&](Index from, Index to) {
    std::vector<std::pair<double, Index>> by_length;
    for (Index k = from; k < to; ++k) {
      if (k % kBetweenLooks == 0 && interrupt.now()) return;
      const Index i = tree.in_order()[at(k)];
      by_length.clear();
      for (const Index j : tree.nearest(i, count)) by_length.emplace_back(distances(i, j), j);
      // Some formulas order otherwise than straight lines do.
      std::ranges::stable_sort(by_length, {}, &std::pair<double, Index>::first);
      for (std::size_t c = 0; c < count; ++c)
        std::tie(length_[first_[at(i)] + c], list_[first_[at(i)] + c]) = by_length[c];
    }
  });
}

void Neighbours::find_in_matrix(const Distances& distances, std::size_t count,
                                const Interrupt& interrupt) {
  std::vector<std::pair<double, Index>> row;
  for (Index i = 0; i < distances.size() && !interrupt.now(); ++i) {
    row.clear();
    for (Index j = 0; j < distances.size(); ++j)
      if (j != i) row.emplace_back(std::min(distances(i, j), distances(j, i)), j);
    std::partial_sort(row.begin(), row.begin() + static_cast<std::ptrdiff_t>(count), row.end());
    for (std::size_t c = 0; c < count; ++c) {
      list_[first_[at(i)] + c] = row[c].second;
      length_[first_[at(i)] + c] = distances(i, row[c].second);
    }
  }
}

}  // namespace kiteknot::structures::tours
