// Values and reduced costs of the present basis, and where its variables stand.

#include "lp/basis_state.hpp"

#include <algorithm>
#include <cmath>

#include "base/check.hpp"

namespace kiteknot::lp {

// What a start from few moves rests on.
void BasisState::check_invariants() const {
  constexpr double kSlack = 100.0;  // tolerances of earlier solves may have been wider
  for (Index k = 0; k < n + m; ++k) {
    if (place[at(k)] == VariableStatus::basic) continue;
    const double stands = place[at(k)] == VariableStatus::at_lower   ? lower[at(k)]
                          : place[at(k)] == VariableStatus::at_upper ? upper[at(k)]
                                                                     : 0.0;
    KITEKNOT_CHECK(x[at(k)] == stands, "a nonbasic variable stands at its bound");
    KITEKNOT_CHECK(!dual_infeasible(k, kSlack * dual_tolerance),
                   "a nonbasic variable has a reduced value of the right sign");
  }
  for (Index i = 0; i < m; ++i)
    KITEKNOT_CHECK(out.excess[at(i)] == infeasibility(basic[at(i)]),
                   "what a basic variable is out of bounds by is known");
}

// A nonbasic variable stands at a finite bound, or at 0 where it has none.
void BasisState::settle(Index k) {
  VariableStatus& p = place[at(k)];
  const double stands = p == VariableStatus::at_lower ? lower[at(k)] : upper[at(k)];
  if (p != VariableStatus::at_zero && std::isfinite(stands)) {
    x[at(k)] = stands;
    return;
  }
  const bool low = std::isfinite(lower[at(k)]), high = std::isfinite(upper[at(k)]);
  if (p == VariableStatus::at_lower && !low)
    p = high ? VariableStatus::at_upper : VariableStatus::at_zero;
  if (p == VariableStatus::at_upper && !high)
    p = low ? VariableStatus::at_lower : VariableStatus::at_zero;
  if (p == VariableStatus::at_zero && (low || high))
    p = low ? VariableStatus::at_lower : VariableStatus::at_upper;
  x[at(k)] = p == VariableStatus::at_lower ? lower[at(k)]
                                           : (p == VariableStatus::at_upper ? upper[at(k)] : 0.0);
}

// Settles k and notes by how much its column moves the rows; absorb_moves() then moves the basic
// variables.
void BasisState::move_settled(Index k) {
  const double old = x[at(k)];
  settle(k);
  const double change = x[at(k)] - old;
  if (change == 0.0 || !known.values) return;
  if (k >= n) {
    flip_column.add(k - n, -change);
    return;
  }
  const linalg::ColumnView view = column_of(k);
  for (std::size_t e = 0; e < view.index.size(); ++e)
    flip_column.add(view.index[e], change * view.value[e]);
  work.add(static_cast<Offset>(view.index.size()));
}

// B dx_B = - the moves noted.
void BasisState::absorb_moves() {
  if (flip_column.list().empty()) return;
  lu.ftran(flip_column, 0.0);
  for (const Index i : flip_column.list()) {
    x[at(basic[at(i)])] -= flip_column[i];
    update_excess(i);
  }
  flip_column.clear();
  work.add(lu.num_entries() + m);
}

// Every nonbasic variable at a bound it has, the basic ones following; every excess looked at anew.
void BasisState::settle_all() {
  flip_column.clear();
  if (!moved.all && known.values) {
    for (const Index k : moved.list)
      if (place[at(k)] != VariableStatus::basic) move_settled(k);
    absorb_moves();
    for (const Index k : moved.list)
      if (row_of[at(k)] >= 0) update_excess(row_of[at(k)]);
    work.add(static_cast<Offset>(moved.list.size()));
    return;
  }
  for (Index k = 0; k < n + m; ++k)
    if (place[at(k)] != VariableStatus::basic) move_settled(k);
  work.add(n + m);
  if (!known.values) return compute_values();
  absorb_moves();
  for (Index i = 0; i < m; ++i) update_excess(i);
}

// B x_B = -N x_N.
void BasisState::compute_values() {
  ended_at.reset();
  column.clear();
  for (Index k = 0; k < n + m; ++k) {
    if (place[at(k)] == VariableStatus::basic) continue;
    settle(k);
    const double xk = x[at(k)];
    if (xk == 0.0) continue;
    if (k >= n) {
      column.add(k - n, xk);
      continue;
    }
    const linalg::ColumnView view = column_of(k);
    for (std::size_t e = 0; e < view.index.size(); ++e)
      column.add(view.index[e], -view.value[e] * xk);
  }
  lu.ftran(column, 0.0);
  out.excess.resize(at(m));
  for (Index i = 0; i < m; ++i) {
    x[at(basic[at(i)])] = column[i];
    update_excess(i);
  }
  known.values = true;
  work.add(program.num_nonzeros() + lu.num_entries() + n + m);
}

// B' y = c_B, d = c - A'y; the logical of row i has d = c + y_i.
void BasisState::compute_duals() {
  rho.clear();
  for (Index i = 0; i < m; ++i)
    if (cost[at(basic[at(i)])] != 0.0) rho.add(i, cost[at(basic[at(i)])]);
  lu.btran(rho, 0.0);
  d = cost;
  for (Index i : rho.list()) {
    const double y = rho[i];
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e) d[at(index[e])] -= y * value[e];
    d[at(n + i)] += y;
  }
  dual_residual = 0.0;
  for (Index i = 0; i < m; ++i) {
    double& dk = d[at(basic[at(i)])];
    dual_residual = std::max(dual_residual, std::abs(dk) / unit[at(basic[at(i)])]);
    dk = 0.0;
  }
  known.duals = true;
  moved.all = true;  // signs may have changed anywhere
  work.add(program.num_nonzeros() + lu.num_entries() + n + m);
}

