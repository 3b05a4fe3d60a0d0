#include "lp/simplex.hpp"

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "lp/exact_basis.hpp"
#include "lp/proof.hpp"

namespace kiteknot::lp {
namespace {
constexpr double kInf = std::numeric_limits<double>::infinity();
}

Simplex::Simplex(Program program) : program_(std::move(program)) {
  grow();
}

// Brings the state to the program's present size: new columns nonbasic, new rows basic.
void Simplex::grow() {
  const Basis old = basis();
  if (program_.num_columns() == n_ && program_.num_rows() == m_) return;
  renumber_places(old.columns, old.rows);
}

void Simplex::renumber_places(const std::vector<Place>& columns, const std::vector<Place>& rows) {
  const std::vector<double> old_weight = weight_;
  n_ = program_.num_columns();
  m_ = program_.num_rows();
  const std::size_t total = at(n_) + at(m_);
  place_.assign(total, Place::at_lower);
  for (std::size_t j = 0; j < std::min(columns.size(), at(n_)); ++j) place_[j] = columns[j];
  for (std::size_t i = 0; i < at(m_); ++i)
    place_[at(n_) + i] = i < rows.size() ? rows[i] : Place::basic;
  x_.assign(total, 0.0);
  d_.assign(total, 0.0);
  lower_.resize(total);
  upper_.resize(total);
  cost_.resize(total);
  row_of_.assign(total, -1);
  basic_.assign(at(m_), -1);
  weight_.assign(at(m_), 1.0);
  if (old_weight.size() < weight_.size())
    std::copy(old_weight.begin(), old_weight.end(), weight_.begin());
  for (linalg::WorkVector* w : {&rho_, &column_, &tau_, &flip_column_}) w->reset(m_);
  alpha_.reset(n_ + m_);
  pending_weight_.clear();
  factored_ = false;
}

Index Simplex::add_column(double cost, double lower, double upper,
                          const std::vector<Entry>& entries) {
  return program_.add_column(cost, lower, upper, entries);
}
Index Simplex::add_row(double lower, double upper, const std::vector<Entry>& entries, bool exact) {
  return program_.add_row(lower, upper, entries, exact);
}
void Simplex::set_cost(Index j, double cost) {
  program_.set_cost(j, cost);
}
void Simplex::set_bounds(Index j, double lower, double upper) {
  program_.set_bounds(j, lower, upper);
}
void Simplex::set_row_limits(Index i, double lower, double upper) {
  program_.set_row_limits(i, lower, upper);
}

void Simplex::remove_rows(const std::vector<char>& gone) {
  grow();
  Basis old = basis();
  std::vector<Place> rows;
  for (std::size_t i = 0; i < old.rows.size(); ++i)
    if (!gone[i]) rows.push_back(old.rows[i]);
  program_.remove_rows(gone);
  renumber_places(old.columns, rows);
}

void Simplex::remove_columns(const std::vector<char>& gone) {
  grow();
  Basis old = basis();
  std::vector<Place> columns;
  for (std::size_t j = 0; j < old.columns.size(); ++j)
    if (!gone[j]) columns.push_back(old.columns[j]);
  program_.remove_columns(gone);
  renumber_places(columns, old.rows);
}

Basis Simplex::basis() const {
  Basis b{{place_.begin(), place_.begin() + n_}, {place_.begin() + n_, place_.end()}, {}};
  if (!factored_) return b;
  for (Index k = 0; k < n_ + m_; ++k)
    if (row_of_[at(k)] >= 0) b.weights.push_back(static_cast<float>(weight_[at(row_of_[at(k)])]));
  return b;
}

void Simplex::set_basis(const Basis& basis) {
  grow();
  bool same = factored_;
  std::size_t basics = 0;
  pending_weight_.assign(at(n_ + m_), 1.0);
  for (Index k = 0; k < n_ + m_; ++k) {
    const std::size_t i = at(k < n_ ? k : k - n_);
    const std::vector<Place>& from = k < n_ ? basis.columns : basis.rows;
    const Place next = i < from.size() ? from[i] : (k < n_ ? Place::at_lower : Place::basic);
    same = same && (next == Place::basic) == (place_[at(k)] == Place::basic);
    place_[at(k)] = next;
    if (next == Place::basic && i < from.size() && basics < basis.weights.size())
      pending_weight_[at(k)] = basis.weights[basics++];
  }
  if (same) pending_weight_.clear();  // the factor still fits, and so do its weights
  factored_ = same;
}

void Simplex::load_bounds_and_costs() {
  for (Index j = 0; j < n_; ++j) {
    lower_[at(j)] = program_.lower(j);
    upper_[at(j)] = program_.upper(j);
    cost_[at(j)] = program_.cost(j);
  }
  for (Index i = 0; i < m_; ++i) {
    lower_[at(n_ + i)] = program_.row_lower(i);
    upper_[at(n_ + i)] = program_.row_upper(i);
    cost_[at(n_ + i)] = 0.0;
  }
  shifted_ = false;
}

// A nonbasic variable stands at a finite bound, or at 0 where it has none.
void Simplex::settle_nonbasic(Index k) {
  Place& p = place_[at(k)];
  const bool low = std::isfinite(lower_[at(k)]), high = std::isfinite(upper_[at(k)]);
  if (p == Place::at_lower && !low) p = high ? Place::at_upper : Place::at_zero;
  if (p == Place::at_upper && !high) p = low ? Place::at_lower : Place::at_zero;
  if (p == Place::at_zero && (low || high)) p = low ? Place::at_lower : Place::at_upper;
  x_[at(k)] = p == Place::at_lower ? lower_[at(k)] : (p == Place::at_upper ? upper_[at(k)] : 0.0);
}

// Exactly m variables are basic: too few are filled up with rows, too many give up columns, last
// first.
void Simplex::repair_counts() {
  Index count = static_cast<Index>(std::count(place_.begin(), place_.end(), Place::basic));
  for (Index k = n_; k < n_ + m_ && count < m_; ++k)
    if (place_[at(k)] != Place::basic) {
      place_[at(k)] = Place::basic;
      ++count;
    }
  for (Index k = n_ + m_; k-- > 0 && count > m_;)
    if (place_[at(k)] == Place::basic) {
      place_[at(k)] = Place::at_lower;
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
// of the rows left over enter. Returns whether the basis had to be repaired.
bool Simplex::factor() {
  bool repaired = false;
  static constexpr double kMinusOne = -1.0;
  for (int attempt = 0;; ++attempt) {
    KITEKNOT_CHECK(attempt < 10, "a basis of logicals must factorise");
    repair_counts();
    std::vector<Index> variables;
    std::vector<linalg::ColumnView> views;
    std::vector<Index> rows(at(m_));
    for (Index i = 0; i < m_; ++i) rows[at(i)] = i;
    for (Index k = 0; k < n_ + m_; ++k) {
      if (place_[at(k)] != Place::basic) continue;
      variables.push_back(k);
      views.push_back(k < n_ ? column_of(k)
                             : linalg::ColumnView{{&rows[at(k - n_)], 1}, {&kMinusOne, 1}});
    }
    const linalg::LuReport report = lu_.factor(views);
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
      return repaired;
    }
    repaired = true;
    for (Index c : report.columns_without_pivot) place_[at(variables[at(c)])] = Place::at_lower;
    for (Index i : report.rows_without_pivot) place_[at(n_ + i)] = Place::basic;
  }
}

// New factor, values and duals from scratch.
bool Simplex::refresh() {
  const bool repaired = factor();
  compute_values();
  compute_duals();
  return repaired;
}

// B x_B = -N x_N.
void Simplex::compute_values() {
  column_.clear();
  for (Index k = 0; k < n_ + m_; ++k) {
    if (place_[at(k)] == Place::basic) continue;
    settle_nonbasic(k);
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
  for (Index i = 0; i < m_; ++i) d_[at(basic_[at(i)])] = 0.0;
  work_.add(program_.num_nonzeros() + lu_.num_entries() + n_ + m_);
}

std::vector<double> Simplex::row_duals() {
  std::vector<double> y(at(m_), 0.0);
  if (!factored_) return y;
  rho_.clear();
  for (Index i = 0; i < m_; ++i) {
    const Index k = basic_[at(i)];
    if (k < n_ && program_.cost(k) != 0.0) rho_.add(i, program_.cost(k));
  }
  lu_.btran(rho_, 0.0);
  for (Index i : rho_.list()) y[at(i)] = rho_[i];
  work_.add(lu_.num_entries() + m_);
  return y;
}

double Simplex::bound(std::vector<Interval>* reduced) {
  work_.add(program_.num_nonzeros() + n_ + m_);
  const double quick = safe_bound(program_, row_duals(), reduced);
  if (quick != -kInf || !factored_) return quick;
  const std::optional<Rational> exact = exact_bound(program_, basis());
  return exact ? step_down(exact->to_double()) : -kInf;
}

// alpha = rho'(A, -I) over all variables, row by row.
void Simplex::price_row(const linalg::WorkVector& rho) {
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

void Simplex::swap_basis(Index row, Index entering, Place leaving_place) {
  const Index leaving = basic_[at(row)];
  place_[at(leaving)] = leaving_place;
  row_of_[at(leaving)] = -1;
  place_[at(entering)] = Place::basic;
  row_of_[at(entering)] = row;
  basic_[at(row)] = entering;
  // A factor that cannot take the column is made anew at the next turn of the loop.
  if (!lu_.replace(row, column_[row])) factored_ = false;
  ++pivots_;
  work_.add(static_cast<Offset>(column_.list().size()));
}

double Simplex::objective() const {
  double sum = 0.0;
  for (Index j = 0; j < n_; ++j) sum += program_.cost(j) * x_[at(j)];
  return sum;
}

// How far a value lies outside its bounds; at least 0.
double Simplex::infeasibility(Index k) const {
  return std::max({lower_[at(k)] - x_[at(k)], x_[at(k)] - upper_[at(k)], 0.0});
}

bool Simplex::dual_infeasible(Index k, double tolerance) const {
  if (place_[at(k)] == Place::basic || lower_[at(k)] == upper_[at(k)]) return false;
  const double d = d_[at(k)];
  switch (place_[at(k)]) {
    case Place::at_lower:
      return d < -tolerance;
    case Place::at_upper:
      return d > tolerance;
    default:
      return std::abs(d) > tolerance;
  }
}

bool Simplex::over_limit(const SolveOptions& options) const {
  return pivots_ - pivots_at_start_ >= options.max_pivots ||
         work_.units() - work_at_start_ >= options.max_work || options.interrupt.by_hand() ||
         (pivots_ % 16 == 0 && options.interrupt.by_time());
}

Report Simplex::finish(Status status, const SolveOptions&, std::string reason) {
  return {status, objective(), pivots_ - pivots_at_start_, std::move(reason)};
}

Report Simplex::solve(const SolveOptions& options) {
  grow();
  load_bounds_and_costs();
  pivots_at_start_ = pivots_;
  work_at_start_ = work_.units();
  farkas_.clear();
  ray_.clear();
  ignored_.assign(at(n_ + m_), 0);
  if (options.interrupt.now()) return finish(Status::limit, options);

  double largest_cost = 1.0;
  for (Index j = 0; j < n_; ++j) largest_cost = std::max(largest_cost, std::abs(cost_[at(j)]));
  dual_tolerance_ = options.tolerances.optimality * largest_cost;
  const double primal_tolerance = options.tolerances.feasibility;

  constexpr int kRounds = 8;
  for (int round = 0; round < kRounds; ++round) {
    if (round > 0) load_bounds_and_costs();
    if (!factored_ || lu_.num_updates() > 0 || round > 0) (void)factor();
    compute_duals();
    make_dual_feasible();
    compute_values();
    stalled_ = 0;
    Status status = run_dual(options);
    if (status != Status::optimal) return finish(status, options, reason_);

    if (shifted_) {
      load_bounds_and_costs();
      compute_duals();
    }
    bool primal_needed = false;
    for (Index k = 0; k < n_ + m_ && !primal_needed; ++k)
      primal_needed = dual_infeasible(k, dual_tolerance_);
    if (primal_needed) {
      status = run_primal(options);
      if (status != Status::optimal) return finish(status, options, reason_);
    }
    // The verdict rests on a fresh factor, not on many small updates.
    if (lu_.num_updates() > 0) (void)refresh();
    bool clean = true;
    for (Index k = 0; k < n_ + m_ && clean; ++k)
      clean = infeasibility(k) <= primal_tolerance * (1.0 + std::abs(x_[at(k)])) &&
              !dual_infeasible(k, 10.0 * dual_tolerance_);
    if (clean) return finish(Status::optimal, options);
  }
  return finish(Status::undecided, options, "the simplex method did not settle on a clean basis");
}

}  // namespace kiteknot::lp
