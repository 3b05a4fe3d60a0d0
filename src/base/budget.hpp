#pragma once
// How far something that searches may go: one type for all of them, from what the user says down to
// a small search inside a heuristic.

#include <algorithm>
#include <limits>

#include "base/work.hpp"

namespace kiteknot {

struct Budget {
  double seconds = std::numeric_limits<double>::infinity();
  std::int64_t nodes = std::numeric_limits<std::int64_t>::max();
  std::uint64_t seed = 1;                   ///< for choices that are drawn by lot
  const std::atomic<bool>* stop = nullptr;  ///< the user's switch
  WorkClock* pulse = nullptr;               ///< of a worker beside others

  /// The clock was started when the budget was given.
  [[nodiscard]] Interrupt interrupt(const Stopwatch& clock) const {
    return {&clock, seconds, stop, pulse};
  }
  /// What is left after so much of it; of time not less than none.
  [[nodiscard]] Budget less(double seconds_gone, std::int64_t nodes_gone) const {
    return {std::max(0.0, seconds - seconds_gone), nodes - nodes_gone, seed, stop, pulse};
  }
};

}  // namespace kiteknot
