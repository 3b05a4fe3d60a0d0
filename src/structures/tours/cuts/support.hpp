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
  /// By stops: the number of its part, from 0; legs with `connects(x)` hold parts together.
  template <class Connects>
  [[nodiscard]] std::vector<Index> parts(Index& count, const Connects& connects) const {
    std::vector<Index> part(at(num_stops()), -1), stack;
    count = 0;
    for (Index s = 0; s < num_stops(); ++s) {
      if (part[at(s)] >= 0) continue;
      part[at(s)] = count;
      stack.assign(1, s);
      while (!stack.empty()) {
        const Index v = stack.back();
        stack.pop_back();
        for (const Arc& arc : of(v))
          if (part[at(arc.to)] < 0 && connects(arc.x)) {
            part[at(arc.to)] = count;
            stack.push_back(arc.to);
          }
      }
      ++count;
    }
    return part;
  }
  /// Every leg once, a < b.
  template <class Take>
  void each(const Take& take) const {
    for (Index a = 0; a < num_stops(); ++a)
      for (const Arc& arc : of(a))
        if (a < arc.to) take(a, arc.to, arc.x);
  }
  /// Of a set of stops, by what its legs are worth. `inside`: by stops, 0 before and after.
  [[nodiscard]] double legs_out(std::span<const Index> set, std::vector<char>& inside) const {
    for (const Index s : set) inside[at(s)] = 1;
    double out = 0.0;
    for (const Index s : set)
      for (const Arc& arc : of(s))
        if (inside[at(arc.to)] == 0) out += arc.x;
    for (const Index s : set) inside[at(s)] = 0;
    return out;
  }

 private:
  std::vector<std::size_t> first_;
  std::vector<Arc> arcs_;
};

/// The stops by part.
std::vector<std::vector<Index>> members(const std::vector<Index>& part, Index count);

}  // namespace kiteknot::structures::tours
