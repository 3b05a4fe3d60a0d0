// Rounds of cuts at the root. They hold for every plan that is better than the best one was when
// they were made: what prices have fixed by then is taken for granted.

#include <algorithm>
#include <cmath>

#include "mip/search/worker.hpp"

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
  if (cutting_.empty() || task_->depth > 0 || task_->brief || cut_rounds_.over) return false;
  constexpr int kSlackRounds = 3;
  bool found = false;
  if (worth_another_round(bound)) {
    const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
    const std::vector<LinearRow>& rows =
        cutting_.round({domain_, point, relaxation_, work_, implied_, false});
    pool_.age(relaxation_, kSlackRounds);
    for (const LinearRow& row : rows) {
      const Index name = pool_.add(row, pool_.any_local() ? task_->number : -1, true);
      if (pool_.in_relaxation(name)) continue;
      pool_.bring_in(name, relaxation_);
      ++out_.cuts;
      found = true;
    }
  }
  if (found) return true;
  cut_rounds_.over = true;
  if (out_.cuts == 0) return false;
  pool_.age(relaxation_, 0);
  if (!worth_their_rows(bound)) pool_.let_implied_go(relaxation_);
  return true;
}

}  // namespace kiteknot::mip
