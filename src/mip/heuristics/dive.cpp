#include "mip/heuristics/dive.hpp"

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"

namespace kiteknot::mip {
namespace {

constexpr std::int64_t kDiveGrace = 5'000'000;  // units of work before the share counts
constexpr std::int64_t kShare = 8;              // one of so many units
constexpr std::int64_t kFirst = 2;              // calls that may take more

std::int64_t work_of(const NodeView& node) {
  return node.work.units() + node.relaxation.simplex().work().units();
}

}  // namespace

bool Dive::wants(const NodeView& node) const {
  constexpr std::int64_t kEvery = 50, kEveryWithoutPlan = 10;
  if (work_ > node.spent / kShare + kDiveGrace) return false;
  // Before cuts only where nothing else has come up with a plan.
  if (node.depth == 0) return node.moment == NodeView::Moment::divided || node.cutoff.best == kInf;
  const std::int64_t every = node.cutoff.best == kInf ? kEveryWithoutPlan : kEvery;
  return node.nodes % (every * (1 + calls_ - points_)) == 0;
}

// Rows that keep the column from going up, or down.
double Dive::locks(const Problem& problem, Index j, bool up) const {
  const auto index = problem.columns().index(j);
  const auto value = problem.columns().value(j);
  double count = 0.0;
  for (std::size_t k = 0; k < index.size(); ++k) {
    const bool raises = (value[k] > 0.0) == up;
    count += std::isfinite(raises ? problem.row_upper(index[k]) : problem.row_lower(index[k]));
  }
  return count;
}

// Where the column goes first, and how soon: `part` is what is above the whole value below.
void Dive::rate(Step& step, double part, const NodeView& node) const {
  bool up = part > 0.5;
  switch (way_) {
    case kFewestRows: {
      const double down_locks = locks(node.domain.problem(), step.column, false);
      const double up_locks = locks(node.domain.problem(), step.column, true);
      up = up_locks != down_locks ? up_locks < down_locks : up;
      step.score = std::min(down_locks, up_locks) + (up ? 1.0 - part : part);
      break;
    }
    case kLikeThePlan:
      up = node.best_plan[at(step.column)] > step.near;
      step.score = up ? 1.0 - part : part;
      break;
    case kLeastRise: {
      const double down = node.history.rise(step.column, false) * part;
      const double rise = node.history.rise(step.column, true) * (1.0 - part);
      up = rise != down ? rise < down : up;
      step.score = std::min(down, rise) - std::max(down, rise);  // the clearest first
      break;
    }
    default:
      step.score = up ? 1.0 - part : part;
  }
  if (up) std::swap(step.near, step.far);
}

void Dive::list_steps(const NodeView& node, std::span<const double> point) {
  const Problem& problem = node.domain.problem();
  steps_.clear();
  for (Index j = 0; j < problem.num_columns(); ++j) {
    if (!problem.integer(j) || node.domain.fixed(j)) continue;
    const double x = point[at(j)], below = std::floor(x), part = x - below;
    if (std::min(part, 1.0 - part) <= Tolerances{}.integrality) continue;
    Step step{j, below, below + 1.0, 0.0};
    rate(step, part, node);
    steps_.push_back(step);
  }
  node.work.add(problem.num_columns());
  std::stable_sort(steps_.begin(), steps_.end(),
                   [](const Step& a, const Step& b) { return a.score < b.score; });
}

bool Dive::fix(const NodeView& node, Index j, double value) {
  return node.domain.raise_lower(j, value) && node.domain.drop_upper(j, value) &&
         node.propagation.run(node.domain, node.work);
}

bool Dive::relax(const NodeView& node) {
  constexpr std::int64_t kMostPivots = 2'000;  // a solve
  node.relaxation.follow(node.domain);
  const lp::Report report = node.relaxation.solve({.max_pivots = kMostPivots,
                                                   .cutoff = node.cutoff.target(),
                                                   .quick = true,
                                                   .exact_pivots = 0,
                                                   .interrupt = node.interrupt});
  node.own_pivots += report.pivots;
  return report.status == lp::Status::optimal;
}

bool Dive::descend(const NodeView& node) {
  constexpr std::size_t kPartAStep = 8;  // of the fractional columns
  const std::int64_t before = work_of(node);
  // The first one may take as long as all that came before it: a good plan early is worth that.
  const std::int64_t most = (calls_ <= kFirst ? node.spent : node.spent / kShare) + 2 * kDiveGrace;
  list_steps(node, node.point);
  while (!steps_.empty()) {
    if (work_ + work_of(node) - before > most || node.interrupt.now()) return false;
    const std::size_t many = 1 + steps_.size() / kPartAStep;
    Step last;
    std::size_t before_last = node.domain.mark();
    bool possible = true;
    for (std::size_t k = 0; k < steps_.size() && k < many && possible; ++k) {
      if (node.domain.fixed(steps_[k].column)) continue;
      last = steps_[k];
      before_last = node.domain.mark();
      possible = fix(node, last.column, last.near);
    }
    if (!possible || !relax(node)) {
      if (last.column < 0) return false;
      node.domain.undo_to(before_last);
      if (!fix(node, last.column, last.far) || !relax(node)) return false;
    }
    list_steps(node, node.relaxation.point());
  }
  return true;
}

std::optional<std::vector<double>> Dive::look(const NodeView& node) {
  way_ = static_cast<Way>(
      chooser_.next([&](std::size_t k) { return k != kLikeThePlan || !node.best_plan.empty(); }));
  ++calls_;
  const std::size_t mark = node.domain.mark();
  const std::int64_t before = work_of(node);
  std::optional<std::vector<double>> point;
  if (descend(node)) {
    ++points_;
    point.emplace(node.relaxation.point().begin(), node.relaxation.point().end());
  }
  chooser_.tried(way_, point.has_value());
  node.domain.undo_to(mark);
  work_ += work_of(node) - before;
  return point;
}

}  // namespace kiteknot::mip
