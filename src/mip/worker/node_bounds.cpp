// What bounds tell: when they close a node, and what those of the root leave of every later one.

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"
#include "mip/interface/exact_goals.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

// Whether a node with this bound holds nothing better than the best plan: exactly, since best_ is
// rounded up and every goal is a multiple of the step.
bool Worker::closes(double bound) const {
  return best_ < kInf && (options_.any_plan || cutoff().closes(bound));
}

// Whether the bound comes within the gap at which a proof is complete if nothing better can be had.
bool Worker::nearly_closes(double bound) const {
  if (best_ == kInf || problem_.goal_step() > 0.0 || !std::isfinite(bound)) return false;
  return best_ - bound <= kProofGap * std::abs(best_ + options_.goal_offset);
}

// Whether rounding could be all that keeps the bound from closing the node.
bool Worker::worth_sharpening(double bound) const {
  constexpr double kRounding = 1e-7;
  return best_ < kInf && std::isfinite(bound) && !closes(bound) &&
         best_ - bound <= kRounding * std::max(std::abs(best_), goal_size_);
}

// Outward rounding may have cost the last digit that a proof needs; the basis has it exactly.
void Worker::sharpen() {
  const auto exact = lp::exact_bound(relaxation_.simplex().program(), relaxation_.simplex().basis(),
                                     exact_limits());
  if (!exact) return;
  // Goals below the best one are a step away at least.
  const double step = problem_.goal_step();
  const bool reached = best_ == kInf ? false
                       : step > 0.0  ? *exact > *goal_ - Rational::exactly(step)
                                     : *exact >= *goal_;
  out_.bound = std::max(out_.bound, reached ? best_ : step_down(exact->to_double()));
}

// A node that is left takes the goal of its key along.
void Worker::forget_key() {
  if (!few_.on()) return;
  const Rational* last = few_.last();
  goal_ = last != nullptr ? std::optional(*last) : std::nullopt;
  best_ = last != nullptr ? rounded_up(*last) : kInf;
}

// Where all key columns have one value only what is better than the best plan with them counts.
void Worker::narrow_to_key() {
  if (!few_.on()) return;
  BestFew::Key key;
  for (const Index j : few_.key_columns()) {
    if (!domain_.fixed(j)) return;
    key.push_back(Rational::exactly(domain_.lower(j)));
  }
  const Rational* own = few_.with_key(key);
  if (own == nullptr || (goal_ && *goal_ <= *own)) return;
  goal_ = *own;
  best_ = rounded_up(*own);
}

// The reduced costs belong to the bounds that the relaxation had.
void Worker::remember_root(double bound) {
  own_root_ = {bound, reduced_, {}, {}, {}, false};
  for (Index j = 0; j < problem_.num_columns(); ++j) {
    own_root_.lower.push_back(relaxation_.simplex().program().lower(j));
    own_root_.upper.push_back(relaxation_.simplex().program().upper(j));
  }
}

// What the root found out holds for all.
void Worker::hand_out_root() {
  for (const Domain::Step& step : domain_.trail()) own_root_.changes.push_back(step.change);
  own_root_.cut_by_paths = cuts_came_from_paths();
  root_ = std::make_shared<const RootFacts>(std::exchange(own_root_, {}));
  root_mark_ = domain_.mark();
  out_.root = root_;
}

// Another worker looked at the root.
void Worker::adopt_root(std::shared_ptr<const RootFacts> root) {
  root_ = std::move(root);
  (void)path_.go(0, {}, 0, domain_);
  domain_.because({Reason::By::root});
  for (const Change& c : root_->changes)
    if (!domain_.apply(c)) break;  // every node will find out
  domain_.because({});
  root_mark_ = domain_.mark();
}

// A better plan than the one last used at the root makes bounds tighter for the whole tree.
void Worker::tighten_root() {
  if (!root_ || root_->reduced.empty() || best_ >= root_fixed_for_ || !options_.price_fixing)
    return;
  root_fixed_for_ = best_;
  (void)path_.go(0, {}, root_mark_, domain_);
  domain_.because({Reason::By::reduced_cost});
  tighten_by_reduced_costs(domain_, root_->reduced, cutoff().room(root_->bound),
                           {root_->lower, root_->upper});
  domain_.because({});
  if (!propagation_.run(domain_, work_)) domain_.undo_to(root_mark_);  // every node will find out
  root_mark_ = domain_.mark();
}

}  // namespace kiteknot::mip
