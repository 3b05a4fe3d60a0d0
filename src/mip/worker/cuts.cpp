// Rounds of cuts, at the root and near it. They hold for every plan that is better than the best
// one was when they were made: what prices have fixed by then is taken for granted.

#include <algorithm>
#include <cmath>

#include "mip/separators/path_aggregation.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

// While rounds still move the bound. The first relaxation sets the measure for their work.
bool Worker::worth_another_round(double bound) {
  constexpr int kMostRounds = 60, kMostStalls = 6;
  constexpr double kLeastGain = 0.01;  // of all that was gained
  constexpr std::int64_t kMostWork = 20, kGrace = 2'000'000;
  CutRounds& r = cut_rounds_;
  if (r.rounds == 0) {
    r.first = r.last = bound;
    r.work = work_.units() + relaxation_.simplex().work().units() + options_.root_work;
  } else {
    const double gain = bound - r.last, all = bound - r.first;
    r.stalls = gain > kLeastGain * all && gain > 1e-9 * std::abs(bound) ? 0 : r.stalls + 1;
    r.last = std::max(r.last, bound);
  }
  const std::int64_t spent =
      work_.units() + relaxation_.simplex().work().units() + options_.root_work - r.work;
  return r.rounds++ < kMostRounds && r.stalls < kMostStalls && spent <= kMostWork * r.work + kGrace;
}

// What was closed of the gap against what the relaxation grew by: a node of few rows is looked at
// much faster without many cuts.
bool Worker::worth_their_rows(double bound) const {
  constexpr double kLeastClosed = 0.1;  // for as many cuts as there were rows
  constexpr double kNoPlan = 0.02;      // a plan so far off says as little of the gap as none
  const auto cuts = static_cast<double>(pool_.num_in_relaxation());
  const auto rows = static_cast<double>(relaxation_.simplex().program().num_rows()) - cuts;
  const double gap = best_ - cut_rounds_.first;
  if (!(gap > 0.0) || !(gap < kNoPlan * std::max(1.0, std::abs(best_)))) return true;
  return (bound - cut_rounds_.first) * rows >= kLeastClosed * cuts * gap;
}

// True where the relaxation changed and is to be solved again. At the end rows that turned out
// slack leave it.
bool Worker::cut(double bound) {
  if (task_->depth > 0) return cut_below(bound);
  if (cutting_.empty() || task_->brief || cut_rounds_.over) return false;
  constexpr int kSlackRounds = 3;
  bool found = false, left = false;
  if (worth_another_round(bound)) {
    const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
    const std::vector<LinearRow>& rows =
        cutting_.round({domain_, point, relaxation_, work_, implied_, false});
    left = pool_.age(relaxation_, kSlackRounds);
    for (const LinearRow& row : rows) {
      const Index name = pool_.add(row, pool_.any_local() ? task_->number : -1, true);
      if (pool_.in_relaxation(name)) continue;
      pool_.bring_in(name, relaxation_);
      ++out_.counts.cuts;
      found = true;
    }
  }
  if (found) return true;
  cut_rounds_.over = true;
  if (out_.counts.cuts == 0) return left;
  (void)pool_.age(relaxation_, 0);
  if (!worth_their_rows(bound)) pool_.let_implied_go(relaxation_);
  return true;
}

// Most of the root's cuts were sums of rows along paths: flows behind links that are yes or no. Of
// these the branchings near the root leave other sums worth rounding; of other families they do
// not.
bool Worker::cuts_came_from_paths() const {
  if (problem_.num_integers() == problem_.num_columns()) return false;
  std::int64_t all = 0, paths = 0;
  for (std::size_t k = 0; k < cutting_.size(); ++k) {
    all += cutting_.tallies()[k].steps;
    if (cutting_.name(k) == PathAggregation::kName) paths += cutting_.tallies()[k].steps;
  }
  return paths > 0 && 2 * paths >= all;
}

// The same at the first branchings: such cuts hold below them, by the bounds there. It goes on
// while a round closes its share of what there is between the node and the best plan.
bool Worker::cut_below(double bound) {
  constexpr std::int64_t kDeepest = 4;
  constexpr int kMostRounds = 3, kTrial = 10;  // of a node; of the search, whatever they bring
  constexpr double kLeastShare = 0.05;         // of a round, on average
  CutsBelow& b = cuts_below_;
  if (below_.empty() || !root_ || !root_->cut_by_paths || task_->brief || task_->depth > kDeepest ||
      best_ == kInf)
    return false;
  if (b.node != task_->number) {
    b.node = task_->number;
    b.rounds = 0;
  }
  if (b.rounds > 0 && best_ > b.last)
    b.closed += std::clamp((bound - b.last) / (best_ - b.last), 0.0, 1.0);
  if (b.rounds++ >= kMostRounds) return false;
  if (b.all >= kTrial && b.closed < kLeastShare * b.all) return false;
  ++b.all;
  b.last = bound;
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  bool found = false;
  for (const LinearRow& row : below_.round({domain_, point, relaxation_, work_, implied_, false})) {
    const Index name = pool_.add(row, task_->number, true);
    if (pool_.in_relaxation(name)) continue;
    pool_.bring_in(name, relaxation_);
    ++out_.counts.cuts;
    found = true;
  }
  return found;
}

}  // namespace kiteknot::mip
