// When a search stops, what its bounds add up to, and what may be said then.

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"
#include "mip/search/tree_search.hpp"

namespace kiteknot::mip {

bool TreeSearch::out_of_limits() {
  if (interrupt_.by_hand())
    stopped_by_ = StoppedBy::hand;
  else if (interrupt_.by_time())
    stopped_by_ = StoppedBy::time;
  else if (counts_.nodes + ranks_.nodes >= options_.budget.nodes)
    stopped_by_ = StoppedBy::nodes;
  else if (out_of_memory())
    stopped_by_ = StoppedBy::memory;
  else if (options_.gap > 0.0 && context_.incumbents.best() < kInf && !closes(global_bound()) &&
           gap_to(global_bound()) <= options_.gap)
    stopped_by_ = StoppedBy::gap;
  return stopped_by_ != StoppedBy::nothing;
}

// Of the best plan, relative to its value as the user states it.
double TreeSearch::gap_to(double bound) const {
  return relative_gap(context_.incumbents.best() + options_.goal_offset,
                      bound + options_.goal_offset, goal_size_);
}

// Whether nothing better than the best plan has this bound: exactly, since its goal is rounded up
// and every goal is a multiple of the step.
bool TreeSearch::closes(double bound) const {
  Cutoff cutoff = context_.incumbents.cutoff();
  cutoff.spare = spare();
  return cutoff.best < kInf && (options_.any_plan || cutoff.closes(bound));
}

double TreeSearch::spare() const {
  return spare_of(proof_gap_, context_.incumbents.best(), options_.goal_offset, options_.goal_unit);
}

double TreeSearch::global_bound(double beside) const {
  const double best = context_.incumbents.best();
  // Nodes may have been closed that hold something better by less than is spared.
  const double least = proof_gap_ > 0.0 ? add_down(best, -spare()) : best;
  double bound = std::min({beside, bounds_.loose, bounds_.unresolved, ranks_.bound, least});
  if (!open_.empty()) bound = std::min(bound, open_.best_bound());
  bound = std::min(bound, overflow_.best_bound());
  for (const Seat& seat : seats_) {
    for (const NodeId id : {seat.next, seat.in_hand})
      if (id != kNoNode) bound = std::min(bound, tree_[id].bound);
    for (const auto& ids : seat.given)
      for (const NodeId id : ids) bound = std::min(bound, tree_[id].bound);
  }
  bound = std::max(bound, std::min(options_.given.known_bound, best));
  const double step = worker_.problem().goal_step();
  if (step > 0.0 && std::isfinite(bound)) {  // lift to the next value that a plan can have
    const double lifted = std::ceil(divide_down(bound, step)) * step;
    bound = std::min(std::max(bound, lifted), best);
  }
  return bound;
}

Standing TreeSearch::standing() const {
  const Incumbents& known = context_.incumbents;
  std::int64_t open = static_cast<std::int64_t>(open_.size()) + overflow_.size() + ranks_.open;
  for (const Seat& seat : seats_) open += seat.next != kNoNode ? 1 : 0;
  return terms_.out({context_.clock.seconds(), known.best(), global_bound(opened_ ? kInf : -kInf),
                     context_.spent.nodes + counts_.nodes + ranks_.nodes, open,
                     known.any() ? known.plan().by : std::string(), known.size(),
                     static_cast<int>(seats_.size())});
}

bool TreeSearch::finished() const {
  // A plan for which another rank has closed its nodes may still be on its way.
  if (ranks_.joined && !(options_.ranks->leads() && options_.ranks->all_done() &&
                         context_.incumbents.best() <= options_.ranks->best_of_all()))
    return false;
  return !any_next() && !any_in_hand() && open_.empty() && overflow_.empty();
}

void TreeSearch::conclude(SearchResult& result) {
  const Incumbents& known = context_.incumbents;
  if (shut_ && terms_.same()) {  // whatever plan the judge took within its tolerances
    result.outcome = Outcome::infeasible;
    return;
  }
  if (ray_) {
    result.outcome = Outcome::unbounded;
    result.ray = terms_.ray_out(*ray_);
    return;
  }
  result.stopped_by = stopped_by_;
  result.reason = reason_;
  const double best = known.best(), bound = global_bound();
  const bool all_settled = finished() && bounds_.unresolved == kInf;
  result.bound = terms_.bound_out(bound);
  if (known.any()) {  // best may be infinite beside it: a goal beyond the doubles
    if (all_settled || closes(bound)) {
      result.outcome = Outcome::optimal;
      result.stopped_by = StoppedBy::nothing;
    } else if (options_.gap > 0.0 && gap_to(bound) <= options_.gap) {
      result.outcome = Outcome::accepted;
    } else {
      result.outcome = Outcome::unproven;
    }
  } else {
    result.outcome = all_settled ? Outcome::infeasible : Outcome::undecided;
  }
  if (result.outcome == Outcome::optimal || result.outcome == Outcome::infeasible ||
      (result.stopped_by != StoppedBy::nothing && bounds_.unresolved == kInf))
    result.reason = all_settled || closes(bound) ? std::string() : ranks_.trouble;
  result.proven_exactly =
      result.outcome == Outcome::optimal && bound >= best && bounds_.loose >= best;
  if (known.any() && best < kInf && bound >= best) result.bound = rounded_down(known.plan().goal);
  if (opened_) context_.history.push_back(standing());
}

}  // namespace kiteknot::mip
