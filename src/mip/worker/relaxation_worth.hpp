#pragma once
// Whether relaxations of nodes tell more than their domains do. Where they close little of what is
// open (rows that hold under a condition, or with a large number), nodes that can be divided
// without one are, and only now and then is one asked again.

#include <cstdint>

namespace kiteknot::mip {

class RelaxationWorth {
 public:
  /// A node's relaxation was solved and closed this share of what the domain left open: 1 where it
  /// closed the node.
  void solved(double share) {
    ++asked_;
    closed_ += share;
  }
  /// Whether the next node does without; counts it.
  [[nodiscard]] bool leave_out() {
    constexpr std::int64_t kLeast = 20, kNowAndThen = 100;
    constexpr double kPays = 0.1;
    if (asked_ < kLeast || closed_ >= kPays * static_cast<double>(asked_)) return false;
    return ++left_out_ % kNowAndThen != 0;
  }

 private:
  std::int64_t asked_ = 0, left_out_ = 0;
  double closed_ = 0.0;
};

}  // namespace kiteknot::mip
