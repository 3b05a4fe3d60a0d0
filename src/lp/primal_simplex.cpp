#include "lp/primal_simplex.hpp"

#include <algorithm>
#include <cmath>

#include "base/infinity.hpp"

namespace kiteknot::lp {
namespace {

constexpr int kPrimalStall =
    100;  // pivots without progress before entering variables are drawn by lot

}  // namespace

// 1. enter: the largest d^2 over its devex weight   2. column: B^-1 a_q
// 3. leave: two-pass ratio test (Harris 1973)       4. step; duals and weights along the pivot row
Status PrimalSimplex::run(const SimplexOptions& options) {
  const Tolerances& tol = options.tolerances;
  s_.ended_at.reset();
  std::fill(s_.weight.begin(), s_.weight.end(), 1.0);  // the dual's weights end here
  s_.moved.all = true;                                 // for whoever starts from where this ends
  if (!s_.primal_feasible(tol.feasibility)) {
    const Status status = run_phase_one(options);
    if (status != Status::optimal) return status;
    if (s_.load_bounds_and_costs() || !s_.known.duals) s_.compute_duals();
  }
  devex_.assign(at(s_.n + s_.m), 1.0);
  s_.meter.stalled = 0;
  while (true) {
    if (s_.factor_worn()) s_.refresh();
    if (s_.meter.over_limit(options, s_.work)) return Status::limit;
    if (s_.meter.exhausted(s_.n + s_.m)) return Status::undecided;
    const Index q = choose_entering(s_.dual_tolerance);
    if (q < 0) return Status::optimal;
    const double direction = s_.d[at(q)] < 0.0 ? 1.0 : -1.0;
    s_.load_entering(q, tol.drop);
    const PrimalStep step = ratio_test(q, direction, tol);
    if (step.length == kInf) {
      if (s_.lu.num_updates() > 0) {
        s_.refresh();
        continue;
      }
      if (proof_.store_ray(q, direction)) return Status::unbounded;
      s_.meter.reason = "a direction without an end was found, but not confirmed exactly";
      return Status::undecided;
    }
    if (!take(q, direction, step, tol)) s_.refresh();
  }
}

// The same loop over the prices of infeasibility, which change with the set of infeasible variables
// and are computed anew. Ends optimal where every bound is met; infeasible where nothing improves
// and the prices prove it.
Status PrimalSimplex::run_phase_one(const SimplexOptions& options) {
  const Tolerances& tol = options.tolerances;
  devex_.assign(at(s_.n + s_.m), 1.0);
  s_.meter.stalled = 0;
  while (true) {
    if (s_.factor_worn()) {
      s_.factorise();
      s_.compute_values();
    }
    if (s_.meter.over_limit(options, s_.work)) return Status::limit;
    if (s_.meter.exhausted(s_.n + s_.m)) return Status::undecided;
    for (Index i = 0; i < s_.m; ++i) s_.update_excess(i);
    if (s_.primal_feasible(tol.feasibility)) return Status::optimal;
    price_infeasibility(tol.feasibility);
    const Index q = choose_entering(tol.optimality);
    if (q < 0) {
      if (proof_.proves_farkas()) return Status::infeasible;
      if (s_.lu.num_updates() > 0) {
        s_.factorise();
        s_.compute_values();
        continue;
      }
      s_.meter.reason =
          "no way to lower the infeasibility was found, and no exact proof that there is none";
      return Status::undecided;
    }
    const double direction = s_.d[at(q)] < 0.0 ? 1.0 : -1.0;
    s_.load_entering(q, tol.drop);
    const PrimalStep step = phase_one_ratio_test(q, direction, tol);
    if (step.length == kInf || !take(q, direction, step, tol)) {
      if (s_.lu.num_updates() == 0) {
        s_.meter.reason = "a column and its price disagree even in a new factor";
        return Status::undecided;
      }
      s_.factorise();
      s_.compute_values();
    }
  }
}

// rho := the multipliers of the infeasibility's gradient (-1 below, 1 above), d := the reduced
// costs of it.
void PrimalSimplex::price_infeasibility(double tolerance) {
  const SolveMeter::Timed timer = s_.meter.timed(&Parts::pricing);
  s_.rho.clear();
  for (Index i = 0; i < s_.m; ++i)
    if (s_.out.excess[at(i)] > tolerance)  // as the ratio test judges, or the step would go uphill
      s_.rho.add(i, s_.x[at(s_.basic[at(i)])] < s_.lower[at(s_.basic[at(i)])] ? -1.0 : 1.0);
  s_.lu.btran(s_.rho, 0.0);
  s_.price_row(s_.rho);
  std::fill(s_.d.begin(), s_.d.end(), 0.0);
  for (const Index k : s_.alpha.list())
    if (s_.place[at(k)] != VariableStatus::basic) s_.d[at(k)] = -s_.alpha[k];
  s_.known.duals = false;
  s_.work.add(s_.lu.num_entries() + s_.n + s_.m);
}

// x, the devex weights, the reduced costs and the basis after the step. False, with nothing
// changed, where the pivot's two computations disagree and a new factor may help.
bool PrimalSimplex::take(Index q, double direction, const PrimalStep& step, const Tolerances& tol) {
  s_.meter.stalled = step.length <= tol.feasibility ? s_.meter.stalled + 1 : 0;
  if (step.row < 0) {
    for (Index i : s_.column.list())
      s_.x[at(s_.basic[at(i)])] -= direction * step.length * s_.column[i];
    s_.place[at(q)] = s_.place[at(q)] == VariableStatus::at_lower ? VariableStatus::at_upper
                                                                  : VariableStatus::at_lower;
    s_.settle(q);
    ++s_.meter.pivots;
    return true;
  }
  const Index r = step.row, p = s_.basic[at(r)];
  s_.invert_row(r, tol.drop);
  s_.price_row(s_.rho);
  const double pivot = s_.column[r];
  if (std::abs(pivot - s_.alpha[q]) > tol.disagreement * (1.0 + std::abs(pivot)) &&
      s_.lu.num_updates() > 0)
    return false;
  for (Index i : s_.column.list())
    s_.x[at(s_.basic[at(i)])] -= direction * step.length * s_.column[i];
  const double theta = s_.d[at(q)] / pivot;
  const double reference = std::max(devex_[at(q)], 1.0);
  for (Index k : s_.alpha.list()) {
    if (s_.place[at(k)] == VariableStatus::basic) continue;
    s_.d[at(k)] -= theta * s_.alpha[k];
    const double ratio = s_.alpha[k] / pivot;
    devex_[at(k)] = std::max(devex_[at(k)], ratio * ratio * reference);
  }
  s_.d[at(q)] = 0.0;
  s_.d[at(p)] = -theta;
  devex_[at(p)] = std::max(reference / (pivot * pivot), 1.0);
  s_.x[at(q)] += direction * step.length;
  s_.x[at(p)] = step.to_upper ? s_.upper[at(p)] : s_.lower[at(p)];
  s_.swap_basis(r, q, step.to_upper ? VariableStatus::at_upper : VariableStatus::at_lower);
  return true;
}

// After a long stall the choice is drawn by lot, which ends cycles with probability 1.
Index PrimalSimplex::choose_entering(double tolerance) {
  const SolveMeter::Timed timer = s_.meter.timed(&Parts::pricing);
  Index best = -1;
  double best_score = 0.0;
  Index seen = 0;
  for (Index k = 0; k < s_.n + s_.m; ++k) {
    if (!s_.dual_infeasible(k, tolerance)) continue;
    if (s_.meter.stalled > kPrimalStall) {
      if (s_.random.between(0, seen++) == 0) best = k;
      continue;
    }
    const double score = s_.d[at(k)] * s_.d[at(k)] / devex_[at(k)];
    if (score <= best_score) continue;
    best = k;
    best_score = score;
  }
  s_.work.add(s_.n + s_.m);
  return best;
}

// Pass 1: the longest step that keeps every basic variable within its bounds plus the tolerance.
// Pass 2: among variables that block within it, the largest pivot.
PrimalSimplex::PrimalStep PrimalSimplex::ratio_test(Index entering, double direction,
                                                    const Tolerances& tol) const {
  const SolveMeter::Timed timer = s_.meter.timed(&Parts::ratio_test);
  const double own = s_.upper[at(entering)] - s_.lower[at(entering)];
  double longest = kInf;
  for (Index i : s_.column.list()) {
    const double rate = -direction * s_.column[i];
    if (std::abs(rate) <= tol.pivot) continue;
    const Index k = s_.basic[at(i)];
    const double room = rate > 0.0 ? s_.upper[at(k)] - s_.x[at(k)] : s_.x[at(k)] - s_.lower[at(k)];
    longest = std::min(longest, (std::max(room, 0.0) + tol.feasibility) / std::abs(rate));
  }
  PrimalStep best{own, -1, false};
  if (own <= longest) return best;
  double largest = 0.0;
  best.length = kInf;
  for (Index i : s_.column.list()) {
    const double rate = -direction * s_.column[i];
    if (std::abs(rate) <= tol.pivot) continue;
    const Index k = s_.basic[at(i)];
    const double room = rate > 0.0 ? s_.upper[at(k)] - s_.x[at(k)] : s_.x[at(k)] - s_.lower[at(k)];
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
PrimalSimplex::PrimalStep PrimalSimplex::phase_one_ratio_test(Index entering, double direction,
                                                              const Tolerances& tol) {
  const SolveMeter::Timed timer = s_.meter.timed(&Parts::ratio_test);
  breaks_.clear();
  for (const Index i : s_.column.list()) {
    const double rate = -direction * s_.column[i];
    if (std::abs(rate) <= tol.pivot) continue;
    const Index k = s_.basic[at(i)];
    const double x = s_.x[at(k)], low = s_.lower[at(k)], high = s_.upper[at(k)];
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
  const double own = s_.upper[at(entering)] - s_.lower[at(entering)];
  double slope = -std::abs(s_.d[at(entering)]), largest = 0.0;
  std::size_t passed = 0;
  while (passed < breaks_.size() && slope < 0.0 && breaks_[passed].length <= own) {
    const double size = std::abs(s_.column[breaks_[passed].row]);
    slope += size;
    largest = std::max(largest, size);
    ++passed;
  }
  if (slope < 0.0 && std::isfinite(own)) return {own, -1, false};
  constexpr double kSizable = 0.1;
  for (std::size_t k = passed; k-- > 0;)
    if (std::abs(s_.column[breaks_[k].row]) >= kSizable * largest) return breaks_[k];
  return {kInf, -1, false};
}

}  // namespace kiteknot::lp
