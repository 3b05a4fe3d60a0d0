#pragma once
// One limit on time for a question that takes several solves.

#include <algorithm>
#include <mutex>

#include "base/work.hpp"
#include "kiteknot/solve.hpp"

namespace kiteknot {

class TimeLeft {
 public:
  explicit TimeLeft(const SolveOptions& options) : options_(options) { need_sensible(options); }
  /// For the next solve, which whoever listens hears of; also from several threads.
  [[nodiscard]] SolveOptions options(const std::string& name = {}) const {
    if (options_.asked) {
      const std::scoped_lock lock(telling_);
      options_.asked(name);
    }
    SolveOptions next = all();
    next.seconds = std::min(next.seconds, options_.seconds_each);
    return next;
  }
  /// For further questions.
  [[nodiscard]] SolveOptions all() const {
    SolveOptions next = options_;
    next.seconds = std::max(0.0, options_.seconds - clock_.seconds());
    return next;
  }
  [[nodiscard]] double gone() const { return clock_.seconds(); }
  [[nodiscard]] bool over() const {
    return Interrupt{&clock_, options_.seconds, options_.stop.flag()}.now();
  }

 private:
  SolveOptions options_;
  Stopwatch clock_;
  mutable std::mutex telling_;
};

}  // namespace kiteknot