// c'x and the sum of the terms' sizes, in four sums side by side.
double BasisState::objective(double* size) const {
  const std::span<const double> c = program.costs();
  constexpr std::size_t kSums = 4;
  double sum[kSums] = {}, sizes[kSums] = {};
  std::size_t j = 0;
  const auto columns = static_cast<std::size_t>(n);
  for (; j + kSums <= columns; j += kSums)
    for (std::size_t k = 0; k < kSums; ++k) {
      const double term = c[j + k] * x[j + k];
      sum[k] += term;
      sizes[k] += std::abs(term);
    }
  for (; j < columns; ++j) {
    sum[0] += c[j] * x[j];
    sizes[0] += std::abs(c[j] * x[j]);
  }
  if (size != nullptr) *size = (sizes[0] + sizes[1]) + (sizes[2] + sizes[3]);
  return (sum[0] + sum[1]) + (sum[2] + sum[3]);
}

const BasisState::EndGoal& BasisState::end_goal() {
  if (!ended_at) {
    double size = 0.0;
    const double value = objective(&size);
    ended_at = EndGoal{value, size};
  }
  return *ended_at;
}

// How far a value lies outside its bounds; at least 0.
double BasisState::infeasibility(Index k) const {
  return std::max({lower[at(k)] - x[at(k)], x[at(k)] - upper[at(k)], 0.0});
}

bool BasisState::dual_infeasible(Index k, double tolerance) const {
  if (place[at(k)] == VariableStatus::basic || lower[at(k)] == upper[at(k)]) return false;
  const double dk = d[at(k)];
  tolerance *= unit[at(k)];
  switch (place[at(k)]) {
    case VariableStatus::at_lower:
      return dk < -tolerance;
    case VariableStatus::at_upper:
      return dk > tolerance;
    default:
      return std::abs(dk) > tolerance;
  }
}

bool BasisState::primal_feasible(double tolerance) const {
  return std::none_of(out.excess.begin(), out.excess.end(),
                      [&](double by) { return by > tolerance; });
}

bool BasisState::any_dual_infeasible(double tolerance) const {
  for (Index k = 0; k < n + m; ++k)
    if (dual_infeasible(k, tolerance)) return true;
  return false;
}

// Whether a reduced cost has the wrong sign and its variable no other bound to move to.
bool BasisState::any_stuck() const {
  if (unboxed == 0) return false;
  if (!moved.all)
    return std::any_of(moved.list.begin(), moved.list.end(),
                       [&](Index k) { return !boxed(k) && dual_infeasible(k, dual_tolerance); });
  for (Index k = 0; k < n + m; ++k)
    if (!boxed(k) && dual_infeasible(k, dual_tolerance)) return true;
  return false;
}

}  // namespace kiteknot::lp
