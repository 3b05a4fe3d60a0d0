#include "mip/search/incumbents.hpp"

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "mip/problem/exact_rows.hpp"

namespace kiteknot::mip {

void Incumbents::enter(const Translation& stage, const Problem& problem) {
  KITEKNOT_CHECK(!few_.on() || stage.same(), "the best few are searched for as they came");
  stage_ = stage;
  step_ = problem.goal_step();
  shared_.reset();
  if (any())
    if (auto plan = stage_.plan_in(best_plan_->plan); plan && is_whole(problem, *plan))
      shared_ = std::make_shared<const std::vector<Rational>>(std::move(*plan));
  tell_goal();
}

// A stage may look for whole values where the problem as it came does not, and goals of its steps:
// what is better than a plan from before is so by a step from the next of them on.
void Incumbents::tell_goal() {
  goal_.reset();
  best_ = std::numeric_limits<double>::infinity();
  const Rational* goal = few_.on() ? few_.last() : any() ? &best_plan_->goal : nullptr;
  if (goal == nullptr) return;
  goal_ = to_step(stage_.goal_in(*goal), step_);
  best_ = rounded_up(*goal_);
}

bool Incumbents::offer(Found found) {
  if (few_.on()) {
    if (!few_.offer(found.plan, found.goal)) return false;
    std::erase_if(found_, [&](const auto& f) { return few_.with_key(f.first) == nullptr; });
    found_.insert_or_assign(few_.key_of(found.plan), found);
    if (!best_plan_ || found.goal < best_plan_->goal)
      replace(std::move(found));
    else
      tell_goal();
    return true;
  }
  if (goal_ && found.goal >= *goal_) return false;
  replace(std::move(found));
  return true;
}

void Incumbents::replace(Found found) {
  shared_ = std::make_shared<const std::vector<Rational>>(found.plan);
  found.plan = stage_.plan_out(*shared_);
  found.goal += stage_.constant();
  best_plan_ = std::move(found);
  tell_goal();
}

// Exact: a later one as good stands behind it (BestFew::in_order).
std::vector<const Found*> Incumbents::in_place(double bound, std::size_t first) const {
  std::vector<const Found*> found;
  std::size_t place = 0;
  for (const auto& [goal, key] : few_.in_order()) {
    if (std::isfinite(bound) ? goal > Rational::exactly(bound) : bound < 0.0) break;
    if (place++ >= first) found.push_back(&found_.at(key));
  }
  return found;
}

void Incumbents::hand_over(SearchResult& result, double bound) {
  result.few.in_place = in_place(bound, 0).size();
  for (const auto& [goal, key] : few_.in_order())
    result.few.plans.push_back({std::move(found_.at(key).plan), goal});
  if (!best_plan_) return;
  result.plan = std::move(best_plan_->plan);
  result.goal = std::move(best_plan_->goal);
  result.remarks = std::move(best_plan_->remarks);
  result.found_by = best_plan_->by;
  best_plan_.reset();
}

}  // namespace kiteknot::mip
