#pragma once
// How a search ended, and the wishes that may end it early.

#include <atomic>
#include <memory>
#include <string_view>
#include <utility>

#pragma GCC visibility push(default)
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
/// "minimize", "maximize".
std::string_view word(Sense sense);

/// What a search looks at to find out whether it should stop: nothing, or somebody's switch.
class StopToken {
 public:
  StopToken() = default;
  [[nodiscard]] bool pressed() const noexcept {
    return pressed_ && pressed_->load(std::memory_order_relaxed);
  }
  /// For the library itself; null for a token of no switch.
  [[nodiscard]] const std::atomic<bool>* flag() const noexcept { return pressed_.get(); }

 private:
  friend class StopSwitch;
  explicit StopToken(std::shared_ptr<const std::atomic<bool>> pressed)
      : pressed_(std::move(pressed)) {}
  std::shared_ptr<const std::atomic<bool>> pressed_;
};

/// A switch to stop running searches by hand, from another thread or a signal handler. It is not
/// part of anybody's options: these get a token of it, and once it is reset they serve again.
class StopSwitch {
 public:
  /// Not pressed.
  StopSwitch();
  StopSwitch(const StopSwitch&) = default;  // also where it is moved from: it stays usable
  StopSwitch& operator=(const StopSwitch&) = default;
  /// Ends what looks at its tokens; safe in a signal handler.
  void press() const noexcept { pressed_->store(true, std::memory_order_relaxed); }
  /// The tokens serve again.
  void reset() const noexcept { pressed_->store(false, std::memory_order_relaxed); }
  [[nodiscard]] bool pressed() const noexcept { return pressed_->load(std::memory_order_relaxed); }
  /// For the options of a search.
  [[nodiscard]] StopToken token() const noexcept { return StopToken(pressed_); }

 private:
  std::shared_ptr<std::atomic<bool>> pressed_;
};

}  // namespace kiteknot
#pragma GCC visibility pop
