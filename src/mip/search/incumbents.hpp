#pragma once
// The best plans so far. They are kept as plans of the problem as it came, whichever stage found
// them; the goal that the others have to come below is told in the terms of the present stage.

#include "mip/domain/cutoff.hpp"
#include "mip/interface/best_few.hpp"
#include "mip/interface/exact_goals.hpp"
#include "mip/interface/task.hpp"
#include "mip/search/translation.hpp"

namespace kiteknot::mip {

class Incumbents {
 public:
  explicit Incumbents(const FewWanted& few = {}) : few_(few) {}
  /// From here on plans come from, and goals are asked for in, the terms of this stage, whose
  /// problem it is.
  void enter(const Translation& stage, const Problem& problem);
  /// Takes a plan of the stage's that is better than the best one (of the best few: than one of
  /// them); false for any other.
  bool offer(Found found);
  /// A plan beside a ray counts whatever its goal is.
  void replace(Found found);
  [[nodiscard]] bool any() const noexcept { return best_plan_.has_value(); }
  /// The best one, of the problem as it came.
  [[nodiscard]] const Found& plan() const { return *best_plan_; }
  /// Its goal rounded up; infinite where there is none, or its goal is beyond the doubles. Of the
  /// best few that of the last one, once there are so many.
  [[nodiscard]] double best() const noexcept { return best_; }
  /// The same exactly.
  [[nodiscard]] const std::optional<Rational>& goal() const noexcept { return goal_; }
  /// Whether it is the best few that are looked for.
  [[nodiscard]] bool several() const noexcept { return few_.on(); }
  [[nodiscard]] std::size_t size() const noexcept {
    return few_.on() ? found_.size() : any() ? 1 : 0;
  }
  /// Of the best few those that no plan can come before any more, given that what is not yet found
  /// is worth `bound` at least; from the one in place `first` on.
  [[nodiscard]] std::vector<const Found*> in_place(double bound, std::size_t first) const;
  /// The best plan as one of the stage's, to share; null where none stands for it.
  [[nodiscard]] const std::shared_ptr<const std::vector<Rational>>& shared() const noexcept {
    return shared_;
  }
  [[nodiscard]] Cutoff cutoff() const noexcept { return {best_, step_}; }
  /// `bound`: as in_place has it, of the problem as it came.
  void hand_over(SearchResult& result, double bound);

 private:
  void tell_goal();

  Translation stage_;
  double step_ = 0.0;
  BestFew few_;                          // of them all stages are the problem as it came
  std::map<BestFew::Key, Found> found_;  // of the best few
  std::optional<Found> best_plan_;
  std::optional<Rational> goal_;                           // to come below, in the stage's terms
  double best_ = std::numeric_limits<double>::infinity();  // the same rounded up
  std::shared_ptr<const std::vector<Rational>> shared_;
};

}  // namespace kiteknot::mip
