// What bounds tell: when they close a node, what they add up to for the tree, and what those of the
// root leave of every later one.

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::mip {

// Of the best plan, relative to its value as the user states it.
double Search::gap_to(double bound) const {
  return relative_gap(best_ + options_.goal_offset, bound + options_.goal_offset, goal_size_);
}

// Whether a node with this bound holds nothing better than the best plan: exactly, since best_ is
// rounded up and every goal is a multiple of the step.
bool Search::closes(double bound) const {
  return best_ < kInf && (options_.any_plan || cutoff().closes(bound));
}

// Whether the bound comes within the gap at which a proof is complete if nothing better can be had.
bool Search::nearly_closes(double bound) const {
  if (best_ == kInf || problem_.goal_step() > 0.0 || !std::isfinite(bound)) return false;
  return best_ - bound <= kProofGap * std::abs(best_ + options_.goal_offset);
}

// Whether rounding could be all that keeps the bound from closing the node.
bool Search::worth_sharpening(double bound) const {
  constexpr double kRounding = 1e-7;
  return best_ < kInf && std::isfinite(bound) && !closes(bound) &&
         best_ - bound <= kRounding * std::max(std::abs(best_), goal_size_);
}

// Outward rounding may have cost the last digit that a proof needs; the basis has it exactly.
void Search::sharpen(Node& node) {
  const auto exact = lp::exact_bound(relaxation_.simplex().program(), relaxation_.simplex().basis(),
                                     exact_limits());
  if (!exact) return;
  // Goals below the best one are a step away at least.
  const double step = problem_.goal_step();
  const bool reached = best_ == kInf ? false
                       : step > 0.0  ? *exact > result_.goal - Rational::exactly(step)
                                     : *exact >= result_.goal;
  node.bound = reached ? best_ : std::max(node.bound, step_down(exact->to_double()));
}

double Search::global_bound(double current) const {
  double bound = std::min({current, loose_bound_, unresolved_bound_, best_});
  if (!open_.empty()) bound = std::min(bound, open_.best_bound());
  if (next_) bound = std::min(bound, next_->bound);
  bound = std::max(bound, std::min(options_.known_bound, best_));
  const double step = problem_.goal_step();
  if (step > 0.0 && std::isfinite(bound)) {  // lift to the next value that a plan can have
    const double lifted = std::ceil(divide_down(bound, step)) * step;
    bound = std::min(std::max(bound, lifted), best_);
  }
  return bound;
}

// The reduced costs belong to the bounds that the relaxation had.
void Search::remember_root(double bound, const std::vector<Interval>& reduced) {
  root_bound_ = bound;
  root_reduced_ = reduced;
  root_lower_.clear();
  root_upper_.clear();
  for (Index j = 0; j < problem_.num_columns(); ++j) {
    root_lower_.push_back(relaxation_.simplex().program().lower(j));
    root_upper_.push_back(relaxation_.simplex().program().upper(j));
  }
}

// A better plan than the one last used at the root makes bounds tighter for the whole tree.
void Search::tighten_root() {
  if (root_reduced_.empty() || best_ >= root_fixed_for_) return;
  root_fixed_for_ = best_;
  domain_.undo_to(root_mark_);
  way_.clear();
  domain_.because({Reason::By::reduced_cost});
  tighten_by_reduced_costs(domain_, root_reduced_, cutoff().room(root_bound_),
                           {root_lower_, root_upper_});
  domain_.because({});
  if (!propagation_.run(domain_, work_)) domain_.undo_to(root_mark_);  // every node will find out
  root_mark_ = domain_.mark();
}

}  // namespace kiteknot::mip
