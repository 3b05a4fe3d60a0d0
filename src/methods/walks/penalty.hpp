#pragma once
// What broken rules cost a walk that may go through them: more while it stays there, less while it
// stays away.

#include "methods/walks/walk.hpp"

namespace kiteknot::methods {

class Penalty {
 public:
  /// From the sizes that moves have around the ground's point.
  explicit Penalty(Walk& w);
  [[nodiscard]] double cost(const Score& s) const noexcept {
    return s.goal == HUGE_VAL ? HUGE_VAL : s.goal + rate_ * s.broken;
  }
  /// Where the walk stands after a step.
  void stood(bool clean) noexcept;
  /// How much the goal changes by a move, about.
  [[nodiscard]] double usual_change() const noexcept { return usual_; }

 private:
  double rate_ = 1.0, usual_ = 1.0, least_ = 0.0, most_ = 0.0;
  int clean_ = 0, broken_ = 0;  // steps in a row
};

}  // namespace kiteknot::methods
