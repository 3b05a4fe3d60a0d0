// The path of a solve: which method from which start, and what is done when an answer does not
// stand up to a last look.

#include <algorithm>
#include <cmath>

#include "base/infinity.hpp"
#include "lp/exact_pivots.hpp"
#include "lp/simplex.hpp"

namespace kiteknot::lp {
void Simplex::begin(const SimplexOptions& options) {
  grow();
  bound_known_ = false;
  interrupt_ = options.interrupt;
  end_goal_.reset();
  parts_ = options.parts;
  pivots_at_start_ = pivots_;
  work_at_start_ = work_at_look_ = work_.units();
  farkas_.clear();
  ray_.clear();
  reason_.clear();
  if (any_ignored_ || ignored_.size() != at(n_ + m_)) ignored_.assign(at(n_ + m_), 0);
  any_ignored_ = false;
  pivot_threshold_ = linalg::LuOptions{}.pivot_threshold;
  if (load_bounds_and_costs()) duals_known_ = false;
  dual_tolerance_ = options.tolerances.optimality * largest_cost_;
}

Report Simplex::finish(Status status) {
  goal_changed_ = false;
  parts_ = nullptr;
  return {status, end_goal().value, pivots_ - pivots_at_start_, std::move(reason_)};
}

// Every round that does not end on a basis that stands makes the next one more careful: a new
// factor, then a stabler one, then smaller tolerances to steer by.
Report Simplex::solve(const SimplexOptions& options) {
  begin(options);
  if (options.interrupt.now()) return finish(Status::limit);
  SimplexOptions steer = options;
  constexpr int kRounds = 10;
  for (int round = 0; round < kRounds && !exhausted(); ++round) {
    const Status status = optimise(steer);
    if (status == Status::undecided) break;
    if (status != Status::optimal || options.rough) return finish(status);
    if (options.quick && std::isfinite(quick_bound(nullptr)) && bound_meets_objective())
      return finish(Status::optimal);
    if (settled(options)) {
      if (bound_meets_objective()) return finish(Status::optimal);
      // A reduced cost may be small beside the others and worth much over its column's range.
      dual_tolerance_ *= 1e-3;
    }
    if (load_bounds_and_costs()) duals_known_ = false;
    stale();
    if (round == 2) pivot_threshold_ = 0.5;
    if (round == 4) {
      steer.tolerances.feasibility *= 0.1;
      dual_tolerance_ *= 0.1;
    }
  }
  return last_resort(options);
}

// From the basis at hand in exact arithmetic.
Report Simplex::last_resort(const SimplexOptions& options) {
  if (reason_.empty()) reason_ = "the simplex method did not settle on a clean basis";
  if (options.exact_pivots == 0) return finish(Status::undecided);
  const auto end =
      exact_pivots(program_, basis(), {options.exact_pivots, {.interrupt = options.interrupt}});
  const auto sayable = [](const Rational& v) { return std::isfinite(v.to_double()); };
  if (!end || end->status == Status::limit || !std::all_of(end->x.begin(), end->x.end(), sayable) ||
      !std::all_of(end->ray.begin(), end->ray.end(), sayable))
    return finish(Status::undecided);
  reason_.clear();
  set_basis(end->basis);
  grow();
  (void)load_bounds_and_costs();
  refresh();
  for (Index j = 0; j < n_; ++j) x_[at(j)] = end->x[at(j)].to_double();
  all_moved_ = true;
  end_goal_.reset();
  farkas_.clear();
  ray_.clear();
  for (const Rational& v : end->ray) ray_.push_back(v.to_double());
  return finish(end->status);
}

// Whether the safe bound tells the same as the point; where it is not finite, nothing can be told.
bool Simplex::bound_meets_objective() {
  constexpr double kNear = 1e-9;       // of the terms' sizes
  constexpr double kSmallest = 1e-18;  // dual tolerance, beyond which nothing is gained
  const double safe = quick_bound(nullptr);
  if (safe == -kInf || dual_tolerance_ < kSmallest) return true;
  return end_goal().value - safe <= kNear * end_goal().size;
}

const Simplex::EndGoal& Simplex::end_goal() {
  if (!end_goal_) {
    double size = 0.0;
    const double value = objective(&size);
    end_goal_ = EndGoal{value, size};
  }
  return *end_goal_;
}

bool Simplex::primal_feasible(double tolerance) const {
  return std::none_of(excess_.begin(), excess_.end(), [&](double by) { return by > tolerance; });
}

bool Simplex::any_dual_infeasible(double tolerance) const {
  for (Index k = 0; k < n_ + m_; ++k)
    if (dual_infeasible(k, tolerance)) return true;
  return false;
}

// Whether a reduced cost has the wrong sign and its variable no other bound to move to.
bool Simplex::any_stuck() const {
  if (unboxed_ == 0 && !in_phase_one_) return false;
  if (!all_moved_)
    return std::any_of(moved_.begin(), moved_.end(),
                       [&](Index k) { return !boxed(k) && dual_infeasible(k, dual_tolerance_); });
  for (Index k = 0; k < n_ + m_; ++k)
    if (!boxed(k) && dual_infeasible(k, dual_tolerance_)) return true;
  return false;
}

Status Simplex::optimise(const SimplexOptions& options) {
  bound_known_ = false;
  if (!factored_) factor();
  if (!duals_known_) compute_duals();
  // Places fit the bounds before anybody judges the duals.
  for (Index k = 0; k < n_ + m_ && !values_known_ && unboxed_ > 0; ++k)
    if (place_[at(k)] != VariableStatus::basic) settle(k);
  stalled_ = 0;
  Path path = options.path;
  if (path == Path::choose) {
    path = Path::dual;
    const bool stuck = any_stuck();
    if (goal_changed_ || stuck) {
      settle_all();
      // From the rows alone phase 1 of the dual is the longer way (docs/benchmarks.md).
      const bool fresh =
          std::all_of(basic_.begin(), basic_.end(), [&](Index k) { return k >= n_; });
      if (primal_feasible(options.tolerances.feasibility) || (stuck && fresh)) path = Path::primal;
    }
  }
  if (path == Path::dual) return dual_way(options);
  settle_all();
  const Status status = run_primal(options);
  // What the primal cannot prove, the dual may: its proofs are rows of the inverse.
  return status == Status::undecided ? dual_way(options) : status;
}

Status Simplex::dual_way(const SimplexOptions& options) {
  settle_all();
  if (any_stuck()) {
    const Status status = run_dual_phase_one(options);
    if (status != Status::optimal) return status;
    settle_all();
    // No basis is dual feasible: no end, or no plan.
    if (any_stuck()) {
      const Status primal = run_primal(options);
      if (primal != Status::undecided) return primal;
      reason_.clear();
      settle_all();
    }
  }
  make_dual_feasible();
  const Status status = run_dual(options);
  if (status != Status::optimal || !shifted_) return status;
  (void)load_bounds_and_costs();
  compute_duals();
  return any_dual_infeasible(dual_tolerance_) ? run_primal(options) : Status::optimal;
}

}  // namespace kiteknot::lp
