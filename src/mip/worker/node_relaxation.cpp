// The relaxation of a node: solved, bounded for certain, and what that means.

#include <algorithm>
#include <cmath>

#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

// What the relaxation's verdict means for the node, and its bound.
std::optional<Worker::End> Worker::take_report(const lp::Report& report, double& bound) {
  switch (report.status) {
    case lp::Status::infeasible:
      learn_from_relaxation(true);
      return closed(ClosedBy::relaxation);
    case lp::Status::limit:
      node_.out.bound = std::max(node_.out.bound, space_.relaxation.simplex().bound());
      return End::stopped;
    case lp::Status::unbounded:
      return settle_endless();
    case lp::Status::undecided:
      node_.out.reason =
          report.reason.empty() ? "a relaxation could not be settled" : report.reason;
      return settle_point(false);
    case lp::Status::optimal:
    case lp::Status::cutoff:
      break;
  }
  bound = certain_bound();
  if (node_.task->depth == 0 && std::isfinite(bound))
    root_.remember(bound, node_.costs, space_.relaxation);
  node_.out.bound = std::max(node_.out.bound, bound);
  node_.relaxed_goal = report.objective;
  if (report.status == lp::Status::optimal && known_.worth_sharpening(node_.out.bound)) sharpen();
  if (known_.closes(node_.out.bound)) {
    learn_from_relaxation(false);
    return closed(ClosedBy::bound);
  }
  if (report.status != lp::Status::cutoff) return std::nullopt;
  return space_.problem.exact() ? settle_point(false) : look_past_cutoff(bound);
}

// The goal passed the best plan's, but no bound says so for certain: to the end, then.
std::optional<Worker::End> Worker::look_past_cutoff(double& bound) {
  const lp::Report report = space_.relaxation.solve({.interrupt = space_.interrupt});
  node_.out.counts.pivots += report.pivots;
  if (report.status == lp::Status::infeasible) return closed(ClosedBy::relaxation);
  if (report.status == lp::Status::limit) return End::stopped;
  if (report.status != lp::Status::optimal) return settle_point(false);
  bound = space_.relaxation.simplex().sharp_bound(&node_.costs.reduced);
  node_.costs.hold_to = space_.relaxation.simplex().bound_holds_to();
  node_.out.bound = std::max(node_.out.bound, bound);
  node_.relaxed_goal = report.objective;
  if (known_.closes(node_.out.bound)) return closed(ClosedBy::bound);
  return std::nullopt;
}

lp::Report Worker::relax(bool loose, bool quick) {
  space_.relaxation.follow(space_.domain, loose);
  lp::Report report = space_.relaxation.solve(
      {.cutoff = known_.cutoff().target(), .quick = quick, .interrupt = space_.interrupt});
  node_.out.counts.pivots += report.pivots;
  return report;
}

// In plain arithmetic where that decides as much as outward rounding would.
double Worker::certain_bound() {
  lp::Simplex& simplex = space_.relaxation.simplex();
  double bound = simplex.bound(&node_.costs.reduced);
  if (node_.task->depth == 0 ||
      (!known_.closes(bound) && known_.closes(add_up(bound, 2.0 * simplex.bound_radius()))))
    bound = simplex.sharp_bound(&node_.costs.reduced);
  node_.costs.hold_to = simplex.bound_holds_to();
  return bound;
}

// Outward rounding may have cost the last digit that a proof needs; the basis has it exactly.
void Worker::sharpen() {
  const lp::Simplex& simplex = space_.relaxation.simplex();
  const auto exact = lp::exact_bound(simplex.program(), simplex.basis(), space_.exact);
  if (!exact) return;
  node_.out.bound = std::max(
      node_.out.bound, known_.reached_by(*exact) ? known_.best() : step_down(exact->to_double()));
}

// Whole columns that are not basic stand at whole bounds.
void Worker::find_fractional() {
  node_.fractional.clear();
  const std::span<const double> point = space_.relaxation.point();
  for (const Index j : space_.relaxation.simplex().basic()) {
    if (j >= space_.problem.num_columns() || !space_.problem.integer(j) || space_.domain.fixed(j))
      continue;
    const double fraction = point[at(j)] - std::floor(point[at(j)]);
    if (std::min(fraction, 1.0 - fraction) > Tolerances{}.integrality)
      node_.fractional.push_back(j);
  }
  std::sort(node_.fractional.begin(), node_.fractional.end());
}

}  // namespace kiteknot::mip
