#pragma once
// Pieces of a tour: paths that grow by legs between their ends, until they are one.

#include <vector>

#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

class Fragments {
 public:
  /// Every stop by itself.
  explicit Fragments(Index stops);
  /// Whether the leg joins ends of two of them.
  [[nodiscard]] bool can_join(Index a, Index b) {
    return degree_[at(a)] < 2 && degree_[at(b)] < 2 && root(a) != root(b);
  }
  void join(Index a, Index b);
  [[nodiscard]] Index count() const noexcept { return count_; }
  [[nodiscard]] bool is_end(Index stop) const { return degree_[at(stop)] < 2; }
  /// The other end of the fragment that has this end.
  [[nodiscard]] Index other_end(Index end) const { return other_[at(end)]; }
  /// The stops in order, once there is one fragment.
  [[nodiscard]] std::vector<Index> in_order() const;

 private:
  [[nodiscard]] Index root(Index stop);
  std::vector<Index> parent_;  // of a forest that tells fragments apart
  std::vector<Index> other_;
  std::vector<char> degree_;
  std::vector<Index> legs_;  // two a stop; -1: none
  Index count_;
};

}  // namespace kiteknot::structures::tours
