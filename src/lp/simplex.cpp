#include "lp/simplex.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/check.hpp"
#include "base/infinity.hpp"
#include "lp/exact_basis.hpp"
#include "lp/proof.hpp"

namespace kiteknot::lp {
Simplex::Simplex(Program program) : program_(std::move(program)) {
  grow();
}

// Bounds that moved, and costs where they may differ; returns whether some cost did.
bool Simplex::load_bounds_and_costs() {
  if (all_moved_) {
    unboxed_ = 0;
    for (Index k = 0; k < n_ + m_; ++k) {
      lower_[at(k)] = k < n_ ? program_.lower(k) : program_.row_lower(k - n_);
      upper_[at(k)] = k < n_ ? program_.upper(k) : program_.row_upper(k - n_);
      unboxed_ += boxed(k) ? 0 : 1;
    }
  } else {
    for (const Index k : moved_) load_bounds(k);
  }
  return load_costs();
}

void Simplex::load_bounds(Index k) {
  unboxed_ -= boxed(k) ? 0 : 1;
  lower_[at(k)] = k < n_ ? program_.lower(k) : program_.row_lower(k - n_);
  upper_[at(k)] = k < n_ ? program_.upper(k) : program_.row_upper(k - n_);
  unboxed_ += boxed(k) ? 0 : 1;
}

bool Simplex::load_costs() {
  if (costs_loaded_ && !shifted_) return false;
  bool differ = false;
  largest_cost_ = 1.0;
  for (Index j = 0; j < n_; ++j) {
    differ = differ || cost_[at(j)] != program_.cost(j);
    cost_[at(j)] = program_.cost(j);
    largest_cost_ = std::max(largest_cost_, std::abs(program_.cost(j)) / unit_[at(j)]);
  }
  for (Index i = 0; i < m_; ++i) {
    differ = differ || cost_[at(n_ + i)] != 0.0;
    cost_[at(n_ + i)] = 0.0;
  }
  shifted_ = false;
  costs_loaded_ = true;
  return differ;
}

void Simplex::note_moved(Index k) {
  if (all_moved_ || moved_listed_[at(k)]) return;
  moved_listed_[at(k)] = 1;
  moved_.push_back(k);
}

// Every variable stands at its bounds, with a reduced cost of the right sign.
void Simplex::nothing_moved() {
  for (const Index k : moved_) moved_listed_[at(k)] = 0;
  moved_.clear();
  all_moved_ = false;
}

// What a start from few moves rests on.
void Simplex::check_invariants() const {
  constexpr double kSlack = 100.0;  // tolerances of earlier solves may have been wider
  for (Index k = 0; k < n_ + m_; ++k) {
    if (place_[at(k)] == VariableStatus::basic) continue;
    const double stands = place_[at(k)] == VariableStatus::at_lower   ? lower_[at(k)]
                          : place_[at(k)] == VariableStatus::at_upper ? upper_[at(k)]
                                                                      : 0.0;
    KITEKNOT_CHECK(x_[at(k)] == stands, "a nonbasic variable stands at its bound");
    KITEKNOT_CHECK(!dual_infeasible(k, kSlack * dual_tolerance_),
                   "a nonbasic variable has a reduced cost of the right sign");
  }
  for (Index i = 0; i < m_; ++i)
    KITEKNOT_CHECK(excess_[at(i)] == infeasibility(basic_[at(i)]),
                   "what a basic variable is out of bounds by is known");
}

// A nonbasic variable stands at a finite bound, or at 0 where it has none.
void Simplex::settle(Index k) {
  VariableStatus& p = place_[at(k)];
  const double stands = p == VariableStatus::at_lower ? lower_[at(k)] : upper_[at(k)];
  if (p != VariableStatus::at_zero && std::isfinite(stands)) {
    x_[at(k)] = stands;
    return;
  }
  const bool low = std::isfinite(lower_[at(k)]), high = std::isfinite(upper_[at(k)]);
  if (p == VariableStatus::at_lower && !low)
    p = high ? VariableStatus::at_upper : VariableStatus::at_zero;
  if (p == VariableStatus::at_upper && !high)
    p = low ? VariableStatus::at_lower : VariableStatus::at_zero;
  if (p == VariableStatus::at_zero && (low || high))
    p = low ? VariableStatus::at_lower : VariableStatus::at_upper;
  x_[at(k)] = p == VariableStatus::at_lower ? lower_[at(k)]
                                            : (p == VariableStatus::at_upper ? upper_[at(k)] : 0.0);
}

// Settles k and notes by how much its column moves the rows; absorb_moves() then moves the basic
// variables.
void Simplex::move_settled(Index k) {
  const double old = x_[at(k)];
  settle(k);
  const double change = x_[at(k)] - old;
  if (change == 0.0 || !values_known_) return;
  if (k >= n_) {
    flip_column_.add(k - n_, -change);
    return;
  }
  const linalg::ColumnView view = column_of(k);
  for (std::size_t e = 0; e < view.index.size(); ++e)
    flip_column_.add(view.index[e], change * view.value[e]);
  work_.add(static_cast<Offset>(view.index.size()));
}

// B dx_B = - the moves noted.
void Simplex::absorb_moves() {
  if (flip_column_.list().empty()) return;
  lu_.ftran(flip_column_, 0.0);
  for (const Index i : flip_column_.list()) {
    x_[at(basic_[at(i)])] -= flip_column_[i];
    update_excess(i);
  }
  flip_column_.clear();
  work_.add(lu_.num_entries() + m_);
}

// Every nonbasic variable at a bound it has, the basic ones following; every excess looked at anew.
void Simplex::settle_all() {
  flip_column_.clear();
  if (!all_moved_ && values_known_) {
    for (const Index k : moved_)
      if (place_[at(k)] != VariableStatus::basic) move_settled(k);
    absorb_moves();
    for (const Index k : moved_)
      if (row_of_[at(k)] >= 0) update_excess(row_of_[at(k)]);
    work_.add(static_cast<Offset>(moved_.size()));
    return;
  }
  for (Index k = 0; k < n_ + m_; ++k)
    if (place_[at(k)] != VariableStatus::basic) move_settled(k);
  work_.add(n_ + m_);
  if (!values_known_) return compute_values();
  absorb_moves();
  for (Index i = 0; i < m_; ++i) update_excess(i);
}

// Exactly m variables are basic: too few are filled up with rows, too many give up columns, last
// first.
void Simplex::repair_counts() {
  Index count = static_cast<Index>(std::count(place_.begin(), place_.end(), VariableStatus::basic));
  for (Index k = n_; k < n_ + m_ && count < m_; ++k)
    if (place_[at(k)] != VariableStatus::basic) {
      place_[at(k)] = VariableStatus::basic;
      ++count;
    }
  for (Index k = n_ + m_; k-- > 0 && count > m_;)
    if (place_[at(k)] == VariableStatus::basic) {
      place_[at(k)] = VariableStatus::at_lower;
      --count;
    }
}

linalg::ColumnView Simplex::column_of(Index k) const {
  return {program_.columns().index(k), program_.columns().value(k)};
}

void Simplex::load_column(Index k, linalg::WorkVector& work) const {
  work.clear();
  if (k >= n_) {
    work.add(k - n_, -1.0);
    return;
  }
  const linalg::ColumnView view = column_of(k);
  for (std::size_t e = 0; e < view.index.size(); ++e) work.add(view.index[e], view.value[e]);
}

// Factorises the present basis. A singular one is repaired: dependent columns leave, the logicals
// of the rows left over enter.
void Simplex::factor() {
  const Timed timer = timed(&Parts::factor);
  static constexpr double kMinusOne = -1.0;
  linalg::LuOptions options;
  options.pivot_threshold = pivot_threshold_;
  for (int attempt = 0;; ++attempt) {
    KITEKNOT_CHECK(attempt < 10, "a basis of logicals must factorise");
    repair_counts();
    std::vector<Index> variables;
    std::vector<linalg::ColumnView> views;
    std::vector<Index> rows(at(m_));
    for (Index i = 0; i < m_; ++i) rows[at(i)] = i;
    for (Index k = 0; k < n_ + m_; ++k) {
      if (place_[at(k)] != VariableStatus::basic) continue;
      variables.push_back(k);
      views.push_back(k < n_ ? column_of(k)
                             : linalg::ColumnView{{&rows[at(k - n_)], 1}, {&kMinusOne, 1}});
    }
    const linalg::LuReport report = lu_.factor(views, options);
    work_.add(lu_.num_factor_entries() + m_);
    if (report.regular()) {
      std::vector<double> weight_of(at(n_ + m_), 1.0);
      if (!pending_weight_.empty())
        weight_of.swap(pending_weight_);
      else
        for (Index i = 0; i < m_; ++i)
          if (basic_[at(i)] >= 0) weight_of[at(basic_[at(i)])] = weight_[at(i)];
      pending_weight_.clear();
      std::fill(row_of_.begin(), row_of_.end(), -1);
      for (std::size_t c = 0; c < variables.size(); ++c) {
        const Index row = lu_.pivot_row()[c];
        basic_[at(row)] = variables[c];
        row_of_[at(variables[c])] = row;
        weight_[at(row)] = weight_of[at(variables[c])];
      }
      factored_ = true;
      values_known_ = duals_known_ = false;
      return;
    }
    for (Index c : report.columns_without_pivot)
      place_[at(variables[at(c)])] = VariableStatus::at_lower;
    for (Index i : report.rows_without_pivot) place_[at(n_ + i)] = VariableStatus::basic;
  }
}

// Too many updates, or too much fill since the factorisation.
bool Simplex::factor_worn() const {
  constexpr int kMostUpdates = 100;
  return !factored_ || lu_.num_updates() >= kMostUpdates ||
         lu_.num_entries() > 3 * lu_.num_factor_entries() + 4 * Offset{m_};
}

// New factor, values and duals from scratch.
void Simplex::refresh() {
  factor();
  compute_values();
  compute_duals();
}

// B x_B = -N x_N.
void Simplex::compute_values() {
  end_goal_.reset();
  column_.clear();
  for (Index k = 0; k < n_ + m_; ++k) {
    if (place_[at(k)] == VariableStatus::basic) continue;
    settle(k);
    const double x = x_[at(k)];
    if (x == 0.0) continue;
    if (k >= n_) {
      column_.add(k - n_, x);
      continue;
    }
    const linalg::ColumnView view = column_of(k);
    for (std::size_t e = 0; e < view.index.size(); ++e)
      column_.add(view.index[e], -view.value[e] * x);
  }
  lu_.ftran(column_, 0.0);
  excess_.resize(at(m_));
  for (Index i = 0; i < m_; ++i) {
    x_[at(basic_[at(i)])] = column_[i];
    update_excess(i);
  }
  values_known_ = true;
  work_.add(program_.num_nonzeros() + lu_.num_entries() + n_ + m_);
}

// B' y = c_B, d = c - A'y; the logical of row i has d = c + y_i.
void Simplex::compute_duals() {
  rho_.clear();
  for (Index i = 0; i < m_; ++i)
    if (cost_[at(basic_[at(i)])] != 0.0) rho_.add(i, cost_[at(basic_[at(i)])]);
  lu_.btran(rho_, 0.0);
  d_ = cost_;
  for (Index i : rho_.list()) {
    const double y = rho_[i];
    const auto index = program_.rows().index(i);
    const auto value = program_.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e) d_[at(index[e])] -= y * value[e];
    d_[at(n_ + i)] += y;
  }
  dual_residual_ = 0.0;
  for (Index i = 0; i < m_; ++i) {
    double& d = d_[at(basic_[at(i)])];
    dual_residual_ = std::max(dual_residual_, std::abs(d) / unit_[at(basic_[at(i)])]);
    d = 0.0;
  }
  duals_known_ = true;
  all_moved_ = true;  // signs may have changed anywhere
  work_.add(program_.num_nonzeros() + lu_.num_entries() + n_ + m_);
}

