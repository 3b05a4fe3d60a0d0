#pragma once
// Internal budgets count work, never seconds: the same input takes the same decisions on every
// machine. One unit is one memory entry touched by a kernel. Only the user's own limits are in
// seconds.

#include <atomic>
#include <chrono>
#include <cstdint>

namespace kiteknot {

/// Seconds since it was made.
class Stopwatch {
 public:
  [[nodiscard]] double seconds() const {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count();
  }

 private:
  std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
};

/// The user's own wishes to stop, asked for from inside long loops. Cheap enough for every pivot.
struct Interrupt {
  const Stopwatch* clock = nullptr;            ///< with seconds: the user's time limit
  double seconds = 0.0;                        ///< limit on clock
  const std::atomic<bool>* stopped = nullptr;  ///< the user's stop switch

  [[nodiscard]] bool by_hand() const noexcept {
    return stopped != nullptr && stopped->load(std::memory_order_relaxed);
  }
  [[nodiscard]] bool by_time() const { return clock != nullptr && clock->seconds() >= seconds; }
  [[nodiscard]] bool now() const { return by_hand() || by_time(); }
};

/// Counts work, and tells long loops when the user wants them to stop: the clock is looked at after
/// some work only.
class WorkCounter {
 public:
  void add(std::int64_t units) noexcept { units_ += units; }
  [[nodiscard]] std::int64_t units() const noexcept { return units_; }
  /// Whose wishes interrupted() tells; it must outlive the counter.
  void obey(const Interrupt& interrupt) noexcept {
    interrupt_ = &interrupt;
    stopped_ = false;
  }
  void obey(const Interrupt&&) = delete;
  [[nodiscard]] bool interrupted() {
    constexpr std::int64_t kUnitsPerLook = 200'000;
    if (interrupt_ == nullptr) return false;
    if (stopped_ || interrupt_->by_hand()) return true;
    if (units_ - looked_at_ < kUnitsPerLook) return false;
    looked_at_ = units_;
    stopped_ = interrupt_->by_time();  // time that is up stays so
    return stopped_;
  }

 private:
  std::int64_t units_ = 0, looked_at_ = 0;
  const Interrupt* interrupt_ = nullptr;
  bool stopped_ = false;
};

}  // namespace kiteknot
