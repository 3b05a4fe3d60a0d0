// The primal simplex, phase 2: from a primal feasible basis to an optimal one. solve() uses it to
// take back shifted costs; the dual simplex restores feasibility where rounding lost it.

#include <algorithm>
#include <cmath>

#include "lp/simplex.hpp"

namespace kiteknot::lp {
namespace {

constexpr double kInf = std::numeric_limits<double>::infinity();
constexpr int kStallLimit =
    100;  // pivots without progress before entering variables are drawn by lot
constexpr int kMostUpdates = 100;

}  // namespace

// 1. enter: the largest d^2 over its devex weight   2. column: B^-1 a_q
// 3. leave: two-pass ratio test (Harris 1973)       4. step; duals and weights along the pivot row
Status Simplex::run_primal(const SolveOptions& options) {
  const Tolerances& tol = options.tolerances;
  devex_.assign(at(n_ + m_), 1.0);
  stalled_ = 0;
  std::fill(weight_.begin(), weight_.end(), 1.0);  // the dual's weights end here
  while (true) {
    if (!factored_ || lu_.num_updates() >= kMostUpdates ||
        lu_.num_entries() > 3 * lu_.num_factor_entries() + 4 * Offset{m_})
      (void)refresh();
    if (over_limit(options)) return Status::limit;
    const Index q = choose_entering();
    if (q < 0) return Status::optimal;
    const double direction = d_[at(q)] < 0.0 ? 1.0 : -1.0;
    load_column(q, column_);
    lu_.ftran(column_, tol.drop, true);
    work_.add(lu_.num_entries() + m_);
    const PrimalStep step = primal_ratio_test(q, direction, tol);
    if (step.length == kInf) {
      if (lu_.num_updates() > 0) {
        (void)refresh();
        continue;
      }
      store_ray(q, direction);
      return Status::unbounded;
    }
    stalled_ = step.length <= tol.feasibility ? stalled_ + 1 : 0;
    for (Index i : column_.list()) x_[at(basic_[at(i)])] -= direction * step.length * column_[i];
    if (step.row < 0) {
      place_[at(q)] = place_[at(q)] == Place::at_lower ? Place::at_upper : Place::at_lower;
      settle_nonbasic(q);
      ++pivots_;
      continue;
    }
    const Index r = step.row, p = basic_[at(r)];
    rho_.clear();
    rho_.add(r, 1.0);
    lu_.btran(rho_, tol.drop);
    price_row(rho_);
    work_.add(lu_.num_entries() + m_);
    const double pivot = column_[r];
    if (std::abs(pivot - alpha_[q]) > tol.disagreement * (1.0 + std::abs(pivot)) &&
        lu_.num_updates() > 0) {
      (void)refresh();
      continue;
    }
    const double theta = d_[at(q)] / pivot;
    const double reference = std::max(devex_[at(q)], 1.0);
    for (Index k : alpha_.list()) {
      if (place_[at(k)] == Place::basic) continue;
      d_[at(k)] -= theta * alpha_[k];
      const double ratio = alpha_[k] / pivot;
      devex_[at(k)] = std::max(devex_[at(k)], ratio * ratio * reference);
    }
    d_[at(q)] = 0.0;
    d_[at(p)] = -theta;
    devex_[at(p)] = std::max(reference / (pivot * pivot), 1.0);
    x_[at(q)] += direction * step.length;
    x_[at(p)] = step.to_upper ? upper_[at(p)] : lower_[at(p)];
    swap_basis(r, q, step.to_upper ? Place::at_upper : Place::at_lower);
  }
}

// After a long stall the choice is drawn by lot, which ends cycles with probability 1.
Index Simplex::choose_entering() {
  Index best = -1;
  double best_score = 0.0;
  Index seen = 0;
  for (Index k = 0; k < n_ + m_; ++k) {
    if (!dual_infeasible(k, dual_tolerance_)) continue;
    if (stalled_ > kStallLimit) {
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

void Simplex::store_ray(Index entering, double direction) {
  ray_.assign(at(n_), 0.0);
  if (entering < n_) ray_[at(entering)] = direction;
  for (Index i : column_.list())
    if (basic_[at(i)] < n_) ray_[at(basic_[at(i)])] = -direction * column_[i];
}

}  // namespace kiteknot::lp
