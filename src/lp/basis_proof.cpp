#include "lp/basis_proof.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/infinity.hpp"
#include "lp/exact_basis.hpp"
#include "lp/ray.hpp"

namespace kiteknot::lp {
namespace {

constexpr double kNoise = 1e-9;  // multipliers below this share of the largest

}  // namespace

void BasisProof::begin() {
  farkas_.clear();
  ray_.clear();
}

std::vector<double> BasisProof::row_duals() {
  load_row_duals();
  return multipliers_;
}

void BasisProof::load_row_duals() {
  multipliers_.assign(at(s_.m), 0.0);
  if (!s_.factored) return;
  s_.rho.clear();
  for (Index i = 0; i < s_.m; ++i) {
    const Index k = s_.basic[at(i)];
    if (k < s_.n && s_.program.cost(k) != 0.0) s_.rho.add(i, s_.program.cost(k));
  }
  s_.lu.btran(s_.rho, 0.0);
  for (Index i : s_.rho.list()) multipliers_[at(i)] = s_.rho[i];
  s_.work.add(s_.lu.num_entries() + s_.m);
}

// In plain arithmetic; looked up where it was asked for before.
// The enclosures are handed over, not copied: whoever asks again has them worked out again.
double BasisProof::quick_bound(std::vector<Interval>* reduced) {
  const bool known = known_at_ == s_.version;
  const bool missing = reduced != nullptr && !reduced_there_;
  if (known && missing && radius_ == 0.0) {
    bound_outward();
  } else if (!known || missing) {
    s_.work.add(s_.program.num_nonzeros() + s_.n + s_.m);
    load_row_duals();
    const PlainBound plain = plain_.bound(s_.program, multipliers_, bound_reduced_);
    known_at_ = s_.version;
    reduced_there_ = true;
    ended_bound_.reset();
    bound_ = plain.value;
    radius_ = plain.radius;
    if (bound_ == -kInf) bound_outward();
  }
  if (reduced != nullptr) {
    reduced->swap(bound_reduced_);
    reduced_there_ = false;
  }
  return bound_;
}

void BasisProof::bound_outward() {
  s_.work.add(2 * s_.program.num_nonzeros() + s_.n + s_.m);
  load_row_duals();
  bound_ = safe_bound_in_place(s_.program, multipliers_, bound_reduced_);
  radius_ = 0.0;
  reduced_there_ = true;
}

double BasisProof::sharp_bound(std::vector<Interval>* reduced) {
  (void)quick_bound(nullptr);
  if (radius_ > 0.0) bound_outward();
  return bound(reduced);
}

// Where a column's own bounds give none, ends that rows and goal imply may, else the exact
// multipliers.
double BasisProof::bound(std::vector<Interval>* reduced) {
  const double quick = quick_bound(reduced);
  holds_to_ = kInf;
  if (quick != -kInf || !s_.factored) return quick;
  if (!ended_bound_) {
    ends_.update(s_.program, s_.end_goal().value, s_.work);
    load_row_duals();
    s_.work.add(s_.program.num_nonzeros() + s_.n + s_.m);
    const double ended = safe_bound_in_place(s_.program, multipliers_, bound_reduced_, &ends_);
    ended_bound_ = std::min(ended, ends_.goal_limit());
  }
  if (*ended_bound_ != -kInf) {
    holds_to_ = ends_.goal_limit();
    return *ended_bound_;
  }
  // The first of all is to be had whatever the clock says: without it there would be no bound.
  ExactLimits limits;
  if (std::exchange(exact_bound_had_, true)) limits.interrupt = s_.meter.interrupt;
  const std::optional<Rational> exact = exact_bound(s_.program, s_.basis(), limits);
  // The enclosures belong to other multipliers than the exact ones: together they prove nothing.
  if (reduced != nullptr) std::fill(reduced->begin(), reduced->end(), Interval{-kInf, kInf});
  return exact ? step_down(exact->to_double()) : -kInf;
}

// Whether rho_ holds multipliers that prove infeasibility; they are kept then.
bool BasisProof::proves_farkas() {
  farkas_.assign(at(s_.m), 0.0);
  for (Index i : s_.rho.list()) farkas_[at(i)] = s_.rho[i];
  s_.work.add(s_.program.num_nonzeros() + s_.n + s_.m);
  if (proves_infeasible(s_.program, farkas_)) return true;
  // Multipliers that are mere noise spoil the proof where a column has no bound: drop them.
  double largest = 0.0;
  for (double v : farkas_) largest = std::max(largest, std::abs(v));
  for (double& v : farkas_)
    if (std::abs(v) < kNoise * largest) v = 0.0;
  if (proves_infeasible(s_.program, farkas_)) return true;
  // A reduced cost that should be 0 spoils it as well: with ends that rows imply it may stay as it
  // is. Without these the multipliers are no proof, so they are not told.
  row_ends_.update(s_.program, kInf, s_.work);
  const bool proven = proves_infeasible(s_.program, farkas_, &row_ends_);
  farkas_.clear();
  return proven;
}

// The direction in which the entering variable moves the columns, confirmed: entries that are
// fractions with small denominators first, then the basis in rationals.
bool BasisProof::store_ray(Index entering, double direction) {
  ray_.assign(at(s_.n), 0.0);
  if (entering < s_.n) ray_[at(entering)] = direction;
  for (Index i : s_.column.list())
    if (s_.basic[at(i)] < s_.n) ray_[at(s_.basic[at(i)])] = -direction * s_.column[i];
  s_.work.add(s_.program.num_nonzeros() + s_.n + s_.m);
  if (proves_unbounded(s_.program, ray_)) return true;
  const auto exact = exact_direction(s_.program, s_.basis(), entering, direction > 0.0);
  if (exact && recedes(s_.program, *exact)) return true;
  ray_.clear();
  return false;
}

// Whether the safe bound tells the same as the point; where it is not finite, nothing can be told.
bool BasisProof::bound_meets_objective() {
  constexpr double kNear = 1e-9;       // of the terms' sizes
  constexpr double kSmallest = 1e-18;  // dual tolerance, beyond which nothing is gained
  const double safe = quick_bound(nullptr);
  if (safe == -kInf || s_.dual_tolerance < kSmallest) return true;
  return s_.end_goal().value - safe <= kNear * s_.end_goal().size;
}

}  // namespace kiteknot::lp
