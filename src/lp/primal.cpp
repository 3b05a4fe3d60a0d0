// The primal simplex. Phase 1 lowers the sum of infeasibilities, passing through the bounds of
// variables on the way while the sum still falls; phase 2 lowers the goal. Both price by devex
// weights (Harris 1973); the long step of phase 1 is in Maros 1986, "A general phase-I method in
// linear programming".

#include <algorithm>
#include <cmath>

#include "base/infinity.hpp"
#include "lp/exact_basis.hpp"
#include "lp/ray.hpp"
#include "lp/simplex.hpp"

namespace kiteknot::lp {
namespace {

constexpr int kPrimalStall =
    100;  // pivots without progress before entering variables are drawn by lot

}  // namespace

// 1. enter: the largest d^2 over its devex weight   2. column: B^-1 a_q
// 3. leave: two-pass ratio test (Harris 1973)       4. step; duals and weights along the pivot row
Status Simplex::run_primal(const SimplexOptions& options) {
  const Tolerances& tol = options.tolerances;
  end_goal_.reset();
  std::fill(weight_.begin(), weight_.end(), 1.0);  // the dual's weights end here
  all_moved_ = true;                               // for whoever starts from where this ends
  if (!primal_feasible(tol.feasibility)) {
    const Status status = run_primal_phase_one(options);
    if (status != Status::optimal) return status;
    if (load_bounds_and_costs() || !duals_known_) compute_duals();
  }
  devex_.assign(at(n_ + m_), 1.0);
  stalled_ = 0;
  while (true) {
    if (factor_worn()) refresh();
    if (over_limit(options)) return Status::limit;
    if (exhausted()) return Status::undecided;
    const Index q = choose_entering(dual_tolerance_);
    if (q < 0) return Status::optimal;
    const double direction = d_[at(q)] < 0.0 ? 1.0 : -1.0;
    load_entering(q, tol.drop);
    const PrimalStep step = primal_ratio_test(q, direction, tol);
    if (step.length == kInf) {
      if (lu_.num_updates() > 0) {
        refresh();
        continue;
      }
      if (store_ray(q, direction)) return Status::unbounded;
      reason_ = "a direction without an end was found, but not confirmed exactly";
      return Status::undecided;
    }
    if (!primal_step(q, direction, step, tol)) refresh();
  }
}

// The same loop over the prices of infeasibility, which change with the set of infeasible variables
// and are computed anew. Ends optimal where every bound is met; infeasible where nothing improves
// and the prices prove it.
Status Simplex::run_primal_phase_one(const SimplexOptions& options) {
  const Tolerances& tol = options.tolerances;
  devex_.assign(at(n_ + m_), 1.0);
  stalled_ = 0;
  while (true) {
    if (factor_worn()) {
      factor();
      compute_values();
    }
    if (over_limit(options)) return Status::limit;
    if (exhausted()) return Status::undecided;
    for (Index i = 0; i < m_; ++i) update_excess(i);
    if (primal_feasible(tol.feasibility)) return Status::optimal;
    price_infeasibility(tol.feasibility);
    const Index q = choose_entering(tol.optimality);
    if (q < 0) {
      if (proves_farkas()) return Status::infeasible;
      if (lu_.num_updates() > 0) {
        factor();
        compute_values();
        continue;
      }
      reason_ =
          "no way to lower the infeasibility was found, and no exact proof that there is none";
      return Status::undecided;
    }
    const double direction = d_[at(q)] < 0.0 ? 1.0 : -1.0;
    load_entering(q, tol.drop);
    const PrimalStep step = phase_one_ratio_test(q, direction, tol);
    if (step.length == kInf || !primal_step(q, direction, step, tol)) {
      if (lu_.num_updates() == 0) {
        reason_ = "a column and its price disagree even in a new factor";
        return Status::undecided;
      }
      factor();
      compute_values();
    }
  }
}

// rho := the multipliers of the infeasibility's gradient (-1 below, 1 above), d := the reduced
// costs of it.
void Simplex::price_infeasibility(double tolerance) {
  const Timed timer = timed(&Parts::pricing);
  rho_.clear();
  for (Index i = 0; i < m_; ++i)
    if (excess_[at(i)] > tolerance)  // as the ratio test judges, or the step would go uphill
      rho_.add(i, x_[at(basic_[at(i)])] < lower_[at(basic_[at(i)])] ? -1.0 : 1.0);
  lu_.btran(rho_, 0.0);
  price_row(rho_);
  std::fill(d_.begin(), d_.end(), 0.0);
  for (const Index k : alpha_.list())
    if (place_[at(k)] != VariableStatus::basic) d_[at(k)] = -alpha_[k];
  duals_known_ = false;
  work_.add(lu_.num_entries() + n_ + m_);
}

// x, the devex weights, the reduced costs and the basis after the step. False, with nothing
// changed, where the pivot's two computations disagree and a new factor may help.
bool Simplex::primal_step(Index q, double direction, const PrimalStep& step,
                          const Tolerances& tol) {
  stalled_ = step.length <= tol.feasibility ? stalled_ + 1 : 0;
  if (step.row < 0) {
    for (Index i : column_.list()) x_[at(basic_[at(i)])] -= direction * step.length * column_[i];
    place_[at(q)] = place_[at(q)] == VariableStatus::at_lower ? VariableStatus::at_upper
                                                              : VariableStatus::at_lower;
    settle(q);
    ++pivots_;
    return true;
  }
  const Index r = step.row, p = basic_[at(r)];
  invert_row(r, tol.drop);
  price_row(rho_);
  const double pivot = column_[r];
  if (std::abs(pivot - alpha_[q]) > tol.disagreement * (1.0 + std::abs(pivot)) &&
      lu_.num_updates() > 0)
    return false;
  for (Index i : column_.list()) x_[at(basic_[at(i)])] -= direction * step.length * column_[i];
  const double theta = d_[at(q)] / pivot;
  const double reference = std::max(devex_[at(q)], 1.0);
  for (Index k : alpha_.list()) {
    if (place_[at(k)] == VariableStatus::basic) continue;
    d_[at(k)] -= theta * alpha_[k];
    const double ratio = alpha_[k] / pivot;
    devex_[at(k)] = std::max(devex_[at(k)], ratio * ratio * reference);
  }
  d_[at(q)] = 0.0;
  d_[at(p)] = -theta;
  devex_[at(p)] = std::max(reference / (pivot * pivot), 1.0);
  x_[at(q)] += direction * step.length;
  x_[at(p)] = step.to_upper ? upper_[at(p)] : lower_[at(p)];
  swap_basis(r, q, step.to_upper ? VariableStatus::at_upper : VariableStatus::at_lower);
  return true;
}

// After a long stall the choice is drawn by lot, which ends cycles with probability 1.
Index Simplex::choose_entering(double tolerance) {
  const Timed timer = timed(&Parts::pricing);
  Index best = -1;
  double best_score = 0.0;
  Index seen = 0;
  for (Index k = 0; k < n_ + m_; ++k) {
    if (!dual_infeasible(k, tolerance)) continue;
    if (stalled_ > kPrimalStall) {
      if (random_.between(0, seen++) == 0) best = k;
      continue;
    }
    const double score = d_[at(k)] * d_[at(k)] / devex_[at(k)];
    if (score <= best_score) continue;
    best = k;
    best_score = score;
  }
  work_.add(n_ + m_);
  return best;
}

// Pass 1: the longest step that keeps every basic variable within its bounds plus the tolerance.
// Pass 2: among variables that block within it, the largest pivot.
Simplex::PrimalStep Simplex::primal_ratio_test(Index entering, double direction,
                                               const Tolerances& tol) const {
  const Timed timer = timed(&Parts::ratio_test);
  const double own = upper_[at(entering)] - lower_[at(entering)];
  double longest = kInf;
  for (Index i : column_.list()) {
    const double rate = -direction * column_[i];
    if (std::abs(rate) <= tol.pivot) continue;
    const Index k = basic_[at(i)];
    const double room = rate > 0.0 ? upper_[at(k)] - x_[at(k)] : x_[at(k)] - lower_[at(k)];
    longest = std::min(longest, (std::max(room, 0.0) + tol.feasibility) / std::abs(rate));
  }
  PrimalStep best{own, -1, false};
  if (own <= longest) return best;
  double largest = 0.0;
  best.length = kInf;
  for (Index i : column_.list()) {
    const double rate = -direction * column_[i];
    if (std::abs(rate) <= tol.pivot) continue;
    const Index k = basic_[at(i)];
    const double room = rate > 0.0 ? upper_[at(k)] - x_[at(k)] : x_[at(k)] - lower_[at(k)];
    const double length = std::max(room, 0.0) / std::abs(rate);
    if (length > longest || std::abs(rate) <= largest) continue;
    largest = std::abs(rate);
    best = {length, i, rate > 0.0};
  }
  return best;
}

// Every bound that a basic variable meets on the way makes the sum of infeasibilities fall more
// slowly, by the size of its pivot; the step ends where it would rise. Among the bounds passed the
// last with a pivot of some size leaves.
Simplex::PrimalStep Simplex::phase_one_ratio_test(Index entering, double direction,
                                                  const Tolerances& tol) {
  const Timed timer = timed(&Parts::ratio_test);
  breaks_.clear();
  for (const Index i : column_.list()) {
    const double rate = -direction * column_[i];
    if (std::abs(rate) <= tol.pivot) continue;
    const Index k = basic_[at(i)];
    const double x = x_[at(k)], low = lower_[at(k)], high = upper_[at(k)];
    const bool below = x<low - tol.feasibility, above = x> high + tol.feasibility;
    // Upward a variable meets its lower bound if it was below, and its upper bound unless above.
    if (rate > 0.0) {
      if (below) breaks_.push_back({(low - x) / rate, i, false});
      if (!above && std::isfinite(high))
        breaks_.push_back({std::max(high - x, 0.0) / rate, i, true});
    } else {
      if (above) breaks_.push_back({(high - x) / rate, i, true});
      if (!below && std::isfinite(low))
        breaks_.push_back({std::min(low - x, 0.0) / rate, i, false});
    }
  }
  std::sort(breaks_.begin(), breaks_.end(), [](const PrimalStep& a, const PrimalStep& b) {
    return a.length != b.length ? a.length < b.length : a.row < b.row;
  });
  const double own = upper_[at(entering)] - lower_[at(entering)];
  double slope = -std::abs(d_[at(entering)]), largest = 0.0;
  std::size_t passed = 0;
  while (passed < breaks_.size() && slope < 0.0 && breaks_[passed].length <= own) {
    const double size = std::abs(column_[breaks_[passed].row]);
    slope += size;
    largest = std::max(largest, size);
    ++passed;
  }
  if (slope < 0.0 && std::isfinite(own)) return {own, -1, false};
  constexpr double kSizable = 0.1;
  for (std::size_t k = passed; k-- > 0;)
    if (std::abs(column_[breaks_[k].row]) >= kSizable * largest) return breaks_[k];
  return {kInf, -1, false};
}

// The direction in which the entering variable moves the columns, confirmed: entries that are
// fractions with small denominators first, then the basis in rationals.
bool Simplex::store_ray(Index entering, double direction) {
  ray_.assign(at(n_), 0.0);
  if (entering < n_) ray_[at(entering)] = direction;
  for (Index i : column_.list())
    if (basic_[at(i)] < n_) ray_[at(basic_[at(i)])] = -direction * column_[i];
  work_.add(program_.num_nonzeros() + n_ + m_);
  if (proves_unbounded(program_, ray_)) return true;
  const auto exact = exact_direction(program_, basis(), entering, direction > 0.0);
  if (exact && recedes(program_, *exact)) return true;
  ray_.clear();
  return false;
}

}  // namespace kiteknot::lp
