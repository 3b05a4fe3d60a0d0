// When a search stops, what its bounds add up to, and what may be said then.

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::mip {

double relative_gap(double value, double bound, double goal_size) {
  if (value == bound) return 0.0;
  constexpr double kLeast = 1e-10;
  return std::abs(value - bound) / std::max(std::abs(value), kLeast * goal_size);
}

std::string_view name_of(ClosedBy by) {
  constexpr std::array<std::string_view, kWaysToClose> kNames = {
      "none",     "conflict", "relaxation", "bound",     "remainder",
      "children", "point",    "nearly",     "unresolved"};
  return kNames[static_cast<std::size_t>(by)];
}

std::string_view word(StoppedBy by) {
  constexpr std::array<std::string_view, 6> kWords = {"", "time", "nodes", "gap", "memory", "hand"};
  return kWords[static_cast<std::size_t>(by)];
}

bool Search::out_of_limits() {
  if (interrupt_.by_hand())
    result_.stopped_by = StoppedBy::hand;
  else if (interrupt_.by_time())
    result_.stopped_by = StoppedBy::time;
  else if (result_.nodes >= options_.nodes)
    result_.stopped_by = StoppedBy::nodes;
  else if (out_of_memory())
    result_.stopped_by = StoppedBy::memory;
  else if (options_.gap > 0.0 && incumbents_.best() < kInf && !closes(global_bound(kInf)) &&
           gap_to(global_bound(kInf)) <= options_.gap)
    result_.stopped_by = StoppedBy::gap;
  return result_.stopped_by != StoppedBy::nothing;
}

// Of the best plan, relative to its value as the user states it.
double Search::gap_to(double bound) const {
  return relative_gap(incumbents_.best() + options_.goal_offset, bound + options_.goal_offset,
                      worker_.goal_size());
}

// Whether nothing better than the best plan has this bound: exactly, since its goal is rounded up
// and every goal is a multiple of the step.
bool Search::closes(double bound) const {
  return incumbents_.best() < kInf && (options_.any_plan || incumbents_.cutoff().closes(bound));
}

double Search::global_bound(double current) const {
  const double best = incumbents_.best();
  double bound = std::min({current, loose_bound_, unresolved_bound_, best});
  if (!open_.empty()) bound = std::min(bound, open_.best_bound());
  bound = std::min(bound, overflow_.best_bound());
  if (next_ != kNoNode) bound = std::min(bound, tree_[next_].bound);
  bound = std::max(bound, std::min(options_.known_bound, best));
  const double step = worker_.problem().goal_step();
  if (step > 0.0 && std::isfinite(bound)) {  // lift to the next value that a plan can have
    const double lifted = std::ceil(divide_down(bound, step)) * step;
    bound = std::min(std::max(bound, lifted), best);
  }
  return bound;
}

Standing Search::standing(double current) const {
  return {clock_.seconds(),
          incumbents_.best(),
          global_bound(current),
          result_.nodes,
          static_cast<std::int64_t>(open_.size()) + overflow_.size() + (next_ != kNoNode ? 1 : 0),
          incumbents_.any() ? incumbents_.plan().by : std::string(),
          incumbents_.size()};
}

void Search::conclude() {
  if (result_.ray) {
    result_.outcome = Outcome::unbounded;
    result_.bound = -kInf;
    result_.reason.clear();
    return;
  }
  const double best = incumbents_.best();
  const double bound = global_bound(kInf);
  const bool finished = next_ == kNoNode && open_.empty() && overflow_.empty();
  result_.bound = bound;
  if (incumbents_.any()) {  // best may be infinite beside it: a goal beyond the doubles
    if ((finished && unresolved_bound_ == kInf) || closes(bound)) {
      result_.outcome = Outcome::optimal;
      result_.stopped_by = StoppedBy::nothing;
      result_.reason.clear();
    } else if (options_.gap > 0.0 && gap_to(bound) <= options_.gap) {
      result_.outcome = Outcome::accepted;
    } else {
      result_.outcome = Outcome::unproven;
    }
  } else if (finished && unresolved_bound_ == kInf) {
    result_.outcome = Outcome::infeasible;
  } else {
    result_.outcome = Outcome::undecided;
  }
  if (result_.outcome == Outcome::optimal || result_.outcome == Outcome::infeasible ||
      (result_.stopped_by != StoppedBy::nothing && unresolved_bound_ == kInf))
    result_.reason.clear();
  result_.proven_exactly =
      result_.outcome == Outcome::optimal && bound >= best && loose_bound_ >= best;
  // best was rounded up; as a bound it is handed on rounded down.
  if (incumbents_.any() && best < kInf && bound >= best &&
      Rational::exactly(best) > incumbents_.plan().goal)
    result_.bound = step_down(best);
  result_.history.push_back(standing(kInf));
}

}  // namespace kiteknot::mip
