#include "mip/worker/known_best.hpp"

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"
#include "mip/interface/exact_goals.hpp"

namespace kiteknot::mip {

double goal_size(const Problem& problem) {
  double size = 1.0;
  for (Index j = 0; j < problem.num_columns(); ++j)
    size = std::max(size, std::abs(problem.cost(j)));
  return size;
}

double proof_gap_of(const Problem& problem, const SearchOptions& options) {
  const bool to_the_digit = problem.exact() && !options.plans_only;
  return to_the_digit || problem.goal_step() > 0.0 ? 0.0 : options.proof_gap;
}

KnownBest::KnownBest(const Problem& problem, const SearchOptions& options)
    : step_(problem.goal_step()),
      goal_offset_(options.goal_offset),
      goal_size_(goal_size(problem)),
      proof_gap_(proof_gap_of(problem, options)),
      goal_unit_(options.goal_unit),
      any_plan_(options.any_plan),
      few_(options.few) {}

// Goals below the best one are a step away at least.
bool KnownBest::reached_by(const Rational& bound) const {
  if (!any()) return false;
  return step_ > 0.0 ? bound > *goal_ - Rational::exactly(step_) : bound >= *goal_;
}

bool KnownBest::nearly_closes(double bound) const {
  if (!any() || step_ > 0.0 || !std::isfinite(bound)) return false;
  return best_ - bound <= kProofGap * std::abs(best_ + goal_offset_);
}

bool KnownBest::worth_sharpening(double bound) const {
  constexpr double kRounding = 1e-7;
  return any() && std::isfinite(bound) && !closes(bound) &&
         best_ - bound <= kRounding * std::max(std::abs(best_), goal_size_);
}

void KnownBest::set_goal(const Rational& goal) {
  goal_ = to_step(goal, step_);
  best_ = rounded_up(*goal_);
  spare_ = spare_of(proof_gap_, best_, goal_offset_, goal_unit_);
}

void KnownBest::keep(std::shared_ptr<const std::vector<Rational>> plan) {
  plan_ = std::move(plan);
  point_ = in_doubles(*plan_);
}

void KnownBest::learn(const SharedKnowledge& known) {
  if (!known.goal || (goal_ && *known.goal >= *goal_)) return;
  goal_ = known.goal;
  best_ = known.best;
  spare_ = spare_of(proof_gap_, best_, goal_offset_, goal_unit_);
  if (known.plan) keep(known.plan);
}

bool KnownBest::offer(std::span<const Rational> plan, const Rational& goal) {
  if (few_.on() ? !few_.offer(plan, goal) : goal_ && goal >= *goal_) return false;
  // Not the key's own goal, of the best few: the domain may stand at the plan for the moment.
  const Rational* cut = few_.on() ? few_.last() : &goal;
  if (cut != nullptr && (!goal_ || *cut < *goal_)) set_goal(*cut);
  keep(std::make_shared<const std::vector<Rational>>(plan.begin(), plan.end()));
  return true;
}

void KnownBest::forget_key() {
  if (!few_.on()) return;
  goal_.reset();
  best_ = kInf;
  if (const Rational* last = few_.last()) set_goal(*last);
}

void KnownBest::narrow_to_key(const Domain& domain) {
  if (!few_.on()) return;
  BestFew::Key key;
  for (const Index j : few_.key_columns()) {
    if (!domain.fixed(j)) return;
    key.push_back(Rational::exactly(domain.lower(j)));
  }
  const Rational* own = few_.with_key(key);
  if (own != nullptr && (!goal_ || *goal_ > *own)) set_goal(*own);
}

}  // namespace kiteknot::mip
