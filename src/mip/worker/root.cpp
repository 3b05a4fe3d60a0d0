// The relaxation as stated, before anything is found out.

#include <cmath>

#include "mip/relaxation/ray.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

RootOutcome Worker::solve_as_stated() {
  RootOutcome root;
  if (!options_.basis.empty()) relaxation_.simplex().set_basis(options_.basis);
  const lp::Report report = relaxation_.solve({.cutoff = kInf, .interrupt = interrupt_});
  root.counts.pivots = report.pivots;
  RelaxedAnswer& relaxed = root.relaxed;
  relaxed.status = report.status;
  if (report.status == lp::Status::unbounded) {
    // Other constraints than linear rows may be what keeps the goal in; then branching will tell.
    root.endless = problem_.linear() || exact_ray(problem_, relaxation_.ray()).has_value();
  } else if (report.status == lp::Status::optimal) {
    const auto point = relaxation_.point();
    relaxed.value = report.objective;
    relaxed.point.assign(point.begin(), point.end());
    relaxed.integral = is_integral(point);
    relaxed.row_duals = relaxation_.row_duals();
    relaxed.row_duals.resize(at(problem_.num_rows()));
    relaxed.reduced_costs = relaxation_.reduced_costs();
    if (options_.rooms && problem_.num_integers() == 0) find_rooms(relaxed);
  }
  root.basis = relaxation_.simplex().basis();
  root.counts.work = work_since_then();
  if (root.endless || report.status == lp::Status::infeasible) return root;
  root.possible = problem_.round_limits();
  if (!root.possible) return root;
  for (Index i = 0; i < problem_.num_rows(); ++i)  // linear rows come first in the relaxation
    relaxation_.set_limits(i, problem_.row_lower(i), problem_.row_upper(i));
  root.bound = relaxation_.simplex().bound();
  return root;
}

void Worker::find_rooms(RelaxedAnswer& relaxed) {
  relaxed.degenerate = relaxation_.simplex().degenerate();
  constexpr double kMostWork = 1e9;  // a solve and a pricing for every line
  const lp::Program& program = relaxation_.simplex().program();
  if (static_cast<double>(program.num_rows()) * static_cast<double>(program.num_nonzeros()) >
      kMostWork)
    return;
  for (Index i = 0; i < problem_.num_rows(); ++i) {
    if (interrupt_.now()) return relaxed.limit_rooms.clear();
    relaxed.limit_rooms.push_back(relaxation_.limit_room(i));
  }
  for (Index j = 0; j < problem_.num_columns(); ++j) {
    if (interrupt_.now()) return relaxed.cost_rooms.clear();
    relaxed.cost_rooms.push_back(relaxation_.cost_room(j));
  }
}

bool Worker::is_integral(std::span<const double> point) const {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) &&
        std::abs(point[at(j)] - std::round(point[at(j)])) > Tolerances{}.integrality)
      return false;
  return true;
}

}  // namespace kiteknot::mip
