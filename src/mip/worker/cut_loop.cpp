#include "mip/worker/cut_loop.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {

CutLoop::CutLoop(NodeWorkspace& space, const SearchOptions& options)
    : space_(space),
      root_work_(options.given.root_work),
      at_root_(options.any_plan ? CutSwitches::none() : options.cuts),
      below_(options.any_plan || !options.cuts.below ? CutSwitches::none()
                                                     : CutSwitches::only_paths()) {}

std::vector<PartTally> CutLoop::parts() const {
  std::vector<PartTally> parts;
  for (std::size_t k = 0; k < at_root_.size(); ++k)
    parts.push_back({"cuts", at_root_.name(k), at_root_.tallies()[k]});
  for (std::size_t k = 0; k < below_.size(); ++k)
    parts.push_back({"cuts below the root", below_.name(k), below_.tallies()[k]});
  return parts;
}

// While rounds still move the bound. The first relaxation sets the measure for their work.
bool CutLoop::worth_another_round(double bound) {
  constexpr int kMostRounds = 60, kMostStalls = 6;
  constexpr double kLeastGain = 0.01;  // of all that was gained
  constexpr std::int64_t kMostWork = 20, kGrace = 2'000'000;
  auto& r = rounds_;
  if (r.rounds == 0) {
    r.first = r.last = bound;
    r.work = space_.spent() + root_work_;
  } else {
    const double gain = bound - r.last, all = bound - r.first;
    r.stalls = gain > kLeastGain * all && gain > 1e-9 * std::abs(bound) ? 0 : r.stalls + 1;
    r.last = std::max(r.last, bound);
  }
  const std::int64_t spent = space_.spent() + root_work_ - r.work;
  return r.rounds++ < kMostRounds && r.stalls < kMostStalls && spent <= kMostWork * r.work + kGrace;
}

// What was closed of the gap against what the relaxation grew by: a node of few rows is looked at
// much faster without many cuts.
bool CutLoop::worth_their_rows(double bound, double best) const {
  constexpr double kLeastClosed = 0.1;  // for as many cuts as there were rows
  constexpr double kNoPlan = 0.02;      // a plan so far off says as little of the gap as none
  const auto cuts = static_cast<double>(space_.pool.num_in_relaxation());
  const auto rows = static_cast<double>(space_.relaxation.simplex().program().num_rows()) - cuts;
  const double gap = best - rounds_.first;
  if (!(gap > 0.0) || !(gap < kNoPlan * std::max(1.0, std::abs(best)))) return true;
  return (bound - rounds_.first) * rows >= kLeastClosed * cuts * gap;
}

bool CutLoop::bring_in(const std::vector<LinearRow>& rows, std::int64_t scope, Counts& counts) {
  bool found = false;
  for (const LinearRow& row : rows) {
    const Index name = space_.pool.add(row, scope, true);
    if (space_.pool.in_relaxation(name)) continue;
    space_.pool.bring_in(name, space_.relaxation);
    ++counts.cuts;
    found = true;
  }
  return found;
}

bool CutLoop::at_root(double bound, double best, PresentNode& node) {
  if (at_root_.empty() || node.task->brief || rounds_.over) return false;
  constexpr int kSlackRounds = 3;
  Counts& counts = node.out.counts;
  bool found = false, left = false;
  if (worth_another_round(bound)) {
    const auto relaxed = space_.relaxation.point();
    const std::vector<double> point(relaxed.begin(), relaxed.end());
    const std::vector<LinearRow>& rows = at_root_.round(space_.at_point(point, false));
    left = space_.pool.age(space_.relaxation, kSlackRounds);
    found = bring_in(rows, space_.pool.any_local() ? node.task->number : -1, counts);
  }
  if (found) return true;
  rounds_.over = true;
  if (counts.cuts == 0) return left;
  (void)space_.pool.age(space_.relaxation, 0);
  if (!worth_their_rows(bound, best)) space_.pool.let_implied_go(space_.relaxation);
  return true;
}

bool CutLoop::came_from_paths() const {
  if (space_.problem.num_integers() == space_.problem.num_columns()) return false;
  const std::int64_t paths = at_root_.chosen_of(CutFamily::paths);
  return paths > 0 && 2 * paths >= at_root_.chosen();
}

// It goes on while a round closes its share of what there is between the node and the best plan.
bool CutLoop::Rounds::another(double bound, double best, std::int64_t number, int most, int trial) {
  constexpr double kLeastShare = 0.05;  // of a round, on average
  if (node != number) {
    node = number;
    rounds = 0;
  }
  if (rounds > 0 && best > last) closed += std::clamp((bound - last) / (best - last), 0.0, 1.0);
  if (rounds++ >= most) return false;
  if (all >= trial && closed < kLeastShare * all) return false;
  ++all;
  last = bound;
  return true;
}

bool CutLoop::below(double bound, double best, PresentNode& node) {
  constexpr std::int64_t kDeepest = 4;
  if (below_.empty() || node.task->brief || node.task->depth > kDeepest || best == kInf)
    return false;
  if (!rounds_below_.another(bound, best, node.task->number, 3, 10)) return false;
  const auto relaxed = space_.relaxation.point();
  const std::vector<double> point(relaxed.begin(), relaxed.end());
  return bring_in(below_.round(space_.at_point(point, false)), node.task->number, node.out.counts);
}

bool CutLoop::by_point(double bound, double best, PresentNode& node) {
  return rounds_by_point_.another(bound, best, node.task->number, 10, 40) &&
         space_.relaxation.sharpen(space_.domain);
}

}  // namespace kiteknot::mip
