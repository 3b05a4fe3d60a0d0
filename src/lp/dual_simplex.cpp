#include "lp/dual_simplex.hpp"

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "base/infinity.hpp"
#include "lp/exact_basis.hpp"

namespace kiteknot::lp {
namespace {

constexpr double kLeastWeight = 1e-4;   // steepest-edge weights are kept away from 0
constexpr double kPerturbation = 1e-6;  // of costs, relative
constexpr int kStallLimit = 20;         // pivots without progress before costs are perturbed

}  // namespace

void DualSimplex::begin() {
  const std::size_t variables = at(s_.n + s_.m);
  if (any_ignored_ || ignored_.size() != variables) ignored_.assign(variables, 0);
  any_ignored_ = false;
  if (tau_.length() != s_.m) tau_.reset(s_.m);
}

// Boxed variables move to the bound their reduced cost prefers; the costs of others are shifted so
// that their reduced cost becomes 0.
void DualSimplex::make_dual_feasible() {
  s_.flip_column.clear();
  const auto mend = [&](Index k) {
    if (!s_.dual_infeasible(k, s_.dual_tolerance)) return;
    if (s_.boxed(k)) {
      s_.place[at(k)] = s_.d[at(k)] > 0.0 ? VariableStatus::at_lower : VariableStatus::at_upper;
      s_.move_settled(k);
    } else {
      s_.cost[at(k)] -= s_.d[at(k)];
      s_.d[at(k)] = 0.0;
      s_.goal.shifted = true;
    }
  };
  if (s_.moved.all) {
    for (Index k = 0; k < s_.n + s_.m; ++k) mend(k);
    s_.work.add(s_.n + s_.m);
  } else {
    for (const Index k : s_.moved.list) mend(k);
    s_.work.add(static_cast<linalg::Offset>(s_.moved.list.size()));
  }
  if (s_.known.values)
    s_.absorb_moves();
  else
    s_.compute_values();
  s_.nothing_moved();
  KITEKNOT_ASSERT_INVARIANTS(s_);
}

void DualSimplex::refresh() {
  s_.refresh();
  make_dual_feasible();
}

// Phase 1: a basis is dual feasible for the program iff 0 is optimal in the subproblem with the
// same costs and the bounds [-1000, 1000] for free variables, [0, 1] and [-1, 0] for those with one
// bound, 0 for the others (Maros 2003; Koberstein 2005, 4.2). There every variable is boxed, so the
// dual simplex starts at once, and its end is a basis to go on with.
Status DualSimplex::run_phase_one(const SimplexOptions& options) {
  s_.moved.all = true;    // every bound is another one
  own_lower_ = s_.lower;  // copies into room that is kept
  own_upper_ = s_.upper;
  for (Index k = 0; k < s_.n + s_.m; ++k) {
    const bool low = std::isfinite(s_.lower[at(k)]), high = std::isfinite(s_.upper[at(k)]);
    const double room = low || high ? 1.0 : 1000.0;
    s_.lower[at(k)] = low ? 0.0 : (high ? -1.0 : -room);
    s_.upper[at(k)] = high ? 0.0 : (low ? 1.0 : room);
  }
  SimplexOptions own = options;
  own.cutoff = kInf;
  in_phase_one_ = true;
  s_.settle_all();
  make_dual_feasible();
  const Status status = run(own);
  in_phase_one_ = false;
  s_.lower.swap(own_lower_);
  s_.upper.swap(own_upper_);
  s_.meter.reason.clear();
  s_.moved.all = true;
  std::fill(ignored_.begin(), ignored_.end(), char{0});
  // What did not end well is for the shifts to mend.
  if (status != Status::limit) return Status::optimal;
  s_.settle_all();
  return status;
}

// 1. leave: the largest infeasibility squared over its steepest-edge weight
// 2. row: rho = B^-T e_r, alpha = rho'(A, -I)      3. enter: bound-flipping ratio test
// 4. column: B^-1 a_q, checked against the row     5. step, flips, duals, weights, basis
Status DualSimplex::run(const SimplexOptions& options) {
  const Tolerances& tol = options.tolerances;
  while (true) {
    s_.ended_at.reset();
    if (s_.factor_worn()) refresh();
    if (s_.meter.over_limit(options, s_.work)) return Status::limit;
    if (s_.meter.exhausted(s_.n + s_.m)) return Status::undecided;
    if (s_.meter.spent_pivots() % 8 == 7 && reached_cutoff(options)) return Status::cutoff;

    const Index r = choose_leaving(tol.feasibility);
    if (r < 0) return verdict(options);
    const Index p = s_.basic[at(r)];
    const bool below = s_.x[at(p)] < s_.lower[at(p)];
    s_.invert_row(r, tol.drop);
    s_.price_row(s_.rho);

    const Index q = ratio_test(s_.infeasibility(p), below, tol);
    if (q < 0) {
      bool retry = false;
      if (in_phase_one_) return Status::undecided;  // 0 fits: mere noise
      if (infeasible_by_row(r, retry)) return Status::infeasible;
      if (!retry) set_aside(s_.basic[at(r)]);
      continue;
    }
    s_.load_entering(q, tol.drop);
    const double pivot = s_.column[r];
    if (std::abs(pivot - s_.alpha[q]) > tol.disagreement * (1.0 + std::abs(pivot)) ||
        std::abs(pivot) < tol.pivot) {
      if (s_.lu.num_updates() > 0) {
        refresh();
      } else {
        set_aside(s_.basic[at(r)]);
      }
      continue;
    }

    update_duals(q, p);
    apply_flips();
    const double target = below ? s_.lower[at(p)] : s_.upper[at(p)];
    const double step = (s_.x[at(p)] - target) / pivot;
    for (Index i : s_.column.list()) s_.x[at(s_.basic[at(i)])] -= step * s_.column[i];
    s_.x[at(q)] += step;
    s_.x[at(p)] = target;
    update_weights(r, s_.column);
    s_.swap_basis(r, q, below ? VariableStatus::at_lower : VariableStatus::at_upper);
    for (Index i : s_.column.list()) s_.update_excess(i);
    if (s_.meter.stalled > kStallLimit) {
      perturb_costs();
      s_.meter.stalled = 0;
    }
  }
}

// No row that may leave is left: either all are met, or some were set aside.
Status DualSimplex::verdict(const SimplexOptions& options) {
  for (Index i = 0; i < s_.m; ++i)
    if (ignored_[at(s_.basic[at(i)])] &&
        s_.infeasibility(s_.basic[at(i)]) > options.tolerances.feasibility) {
      s_.meter.reason = "a row cannot be met in floating point, and its proof did not hold exactly";
      return Status::undecided;
    }
  return s_.end_goal().value >= options.cutoff && reached_cutoff(options) ? Status::cutoff
                                                                          : Status::optimal;
}

Index DualSimplex::choose_leaving(double tolerance) {
  const SolveMeter::Timed timer = s_.meter.timed(&Parts::pricing);
  Index best = -1;
  double best_score = 0.0;
  std::size_t kept = 0;
  for (const Index i : s_.out.list) {
    const double by = s_.out.excess[at(i)];
    if (by <= 0.0) {
      s_.out.listed[at(i)] = 0;
      continue;
    }
    s_.out.list[kept++] = i;
    if (by <= tolerance || by * by < best_score * s_.weight[at(i)] || ignored_[at(s_.basic[at(i)])])
      continue;
    const double score = by * by / s_.weight[at(i)];
    if (score == best_score && i > best) continue;  // whatever the order of the list
    best = i;
    best_score = score;
  }
  s_.out.list.resize(kept);
  s_.work.add(static_cast<Offset>(kept));
  return best;
}

// Candidates are variables whose reduced cost moves towards 0, with the step at which it gets
// there.
void DualSimplex::list_candidates(double sign, double smallest_pivot) {
  const std::span<const Index> list = s_.alpha.list();
  group_.resize(list.size());
  std::size_t count = 0;
  // Which way a reduced cost moves is as good as random: no branches, every place is written.
  for (const Index k : list) {
    const VariableStatus place = s_.place[at(k)];
    const double a = sign * s_.alpha[k];
    const double towards = place == VariableStatus::at_lower
                               ? a
                               : (place == VariableStatus::at_upper ? -a : std::abs(a));
    group_[count] = k;
    count += static_cast<std::size_t>(static_cast<int>(towards > smallest_pivot) &
                                      static_cast<int>(place != VariableStatus::basic) &
                                      static_cast<int>(s_.lower[at(k)] != s_.upper[at(k)]));
  }
  candidates_.clear();
  for (std::size_t c = 0; c < count; ++c) {
    const Index k = group_[c];
    const double a = sign * s_.alpha[k];
    candidates_.push_back(
        {k, s_.place[at(k)] == VariableStatus::at_zero ? 0.0 : std::max(0.0, s_.d[at(k)] / a),
         std::abs(a)});
  }
  s_.work.add(static_cast<Offset>(s_.alpha.list().size()));
}

// Walks the breakpoints |d_j| / |alpha_j| upward. Passing a boxed variable's breakpoint flips it to
// its other bound and lowers the slope (the remaining infeasibility) by |alpha_j| times its width;
// the walk stops where the slope would turn negative. Breakpoints within the tolerance of each
// other form a group (Harris), of which the largest pivot enters. The first groups are picked out
// by passes over all candidates, which is enough for most steps; long walks go on with a heap.
// Returns -1 where the slope stays positive: infeasible.
Index DualSimplex::ratio_test(double infeasible_by, bool below, const Tolerances& tolerances) {
  const SolveMeter::Timed timer = s_.meter.timed(&Parts::ratio_test);
  flips_.clear();
  list_candidates(below ? -1.0 : 1.0, tolerances.pivot);
  const auto later = [](const Candidate& a, const Candidate& b) {
    return a.ratio != b.ratio ? a.ratio > b.ratio : a.variable > b.variable;
  };
  const auto limit_of = [&](const Candidate& c) {
    return (std::abs(s_.d[at(c.variable)]) + s_.dual_tolerance * s_.unit[at(c.variable)]) / c.size;
  };
  constexpr int kPasses = 3;
  double slope = infeasible_by;
  for (int pass = 0; !candidates_.empty(); ++pass) {
    group_.clear();
    double harris = kInf, fall = 0.0;
    const auto take = [&](const Candidate& c) {
      fall += c.size * (s_.upper[at(c.variable)] - s_.lower[at(c.variable)]);
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
      if (std::abs(s_.alpha[k]) > std::abs(s_.alpha[best])) best = k;
    return best;
  }
  flips_.clear();
  return -1;
}

// d := d - theta alpha. Members of the last group that were passed over and would get the wrong
// sign have their cost shifted, so that every step keeps dual feasibility.
void DualSimplex::update_duals(Index entering, Index leaving) {
  const double tolerance = s_.dual_tolerance;
  const double pivot = s_.alpha[entering];
  double theta = s_.d[at(entering)] / pivot;
  const bool wrong_way = s_.dual_infeasible(entering, 0.0);
  if (wrong_way) {
    s_.cost[at(entering)] -= s_.d[at(entering)];
    s_.goal.shifted = true;
    theta = 0.0;
  }
  s_.meter.stalled = std::abs(theta) <= tolerance ? s_.meter.stalled + 1 : 0;
  for (Index k : s_.alpha.list()) {
    if (s_.place[at(k)] == VariableStatus::basic) continue;
    s_.d[at(k)] -= theta * s_.alpha[k];
  }
  for (Index k : group_) {
    if (k == entering || !s_.dual_infeasible(k, tolerance)) continue;
    s_.cost[at(k)] -= s_.d[at(k)];
    s_.d[at(k)] = 0.0;
    s_.goal.shifted = true;
  }
  s_.d[at(entering)] = 0.0;
  s_.d[at(leaving)] = -theta;
}

void DualSimplex::apply_flips() {
  if (flips_.empty()) return;
  const SolveMeter::Timed timer = s_.meter.timed(&Parts::ftran);
  s_.flip_column.clear();
  for (Index k : flips_) {
    s_.place[at(k)] = s_.place[at(k)] == VariableStatus::at_lower ? VariableStatus::at_upper
                                                                  : VariableStatus::at_lower;
    s_.move_settled(k);
  }
  s_.absorb_moves();
}

// Forrest and Goldfarb 1992: w_i := max(w_i - 2 k_i tau_i + k_i^2 w_r, floor), k_i = alpha_i /
// alpha_r, tau = B^-1 rho.
void DualSimplex::update_weights(Index row, const linalg::WorkVector& column) {
  const SolveMeter::Timed timer = s_.meter.timed(&Parts::ftran);
  tau_.clear();
  double own = 0.0;
  for (Index i : s_.rho.list()) {
    tau_.add(i, s_.rho[i]);
    own += s_.rho[i] * s_.rho[i];
  }
  s_.lu.ftran(tau_, 0.0);
  const double pivot = column[row];
  for (Index i : column.list()) {
    if (i == row) continue;
    const double k = column[i] / pivot;
    s_.weight[at(i)] = std::max(s_.weight[at(i)] - 2.0 * k * tau_[i] + k * k * own, kLeastWeight);
  }
  s_.weight[at(row)] = std::max(own / (pivot * pivot), kLeastWeight);
  s_.work.add(s_.lu.num_entries() + s_.m);
}

// Moves every nonbasic reduced cost a little away from 0, to its feasible side.
void DualSimplex::perturb_costs() {
  for (Index k = 0; k < s_.n + s_.m; ++k) {
    if (s_.place[at(k)] == VariableStatus::basic || s_.lower[at(k)] == s_.upper[at(k)]) continue;
    const double size =
        (1.0 + std::abs(s_.cost[at(k)])) * kPerturbation * (0.5 + s_.random.fraction());
    const double change = s_.place[at(k)] == VariableStatus::at_lower   ? size
                          : s_.place[at(k)] == VariableStatus::at_upper ? -size
                                                                        : 0.0;
    s_.cost[at(k)] += change;
    s_.d[at(k)] += change;
  }
  s_.goal.shifted = true;
}

// A rough look first: c'x of a dual feasible basis is its dual value, up to shifts.
bool DualSimplex::reached_cutoff(const SimplexOptions& options) {
  if (options.cutoff == kInf || s_.objective() < options.cutoff) return false;
  return proof_.bound() > options.cutoff;
}

// The leaving row as a proof of infeasibility, verified exactly. With `retry` the caller should
// look again with a fresh factor.
bool DualSimplex::infeasible_by_row(Index row, bool& retry) {
  if (proof_.proves_farkas()) return true;
  retry = s_.lu.num_updates() > 0;
  if (retry) {
    refresh();
    return false;
  }
  return exact_infeasible(s_.program, s_.basis(), s_.basic[at(row)]);
}

}  // namespace kiteknot::lp
