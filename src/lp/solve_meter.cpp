#include "lp/solve_meter.hpp"

namespace kiteknot::lp {

void SolveMeter::begin(const SimplexOptions& options, const WorkCounter& work) {
  interrupt = options.interrupt;
  parts = options.parts;
  pivots_at_start_ = pivots;
  work_at_start_ = work.units();
  reason.clear();
}

bool SolveMeter::exhausted(std::int64_t variables) {
  constexpr std::int64_t kEach = 200, kSome = 2000;
  if (spent_pivots() < kSome + kEach * variables) return false;
  reason = "the simplex method went round in circles";
  return true;
}

// The clock is looked at after some work, not after some pivots: these may be slow or quick.
bool SolveMeter::over_limit(const SimplexOptions& options, const WorkCounter& work) {
  constexpr std::int64_t kWorkPerLook = 100'000;
  if (spent_pivots() >= options.max_pivots || work.units() - work_at_start_ >= options.max_work ||
      options.interrupt.by_hand())
    return true;
  if (work.units() - work_at_look_ < kWorkPerLook) return false;
  options.interrupt.tell(work.units() - work_at_look_);
  work_at_look_ = work.units();
  return options.interrupt.by_time();
}

}  // namespace kiteknot::lp
