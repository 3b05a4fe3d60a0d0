// The dual simplex: from a dual feasible basis to a primal feasible one.

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "base/infinity.hpp"
#include "lp/exact_basis.hpp"
#include "lp/proof.hpp"
#include "lp/simplex.hpp"

namespace kiteknot::lp {
namespace {

constexpr double kLeastWeight = 1e-4;   // steepest-edge weights are kept away from 0
constexpr double kNoise = 1e-9;         // multipliers below this share of the largest
constexpr double kPerturbation = 1e-6;  // of costs, relative
constexpr int kStallLimit = 20;         // pivots without progress before costs are perturbed

}  // namespace

// Boxed variables move to the bound their reduced cost prefers; the costs of others are shifted so
// that their reduced cost becomes 0.
void Simplex::make_dual_feasible() {
  flip_column_.clear();
  const auto mend = [&](Index k) {
    if (!dual_infeasible(k, dual_tolerance_)) return;
    if (boxed(k)) {
      place_[at(k)] = d_[at(k)] > 0.0 ? VariableStatus::at_lower : VariableStatus::at_upper;
      move_settled(k);
    } else {
      cost_[at(k)] -= d_[at(k)];
      d_[at(k)] = 0.0;
      shifted_ = true;
    }
  };
  if (all_moved_) {
    for (Index k = 0; k < n_ + m_; ++k) mend(k);
    work_.add(n_ + m_);
  } else {
    for (const Index k : moved_) mend(k);
    work_.add(static_cast<linalg::Offset>(moved_.size()));
  }
  if (values_known_)
    absorb_moves();
  else
    compute_values();
  nothing_moved();
  KITEKNOT_ASSERT_INVARIANTS(*this);
}

void Simplex::refresh_dual() {
  refresh();
  make_dual_feasible();
}

// Phase 1: a basis is dual feasible for the program iff 0 is optimal in the subproblem with the
// same costs and the bounds [-1000, 1000] for free variables, [0, 1] and [-1, 0] for those with one
// bound, 0 for the others (Maros 2003; Koberstein 2005, 4.2). There every variable is boxed, so the
// dual simplex starts at once, and its end is a basis to go on with.
Status Simplex::run_dual_phase_one(const SimplexOptions& options) {
  all_moved_ = true;    // every bound is another one
  own_lower_ = lower_;  // copies into room that is kept
  own_upper_ = upper_;
  for (Index k = 0; k < n_ + m_; ++k) {
    const bool low = std::isfinite(lower_[at(k)]), high = std::isfinite(upper_[at(k)]);
    const double room = low || high ? 1.0 : 1000.0;
    lower_[at(k)] = low ? 0.0 : (high ? -1.0 : -room);
    upper_[at(k)] = high ? 0.0 : (low ? 1.0 : room);
  }
  SimplexOptions own = options;
  own.cutoff = kInf;
  in_phase_one_ = true;
  settle_all();
  make_dual_feasible();
  const Status status = run_dual(own);
  in_phase_one_ = false;
  lower_.swap(own_lower_);
  upper_.swap(own_upper_);
  reason_.clear();
  all_moved_ = true;
  std::fill(ignored_.begin(), ignored_.end(), char{0});
  // What did not end well is for the shifts to mend.
  if (status != Status::limit) return Status::optimal;
  settle_all();
  return status;
}

// 1. leave: the largest infeasibility squared over its steepest-edge weight
// 2. row: rho = B^-T e_r, alpha = rho'(A, -I)      3. enter: bound-flipping ratio test
// 4. column: B^-1 a_q, checked against the row     5. step, flips, duals, weights, basis
Status Simplex::run_dual(const SimplexOptions& options) {
  const Tolerances& tol = options.tolerances;
  while (true) {
    end_goal_.reset();
    if (factor_worn()) refresh_dual();
    if (over_limit(options)) return Status::limit;
    if (exhausted()) return Status::undecided;
    if ((pivots_ - pivots_at_start_) % 8 == 7 && reached_cutoff(options)) return Status::cutoff;

    const Index r = choose_leaving(tol.feasibility);
    if (r < 0) return dual_verdict(options);
    const Index p = basic_[at(r)];
    const bool below = x_[at(p)] < lower_[at(p)];
    invert_row(r, tol.drop);
    price_row(rho_);

    const Index q = dual_ratio_test(infeasibility(p), below, tol);
    if (q < 0) {
      bool retry = false;
      if (in_phase_one_) return Status::undecided;  // 0 fits: mere noise
      if (infeasible_by_row(r, retry)) return Status::infeasible;
      if (!retry) set_aside(basic_[at(r)]);
      continue;
    }
    load_entering(q, tol.drop);
    const double pivot = column_[r];
    if (std::abs(pivot - alpha_[q]) > tol.disagreement * (1.0 + std::abs(pivot)) ||
        std::abs(pivot) < tol.pivot) {
      if (lu_.num_updates() > 0) {
        refresh_dual();
      } else {
        set_aside(basic_[at(r)]);
      }
      continue;
    }

    update_duals(q, p);
    apply_flips();
    const double target = below ? lower_[at(p)] : upper_[at(p)];
    const double step = (x_[at(p)] - target) / pivot;
    for (Index i : column_.list()) x_[at(basic_[at(i)])] -= step * column_[i];
    x_[at(q)] += step;
    x_[at(p)] = target;
    update_weights(r, column_);
    swap_basis(r, q, below ? VariableStatus::at_lower : VariableStatus::at_upper);
    for (Index i : column_.list()) update_excess(i);
    if (stalled_ > kStallLimit) {
      perturb_costs();
      stalled_ = 0;
    }
  }
}

// No row that may leave is left: either all are met, or some were set aside.
Status Simplex::dual_verdict(const SimplexOptions& options) {
  for (Index i = 0; i < m_; ++i)
    if (ignored_[at(basic_[at(i)])] &&
        infeasibility(basic_[at(i)]) > options.tolerances.feasibility) {
      reason_ = "a row cannot be met in floating point, and its proof did not hold exactly";
      return Status::undecided;
    }
  return end_goal().value >= options.cutoff && reached_cutoff(options) ? Status::cutoff
                                                                       : Status::optimal;
}

Index Simplex::choose_leaving(double tolerance) {
  const Timed timer = timed(&Parts::pricing);
  Index best = -1;
  double best_score = 0.0;
  std::size_t kept = 0;
  for (const Index i : out_) {
    const double by = excess_[at(i)];
    if (by <= 0.0) {
      out_listed_[at(i)] = 0;
      continue;
    }
    out_[kept++] = i;
    if (by <= tolerance || by * by < best_score * weight_[at(i)] || ignored_[at(basic_[at(i)])])
      continue;
    const double score = by * by / weight_[at(i)];
    if (score == best_score && i > best) continue;  // whatever the order of the list
    best = i;
    best_score = score;
  }
  out_.resize(kept);
  work_.add(static_cast<Offset>(kept));
  return best;
}

// Candidates are variables whose reduced cost moves towards 0, with the step at which it gets
// there.
void Simplex::list_candidates(double sign, double smallest_pivot) {
  const std::span<const Index> list = alpha_.list();
  group_.resize(list.size());
  std::size_t count = 0;
  // Which way a reduced cost moves is as good as random: no branches, every place is written.
  for (const Index k : list) {
    const VariableStatus place = place_[at(k)];
    const double a = sign * alpha_[k];
    const double towards = place == VariableStatus::at_lower
                               ? a
                               : (place == VariableStatus::at_upper ? -a : std::abs(a));
    group_[count] = k;
    count += static_cast<std::size_t>(static_cast<int>(towards > smallest_pivot) &
                                      static_cast<int>(place != VariableStatus::basic) &
                                      static_cast<int>(lower_[at(k)] != upper_[at(k)]));
  }
  candidates_.clear();
  for (std::size_t c = 0; c < count; ++c) {
    const Index k = group_[c];
    const double a = sign * alpha_[k];
    candidates_.push_back(
        {k, place_[at(k)] == VariableStatus::at_zero ? 0.0 : std::max(0.0, d_[at(k)] / a),
         std::abs(a)});
  }
  work_.add(static_cast<Offset>(alpha_.list().size()));
}

// Walks the breakpoints |d_j| / |alpha_j| upward. Passing a boxed variable's breakpoint flips it to
// its other bound and lowers the slope (the remaining infeasibility) by |alpha_j| times its width;
// the walk stops where the slope would turn negative. Breakpoints within the tolerance of each
// other form a group (Harris), of which the largest pivot enters. The first groups are picked out
// by passes over all candidates, which is enough for most steps; long walks go on with a heap.
// Returns -1 where the slope stays positive: infeasible.
Index Simplex::dual_ratio_test(double infeasible_by, bool below, const Tolerances& tolerances) {
  const Timed timer = timed(&Parts::ratio_test);
  flips_.clear();
  list_candidates(below ? -1.0 : 1.0, tolerances.pivot);
  const auto later = [](const Candidate& a, const Candidate& b) {
    return a.ratio != b.ratio ? a.ratio > b.ratio : a.variable > b.variable;
  };
  const auto limit_of = [&](const Candidate& c) {
    return (std::abs(d_[at(c.variable)]) + dual_tolerance_ * unit_[at(c.variable)]) / c.size;
  };
  constexpr int kPasses = 3;
  double slope = infeasible_by;
  for (int pass = 0; !candidates_.empty(); ++pass) {
    group_.clear();
    double harris = kInf, fall = 0.0;
    const auto take = [&](const Candidate& c) {
      fall += c.size * (upper_[at(c.variable)] - lower_[at(c.variable)]);
      group_.push_back(c.variable);
    };
    if (pass < kPasses) {
      for (const Candidate& c : candidates_) harris = std::min(harris, limit_of(c));
      std::size_t kept = 0;
      for (const Candidate& c : candidates_) {
        if (c.ratio <= harris)
          take(c);
        else
          candidates_[kept++] = c;
      }
      candidates_.resize(kept);
    } else {
      if (pass == kPasses) std::make_heap(candidates_.begin(), candidates_.end(), later);
      while (!candidates_.empty() && candidates_.front().ratio <= harris) {
        harris = std::min(harris, limit_of(candidates_.front()));
        take(candidates_.front());
        std::pop_heap(candidates_.begin(), candidates_.end(), later);
        candidates_.pop_back();
      }
    }
    // A slope of mere rounding counts as 0: the group can just meet the bound.
    if (slope - fall > tolerances.feasibility) {
      slope -= fall;
      flips_.insert(flips_.end(), group_.begin(), group_.end());
      continue;
    }
    Index best = group_.front();
    for (Index k : group_)
      if (std::abs(alpha_[k]) > std::abs(alpha_[best])) best = k;
    return best;
  }
  flips_.clear();
  return -1;
}

// d := d - theta alpha. Members of the last group that were passed over and would get the wrong
// sign have their cost shifted, so that every step keeps dual feasibility.
void Simplex::update_duals(Index entering, Index leaving) {
  const double tolerance = dual_tolerance_;
  const double pivot = alpha_[entering];
  double theta = d_[at(entering)] / pivot;
  const bool wrong_way = dual_infeasible(entering, 0.0);
  if (wrong_way) {
    cost_[at(entering)] -= d_[at(entering)];
    shifted_ = true;
    theta = 0.0;
  }
  stalled_ = std::abs(theta) <= tolerance ? stalled_ + 1 : 0;
  for (Index k : alpha_.list()) {
    if (place_[at(k)] == VariableStatus::basic) continue;
    d_[at(k)] -= theta * alpha_[k];
  }
  for (Index k : group_) {
    if (k == entering || !dual_infeasible(k, tolerance)) continue;
    cost_[at(k)] -= d_[at(k)];
    d_[at(k)] = 0.0;
    shifted_ = true;
  }
  d_[at(entering)] = 0.0;
  d_[at(leaving)] = -theta;
}

void Simplex::apply_flips() {
  if (flips_.empty()) return;
  const Timed timer = timed(&Parts::ftran);
  flip_column_.clear();
  for (Index k : flips_) {
    place_[at(k)] = place_[at(k)] == VariableStatus::at_lower ? VariableStatus::at_upper
                                                              : VariableStatus::at_lower;
    move_settled(k);
  }
  absorb_moves();
}

// Forrest and Goldfarb 1992: w_i := max(w_i - 2 k_i tau_i + k_i^2 w_r, floor), k_i = alpha_i /
// alpha_r, tau = B^-1 rho.
void Simplex::update_weights(Index row, const linalg::WorkVector& column) {
  const Timed timer = timed(&Parts::ftran);
  tau_.clear();
  double own = 0.0;
  for (Index i : rho_.list()) {
    tau_.add(i, rho_[i]);
    own += rho_[i] * rho_[i];
  }
  lu_.ftran(tau_, 0.0);
  const double pivot = column[row];
  for (Index i : column.list()) {
    if (i == row) continue;
    const double k = column[i] / pivot;
    weight_[at(i)] = std::max(weight_[at(i)] - 2.0 * k * tau_[i] + k * k * own, kLeastWeight);
  }
  weight_[at(row)] = std::max(own / (pivot * pivot), kLeastWeight);
  work_.add(lu_.num_entries() + m_);
}

// Moves every nonbasic reduced cost a little away from 0, to its feasible side.
void Simplex::perturb_costs() {
  for (Index k = 0; k < n_ + m_; ++k) {
    if (place_[at(k)] == VariableStatus::basic || lower_[at(k)] == upper_[at(k)]) continue;
    const double size = (1.0 + std::abs(cost_[at(k)])) * kPerturbation * (0.5 + random_.fraction());
    const double change = place_[at(k)] == VariableStatus::at_lower   ? size
                          : place_[at(k)] == VariableStatus::at_upper ? -size
                                                                      : 0.0;
    cost_[at(k)] += change;
    d_[at(k)] += change;
  }
  shifted_ = true;
}

// A rough look first: c'x of a dual feasible basis is its dual value, up to shifts.
bool Simplex::reached_cutoff(const SimplexOptions& options) {
  if (options.cutoff == kInf || objective() < options.cutoff) return false;
  return bound() > options.cutoff;
}

// The leaving row as a proof of infeasibility, verified exactly. With `retry` the caller should
// look again with a fresh factor.
bool Simplex::infeasible_by_row(Index row, bool& retry) {
  if (proves_farkas()) return true;
  retry = lu_.num_updates() > 0;
  if (retry) {
    refresh_dual();
    return false;
  }
  return exact_infeasible(program_, basis(), basic_[at(row)]);
}

// Whether rho_ holds multipliers that prove infeasibility; they are kept then.
bool Simplex::proves_farkas() {
  farkas_.assign(at(m_), 0.0);
  for (Index i : rho_.list()) farkas_[at(i)] = rho_[i];
  work_.add(program_.num_nonzeros() + n_ + m_);
  if (proves_infeasible(program_, farkas_)) return true;
  // Multipliers that are mere noise spoil the proof where a column has no bound: drop them.
  double largest = 0.0;
  for (double v : farkas_) largest = std::max(largest, std::abs(v));
  for (double& v : farkas_)
    if (std::abs(v) < kNoise * largest) v = 0.0;
  if (proves_infeasible(program_, farkas_)) return true;
  farkas_.clear();
  return false;
}

}  // namespace kiteknot::lp
