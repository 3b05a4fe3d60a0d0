#pragma once
// For every stop the stops that are near: what tours are built from and improved along.

#include <span>
#include <vector>

#include "base/work.hpp"
#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

class Neighbours {
 public:
  /// The `count` nearest of each, nearest first (of a directed matrix: by the shorter way of both).
  /// From places O(n log n), of many stops on a few threads; from a matrix O(n^2). After an
  /// interrupt nobody has any.
  Neighbours(const Distances& distances, std::size_t count, const Interrupt& interrupt = {});
  [[nodiscard]] std::span<const Index> of(Index stop) const {
    return {list_.data() + first_[at(stop)], first_[at(stop) + 1] - first_[at(stop)]};
  }
  /// How long the legs to them are.
  [[nodiscard]] std::span<const double> lengths(Index stop) const {
    return {length_.data() + first_[at(stop)], first_[at(stop) + 1] - first_[at(stop)]};
  }
  [[nodiscard]] Index size() const noexcept { return static_cast<Index>(first_.size()) - 1; }

 private:
  void find_in_space(const Distances& distances, std::size_t count, const Interrupt& interrupt);
  void find_in_matrix(const Distances& distances, std::size_t count, const Interrupt& interrupt);
  std::vector<Index> list_;
  std::vector<double> length_;
  std::vector<std::size_t> first_{0};
};

}  // namespace kiteknot::structures::tours
