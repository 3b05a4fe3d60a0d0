#pragma once
// How a search ended, and the wishes that may end it early.

#include <atomic>
#include <memory>
#include <string_view>

namespace kiteknot {

enum class Outcome {
  optimal,     ///< proven: no plan is better
  accepted,    ///< a plan within the gap that was asked for
  unproven,    ///< a plan, stopped at a limit
  undecided,   ///< no plan and no proof
  infeasible,  ///< proven: no plan meets all rules
  unbounded    ///< proven: the goal has no end
};
/// The word used in the result document.
std::string_view word(Outcome outcome);

enum class Sense { minimize, maximize };
std::string_view word(Sense sense);

/// A switch to stop a running search by hand, from another thread or a signal handler. Copies share
/// it.
class StopSwitch {
 public:
  void press() const noexcept { pressed_->store(true, std::memory_order_relaxed); }
  [[nodiscard]] bool pressed() const noexcept { return pressed_->load(std::memory_order_relaxed); }
  [[nodiscard]] const std::atomic<bool>* flag() const noexcept { return pressed_.get(); }

 private:
  std::shared_ptr<std::atomic<bool>> pressed_ = std::make_shared<std::atomic<bool>>(false);
};

}  // namespace kiteknot
