#pragma once
// The legs of a relaxed point that are not 0, as a graph.

#include <span>
#include <vector>

#include "structures/tours/whole_lengths.hpp"

namespace kiteknot::structures::tours {

struct Arc {
  Index to = 0;
  double x = 0.0;
};

class Support {
 public:
  static constexpr double kZero = 1e-7, kWhole = 1e-6;

  /// O(stops + legs).
  Support(Index stops, std::span<const Leg> legs, std::span<const double> x);
  [[nodiscard]] Index num_stops() const noexcept { return static_cast<Index>(first_.size()) - 1; }
  [[nodiscard]] std::span<const Arc> of(Index stop) const {
    return {arcs_.data() + first_[at(stop)], first_[at(stop) + 1] - first_[at(stop)]};
  }
  /// By stops: the number of its connected part, from 0; legs below `least` do not connect.
  [[nodiscard]] std::vector<Index> parts(Index& count, double least = kZero) const;
  /// Every leg once, a < b.
  template <class Take>
  void each(const Take& take) const {
    for (Index a = 0; a < num_stops(); ++a)
      for (const Arc& arc : of(a))
        if (a < arc.to) take(a, arc.to, arc.x);
  }

 private:
  std::vector<std::size_t> first_;
  std::vector<Arc> arcs_;
};

/// The stops by part.
std::vector<std::vector<Index>> members(const std::vector<Index>& part, Index count);

}  // namespace kiteknot::structures::tours
