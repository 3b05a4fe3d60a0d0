#include "mip/search/incumbents.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {

bool Incumbents::offer(Found found) {
  if (few_.on()) {
    if (!few_.offer(found.plan, found.goal)) return false;
    std::erase_if(found_, [&](const auto& f) { return few_.with_key(f.first) == nullptr; });
    found_.insert_or_assign(few_.key_of(found.plan), found);
    if (!best_plan_ || found.goal < best_plan_->goal) replace(std::move(found));
    best_ =
        few_.last() != nullptr ? rounded_up(*few_.last()) : std::numeric_limits<double>::infinity();
    return true;
  }
  if (best_plan_ && found.goal >= best_plan_->goal) return false;
  replace(std::move(found));
  return true;
}

void Incumbents::replace(Found found) {
  shared_ = std::make_shared<const std::vector<Rational>>(found.plan);
  best_ = rounded_up(found.goal);
  best_plan_ = std::move(found);
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
  result.few_in_place = in_place(bound, 0).size();
  for (const auto& [goal, key] : few_.in_order())
    result.few.push_back({std::move(found_.at(key).plan), goal});
  if (!best_plan_) return;
  result.plan = std::move(best_plan_->plan);
  result.goal = std::move(best_plan_->goal);
  result.remarks = std::move(best_plan_->remarks);
  result.found_by = best_plan_->by;
  best_plan_.reset();
}

}  // namespace kiteknot::mip
