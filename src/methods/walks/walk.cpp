#include "methods/walks/walk.hpp"

#include <algorithm>

namespace kiteknot::methods {

bool Pace::over() {
  constexpr std::int64_t kLooksPerLookAtTheClock = 500;
  if (over_ || interrupt_.by_hand()) return true;
  const std::int64_t looks = ground_.looks();
  if (looked_at_ >= 0 && looks - looked_at_ < kLooksPerLookAtTheClock) return false;
  looked_at_ = looks;
  if (timed()) {
    share_ = interrupt_.clock->seconds() / interrupt_.seconds;
    over_ = share_ >= 1.0;
  } else {
    share_ = static_cast<double>(looks) / static_cast<double>(most_looks_);
    over_ = share_ >= 1.0;
  }
  return over_;
}

double Pace::share() {
  return over() ? 1.0 : std::min(1.0, share_);
}

bool BestPoint::offer(const Ground& ground) {
  Score now = ground.score();
  if (now.clean()) now.broken = 0.0;
  if (!values_.empty() && !better(now, score_)) return false;
  score_ = now;
  values_ = ground.values();
  if (now.clean() && told_(clock_.seconds(), model_.told_goal(now.goal))) pace_.end();
  return true;
}

}  // namespace kiteknot::methods
