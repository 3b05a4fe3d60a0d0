// The path of a solve: which method from which start, and what is done when an answer does not
// stand up to a last look.

#include "lp/simplex.hpp"

#include <algorithm>
#include <cmath>

#include "base/infinity.hpp"
#include "lp/exact_pivots.hpp"

namespace kiteknot::lp {

void Simplex::begin(const SimplexOptions& options) {
  state_.grow();
  state_.touch();
  state_.ended_at.reset();
  state_.meter.begin(options, state_.work);
  proof_.begin();
  dual_.begin();
  state_.pivot_threshold = linalg::LuOptions{}.pivot_threshold;
  if (state_.load_bounds_and_costs()) state_.known.duals = false;
  state_.dual_tolerance = options.tolerances.optimality * state_.goal.largest;
}

Report Simplex::finish(Status status) {
  state_.goal.changed = false;
  state_.meter.parts = nullptr;
  return {status, state_.end_goal().value, state_.meter.spent_pivots(),
          std::move(state_.meter.reason)};
}

// Every round that does not end on a basis that stands makes the next one more careful: a new
// factor, then a stabler one, then smaller tolerances to steer by.
Report Simplex::solve(const SimplexOptions& options) {
  begin(options);
  if (options.interrupt.now()) return finish(Status::limit);
  SimplexOptions steer = options;
  constexpr int kRounds = 10;
  for (int round = 0; round < kRounds && !state_.meter.exhausted(state_.n + state_.m); ++round) {
    const Status status = optimise(steer);
    if (status == Status::undecided) break;
    if (status != Status::optimal || options.rough) return finish(status);
    if (options.quick && std::isfinite(proof_.quick_bound(nullptr)) &&
        proof_.bound_meets_objective())
      return finish(Status::optimal);
    if (settled(options)) {
      if (proof_.bound_meets_objective()) return finish(Status::optimal);
      // A reduced cost may be small beside the others and worth much over its column's range.
      state_.dual_tolerance *= 1e-3;
    }
    if (state_.load_bounds_and_costs()) state_.known.duals = false;
    state_.stale();
    if (round == 2) state_.pivot_threshold = 0.5;
    if (round == 4) {
      steer.tolerances.feasibility *= 0.1;
      state_.dual_tolerance *= 0.1;
    }
  }
  return last_resort(options);
}

// From the basis at hand in exact arithmetic.
Report Simplex::last_resort(const SimplexOptions& options) {
  if (state_.meter.reason.empty())
    state_.meter.reason = "the simplex method did not settle on a clean basis";
  if (options.exact_pivots == 0) return finish(Status::undecided);
  const auto end = exact_pivots(state_.program, state_.basis(),
                                {options.exact_pivots, {.interrupt = options.interrupt}});
  const auto sayable = [](const Rational& v) { return std::isfinite(v.to_double()); };
  if (!end || end->status == Status::limit || !std::all_of(end->x.begin(), end->x.end(), sayable) ||
      !std::all_of(end->ray.begin(), end->ray.end(), sayable))
    return finish(Status::undecided);
  state_.meter.reason.clear();
  state_.set_basis(end->basis);
  state_.grow();
  (void)state_.load_bounds_and_costs();
  state_.refresh();
  for (Index j = 0; j < state_.n; ++j) state_.x[at(j)] = end->x[at(j)].to_double();
  state_.moved.all = true;
  state_.ended_at.reset();
  proof_.begin();
  std::vector<double> ray;
  for (const Rational& v : end->ray) ray.push_back(v.to_double());
  proof_.set_ray(std::move(ray));
  return finish(end->status);
}

Status Simplex::optimise(const SimplexOptions& options) {
  state_.touch();
  if (!state_.factored) state_.factorise();
  if (!state_.known.duals) state_.compute_duals();
  // Places fit the bounds before anybody judges the duals.
  for (Index k = 0; k < state_.n + state_.m && !state_.known.values && state_.unboxed > 0; ++k)
    if (state_.place[at(k)] != VariableStatus::basic) state_.settle(k);
  state_.meter.stalled = 0;
  Path path = options.path;
  if (path == Path::choose) {
    path = Path::dual;
    const bool stuck = state_.any_stuck();
    if (state_.goal.changed || stuck) {
      state_.settle_all();
      // From the rows alone phase 1 of the dual is the longer way (docs/benchmarks.md).
      const bool fresh = std::all_of(state_.basic.begin(), state_.basic.end(),
                                     [&](Index k) { return k >= state_.n; });
      if (state_.primal_feasible(options.tolerances.feasibility) || (stuck && fresh))
        path = Path::primal;
    }
  }
  if (path == Path::dual) return dual_way(options);
  state_.settle_all();
  const Status status = primal_.run(options);
  // What the primal cannot prove, the dual may: its proofs are rows of the inverse.
  return status == Status::undecided ? dual_way(options) : status;
}

Status Simplex::dual_way(const SimplexOptions& options) {
  state_.settle_all();
  if (state_.any_stuck()) {
    const Status status = dual_.run_phase_one(options);
    if (status != Status::optimal) return status;
    state_.settle_all();
    // No basis is dual feasible: no end, or no plan.
    if (state_.any_stuck()) {
      const Status primal = primal_.run(options);
      if (primal != Status::undecided) return primal;
      state_.meter.reason.clear();
      state_.settle_all();
    }
  }
  dual_.make_dual_feasible();
  const Status status = dual_.run(options);
  if (status != Status::optimal || !state_.goal.shifted) return status;
  (void)state_.load_bounds_and_costs();
  state_.compute_duals();
  return state_.any_dual_infeasible(state_.dual_tolerance) ? primal_.run(options) : Status::optimal;
}

// Values and duals from scratch with the factor as it is, refined; true where they solve their
// equations and lie within the tolerances.
bool Simplex::settled(const SimplexOptions& options) {
  const double primal = options.tolerances.feasibility;
  const double dual = state_.dual_tolerance;
  state_.compute_values();
  state_.compute_duals();
  state_.ended_at.reset();
  constexpr int kSteps = 3;
  constexpr double kGood = 1e-12;  // of the residual, below which another step gains nothing
  double residual = state_.refine_values();
  for (int step = 1; step < kSteps && residual > kGood; ++step) residual = state_.refine_values();
  if (residual > primal || state_.dual_residual > dual) return false;
  for (Index k = 0; k < state_.n + state_.m; ++k)
    if (state_.infeasibility(k) > primal * (1.0 + std::abs(state_.x[at(k)])) ||
        state_.dual_infeasible(k, 10.0 * dual))
      return false;
  return true;
}

}  // namespace kiteknot::lp
