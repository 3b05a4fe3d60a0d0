#pragma once
// Internal budgets count work, never seconds: the same input takes the same decisions on every
// machine. One unit is one memory entry touched by a kernel. Only the user's own limits are in
// seconds.

#include <atomic>
#include <chrono>
#include <cstdint>
#include <functional>
#include <limits>

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

/// How far one of several that work side by side has come, in units of work, for the others to see:
/// what one of them is told depends on how far each has come in work, never on which was faster.
/// Written by the one that works; `halt` by whoever waits for it.
class WorkClock {
 public:
  /// All that obey it tell what they did since they last did, now and then.
  void advance(std::int64_t units) { set(units_.load(std::memory_order_relaxed) + units); }
  [[nodiscard]] std::int64_t units() const noexcept {
    return units_.load(std::memory_order_acquire);
  }
  void set(std::int64_t units) {
    units_.store(units, std::memory_order_seq_cst);
    if (units < awaited_.load(std::memory_order_seq_cst)) return;
    awaited_.store(kNever, std::memory_order_relaxed);
    if (reached_) reached_();
  }
  void halt() noexcept { halted_.store(true, std::memory_order_relaxed); }
  [[nodiscard]] bool halted() const noexcept { return halted_.load(std::memory_order_relaxed); }

  /// What to do, on the thread of the one that works, once it has come so far; before it begins.
  void when_reached(std::function<void()> reached) { reached_ = std::move(reached); }
  /// By the one that waits; it looks at units() again after that. Once only.
  void await(std::int64_t units) noexcept { awaited_.store(units, std::memory_order_seq_cst); }

 private:
  static constexpr std::int64_t kNever = std::numeric_limits<std::int64_t>::max();
  std::atomic<std::int64_t> units_ = 0, awaited_ = kNever;
  std::atomic<bool> halted_ = false;
  std::function<void()> reached_;
};

/// The user's own wishes to stop, asked for from inside long loops. Cheap enough for every pivot.
struct Interrupt {
  const Stopwatch* clock = nullptr;            ///< with seconds: the user's time limit
  double seconds = 0.0;                        ///< limit on clock
  const std::atomic<bool>* stopped = nullptr;  ///< the user's stop switch
  WorkClock* pulse = nullptr;                  ///< null: nobody works beside

  [[nodiscard]] bool by_hand() const noexcept {
    return (stopped != nullptr && stopped->load(std::memory_order_relaxed)) ||
           (pulse != nullptr && pulse->halted());
  }
  /// So much work was done.
  void tell(std::int64_t units) const {
    if (pulse != nullptr) pulse->advance(units);
  }
  [[nodiscard]] bool by_time() const { return clock != nullptr && clock->seconds() >= seconds; }
  [[nodiscard]] bool now() const { return by_hand() || by_time(); }
};

/// Counts work, and tells long loops when the user wants them to stop: the clock is looked at after
/// some work only.
class WorkCounter {
 public:
  void add(std::int64_t units) noexcept { units_ += units; }
  /// Of counters that obeyed the same wishes, and told it.
  void add_told(std::int64_t units) noexcept {
    units_ += units;
    looked_at_ += units;
  }
  [[nodiscard]] std::int64_t units() const noexcept { return units_; }
  /// All that it counted so far was told otherwise.
  void settle() noexcept { looked_at_ = units_; }
  /// Whose wishes interrupted() tells; it must outlive the counter.
  void obey(const Interrupt& interrupt) noexcept {
    interrupt_ = &interrupt;
    looked_at_ = units_;
    stopped_ = false;
  }
  void obey(const Interrupt&&) = delete;
  [[nodiscard]] bool interrupted() {
    constexpr std::int64_t kUnitsPerLook = 200'000;
    if (interrupt_ == nullptr) return false;
    if (stopped_ || interrupt_->by_hand()) return true;
    if (units_ - looked_at_ < kUnitsPerLook) return false;
    interrupt_->tell(units_ - looked_at_);
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