std::vector<double> Simplex::row_duals() {
  load_row_duals();
  return multipliers_;
}

void Simplex::load_row_duals() {
  multipliers_.assign(at(m_), 0.0);
  if (!factored_) return;
  rho_.clear();
  for (Index i = 0; i < m_; ++i) {
    const Index k = basic_[at(i)];
    if (k < n_ && program_.cost(k) != 0.0) rho_.add(i, program_.cost(k));
  }
  lu_.btran(rho_, 0.0);
  for (Index i : rho_.list()) multipliers_[at(i)] = rho_[i];
  work_.add(lu_.num_entries() + m_);
}

// In plain arithmetic; looked up where it was asked for before.
// The enclosures are handed over, not copied: whoever asks again has them worked out again.
double Simplex::quick_bound(std::vector<Interval>* reduced) {
  const bool missing = reduced != nullptr && !reduced_there_;
  if (bound_known_ && missing && radius_ == 0.0) {
    bound_outward();
  } else if (!bound_known_ || missing) {
    work_.add(program_.num_nonzeros() + n_ + m_);
    load_row_duals();
    const PlainBound plain = plain_.bound(program_, multipliers_, bound_reduced_);
    bound_known_ = reduced_there_ = true;
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

void Simplex::bound_outward() {
  work_.add(2 * program_.num_nonzeros() + n_ + m_);
  load_row_duals();
  bound_ = safe_bound_in_place(program_, multipliers_, bound_reduced_);
  radius_ = 0.0;
  reduced_there_ = true;
}

double Simplex::sharp_bound(std::vector<Interval>* reduced) {
  (void)quick_bound(nullptr);
  if (radius_ > 0.0) bound_outward();
  return bound(reduced);
}

// Where a column's own bounds give none, ends that the rows imply may, else the exact multipliers.
double Simplex::bound(std::vector<Interval>* reduced) {
  const double quick = quick_bound(reduced);
  if (quick != -kInf || !factored_) return quick;
  if (!ended_bound_) {
    ends_.update(program_, work_);
    load_row_duals();
    work_.add(program_.num_nonzeros() + n_ + m_);
    ended_bound_ = safe_bound_in_place(program_, multipliers_, bound_reduced_, &ends_);
  }
  if (*ended_bound_ != -kInf) return *ended_bound_;
  // The first of all is to be had whatever the clock says: without it there would be no bound.
  ExactLimits limits;
  if (std::exchange(exact_bound_had_, true)) limits.interrupt = interrupt_;
  const std::optional<Rational> exact = exact_bound(program_, basis(), limits);
  // The enclosures belong to other multipliers than the exact ones: together they prove nothing.
  if (reduced != nullptr) std::fill(reduced->begin(), reduced->end(), Interval{-kInf, kInf});
  return exact ? step_down(exact->to_double()) : -kInf;
}

// rho = B^-T e_row.
void Simplex::invert_row(Index row, double drop) {
  const Timed timer = timed(&Parts::btran);
  rho_.clear();
  rho_.add(row, 1.0);
  lu_.btran(rho_, drop);
  work_.add(lu_.num_entries() + m_);
}

// column = B^-1 a_q, kept for the update of the factor.
void Simplex::load_entering(Index q, double drop) {
  const Timed timer = timed(&Parts::ftran);
  load_column(q, column_);
  lu_.ftran(column_, drop, true);
  work_.add(lu_.num_entries() + m_);
}

// alpha = rho'(A, -I) over all variables, row by row.
void Simplex::price_row(const linalg::WorkVector& rho) {
  const Timed timer = timed(&Parts::pricing);
  alpha_.clear();
  Offset touched = 0;
  for (Index i : rho.list()) {
    const double r = rho[i];
    const auto index = program_.rows().index(i);
    const auto value = program_.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e) alpha_.add(index[e], r * value[e]);
    alpha_.add(n_ + i, -r);
    touched += static_cast<Offset>(index.size()) + 1;
  }
  work_.add(touched);
}

void Simplex::swap_basis(Index row, Index entering, VariableStatus leaving_place) {
  bound_known_ = false;
  const Index leaving = basic_[at(row)];
  place_[at(leaving)] = leaving_place;
  row_of_[at(leaving)] = -1;
  place_[at(entering)] = VariableStatus::basic;
  row_of_[at(entering)] = row;
  basic_[at(row)] = entering;
  // A factor that cannot take the column is made anew at the next turn of the loop.
  const Timed timer = timed(&Parts::update);
  if (!lu_.replace(row, column_[row])) factored_ = false;
  ++pivots_;
  work_.add(static_cast<Offset>(column_.list().size()));
}

// c'x and the sum of the terms' sizes, in four sums side by side.
double Simplex::objective(double* size) const {
  const std::span<const double> cost = program_.costs();
  constexpr std::size_t kSums = 4;
  double sum[kSums] = {}, sizes[kSums] = {};
  std::size_t j = 0;
  const auto n = static_cast<std::size_t>(n_);
  for (; j + kSums <= n; j += kSums)
    for (std::size_t k = 0; k < kSums; ++k) {
      const double term = cost[j + k] * x_[j + k];
      sum[k] += term;
      sizes[k] += std::abs(term);
    }
  for (; j < n; ++j) {
    sum[0] += cost[j] * x_[j];
    sizes[0] += std::abs(cost[j] * x_[j]);
  }
  if (size != nullptr) *size = (sizes[0] + sizes[1]) + (sizes[2] + sizes[3]);
  return (sum[0] + sum[1]) + (sum[2] + sum[3]);
}

// How far a value lies outside its bounds; at least 0.
double Simplex::infeasibility(Index k) const {
  return std::max({lower_[at(k)] - x_[at(k)], x_[at(k)] - upper_[at(k)], 0.0});
}

bool Simplex::dual_infeasible(Index k, double tolerance) const {
  if (place_[at(k)] == VariableStatus::basic || lower_[at(k)] == upper_[at(k)]) return false;
  const double d = d_[at(k)];
  tolerance *= unit_[at(k)];
  switch (place_[at(k)]) {
    case VariableStatus::at_lower:
      return d < -tolerance;
    case VariableStatus::at_upper:
      return d > tolerance;
    default:
      return std::abs(d) > tolerance;
  }
}

bool Simplex::boxed(Index k) const {
  return std::isfinite(lower_[at(k)]) && std::isfinite(upper_[at(k)]);
}

// Far more pivots than any program of this size should take: it goes round in circles.
bool Simplex::exhausted() {
  constexpr std::int64_t kEach = 200, kSome = 2000;
  if (pivots_ - pivots_at_start_ < kSome + kEach * (n_ + m_)) return false;
  reason_ = "the simplex method went round in circles";
  return true;
}

// The clock is looked at after some work, not after some pivots: these may be slow or quick.
bool Simplex::over_limit(const SimplexOptions& options) {
  constexpr std::int64_t kWorkPerLook = 100'000;
  if (pivots_ - pivots_at_start_ >= options.max_pivots ||
      work_.units() - work_at_start_ >= options.max_work || options.interrupt.by_hand())
    return true;
  if (work_.units() - work_at_look_ < kWorkPerLook) return false;
  work_at_look_ = work_.units();
  return options.interrupt.by_time();
}

}  // namespace kiteknot::lp
