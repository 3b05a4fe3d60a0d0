// The relaxation as stated, before anything is found out.

#include <cmath>

#include "lp/sifting.hpp"
#include "mip/relaxation/ray.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

namespace {

void find_rooms(NodeWorkspace& space, RelaxedAnswer& relaxed) {
  relaxed.degenerate = space.relaxation.simplex().degenerate();
  constexpr double kMostWork = 1e9;  // a solve and a pricing for every line
  const lp::Program& program = space.relaxation.simplex().program();
  if (static_cast<double>(program.num_rows()) * static_cast<double>(program.num_nonzeros()) >
      kMostWork)
    return;
  for (Index i = 0; i < space.problem.num_rows(); ++i) {
    if (space.interrupt.now()) return relaxed.limit_rooms.clear();
    relaxed.limit_rooms.push_back(space.relaxation.limit_room(i));
  }
  for (Index j = 0; j < space.problem.num_columns(); ++j) {
    if (space.interrupt.now()) return relaxed.cost_rooms.clear();
    relaxed.cost_rooms.push_back(space.relaxation.cost_room(j));
  }
}

bool is_integral(const Problem& problem, std::span<const double> point) {
  for (Index j = 0; j < problem.num_columns(); ++j)
    if (problem.integer(j) &&
        std::abs(point[at(j)] - std::round(point[at(j)])) > Tolerances{}.integrality)
      return false;
  return true;
}

}  // namespace

// A wide relaxation starts from the basis of a few of its columns, a long one from that of its
// longer rows; returns the pivots of that.
std::int64_t Worker::sift() {
  const lp::Program& program = space_.relaxation.simplex().program();
  std::vector<Index> wanted;
  const std::span<const double> plan = known_.point();
  for (Index j = 0; j < static_cast<Index>(plan.size()); ++j)
    if (plan[at(j)] != space_.problem.lower(j)) wanted.push_back(j);
  const lp::Sifted sifted =
      lp::sift(program, {wanted, space_.interrupt, setting_.options.budget.seed});
  space_.work.add(sifted.work);
  if (!sifted.basis.empty()) space_.relaxation.simplex().set_basis(sifted.basis);
  return sifted.pivots;
}

RootOutcome Worker::solve_as_stated() {
  RootOutcome root;
  if (!setting_.options.given.basis.empty())
    space_.relaxation.simplex().set_basis(setting_.options.given.basis);
  else
    root.counts.pivots += sift();
  const lp::Report report =
      space_.relaxation.solve({.cutoff = kInf, .interrupt = space_.interrupt});
  root.counts.pivots += report.pivots;
  RelaxedAnswer& relaxed = root.relaxed;
  relaxed.status = report.status;
  if (report.status == lp::Status::unbounded) {
    // Other constraints than linear rows may be what keeps the goal in; then branching will tell.
    root.endless =
        space_.problem.linear() || exact_ray(space_.problem, space_.relaxation.ray()).has_value();
  } else if (report.status == lp::Status::optimal) {
    const auto point = space_.relaxation.point();
    relaxed.value = report.objective;
    relaxed.point.assign(point.begin(), point.end());
    relaxed.integral = is_integral(space_.problem, point);
    relaxed.row_duals = space_.relaxation.row_duals();
    relaxed.row_duals.resize(at(space_.problem.num_rows()));
    relaxed.reduced_costs = space_.relaxation.reduced_costs();
    if (setting_.options.rooms && space_.problem.num_integers() == 0) find_rooms(space_, relaxed);
  }
  root.basis = space_.relaxation.simplex().basis();
  root.counts.work = work_since_then();
  if (root.endless || report.status == lp::Status::infeasible) return root;
  root.possible = space_.problem.round_limits();
  if (!root.possible) return root;
  for (Index i = 0; i < space_.problem.num_rows(); ++i)  // linear rows come first in the relaxation
    space_.relaxation.set_limits(i, space_.problem.row_lower(i), space_.problem.row_upper(i));
  root.bound = space_.relaxation.simplex().bound();
  return root;
}

}  // namespace kiteknot::mip
