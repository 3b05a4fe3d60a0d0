#pragma once
// A step of a constructive method: one decision grows, and with it whatever it cannot grow without:
// the depot that serves, the set-up that spins, the store that keeps it until then.

#include "methods/greedy_rows.hpp"

namespace kiteknot::methods {

class GreedySteps {
 public:
  explicit GreedySteps(GreedyRows& rows) : rows_(rows) {}

  /// Raises a decision and what it needs, and leaves it so. False: nothing moved.
  [[nodiscard]] bool make(Index d, const Rational& amount);
  /// The most of a decision that may find room in its rows if these helped as much as they can.
  [[nodiscard]] Rational most(Index d) const;
  /// The rows that nothing could help, as the last step was tried.
  [[nodiscard]] const std::vector<Index>& blocked_by() const noexcept { return blocked_by_; }

 private:
  bool fits(Index d, const Rational& amount, int depth);
  bool help(Index row, const Rational& excess, bool above, int depth);

  GreedyRows& rows_;
  int tries_ = 0;
  std::vector<Index> blocked_by_;
};

}  // namespace kiteknot::methods
