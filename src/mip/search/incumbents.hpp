#pragma once
// The best plan so far, and how the search came to it.

#include "mip/domain/cutoff.hpp"
#include "mip/interface/best_few.hpp"
#include "mip/interface/exact_goals.hpp"
#include "mip/interface/task.hpp"

namespace kiteknot::mip {

class Incumbents {
 public:
  explicit Incumbents(double step, const FewWanted& few = {}) : step_(step), few_(few) {}
  /// Takes a plan that is better than the best one (of the best few: than one of them); false for
  /// any other.
  bool offer(Found found);
  /// A plan beside a ray counts whatever its goal is.
  void replace(Found found);
  [[nodiscard]] bool any() const noexcept { return best_plan_.has_value(); }
  [[nodiscard]] const Found& plan() const { return *best_plan_; }
  /// Its goal rounded up; infinite where there is none, or its goal is beyond the doubles. Of the
  /// best few that of the last one, once there are so many.
  [[nodiscard]] double best() const noexcept { return best_; }
  /// The same exactly.
  [[nodiscard]] const Rational* goal() const {
    return few_.on() ? few_.last() : any() ? &best_plan_->goal : nullptr;
  }
  [[nodiscard]] std::size_t size() const noexcept {
    return few_.on() ? found_.size() : any() ? 1 : 0;
  }
  /// Of the best few those that no plan can come before any more, given that what is not yet found
  /// is worth `bound` at least; from the one in place `first` on.
  [[nodiscard]] std::vector<const Found*> in_place(double bound, std::size_t first) const;
  /// A copy to share; null where there is none.
  [[nodiscard]] const std::shared_ptr<const std::vector<Rational>>& shared() const noexcept {
    return shared_;
  }
  [[nodiscard]] Cutoff cutoff() const noexcept { return {best_, step_}; }
  /// `bound`: as in_place has it.
  void hand_over(SearchResult& result, double bound);

 private:
  double step_;
  double best_ = std::numeric_limits<double>::infinity();
  BestFew few_;
  std::map<BestFew::Key, Found> found_;  // of the best few
  std::optional<Found> best_plan_;
  std::shared_ptr<const std::vector<Rational>> shared_;
};

}  // namespace kiteknot::mip
