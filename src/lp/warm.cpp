// A program that changes under its basis: growth, removal, other bases, snapshots.

#include <algorithm>

#include "base/check.hpp"
#include "kiteknot/errors.hpp"
#include "lp/scaling.hpp"
#include "lp/simplex.hpp"

namespace kiteknot::lp {

Index Simplex::add_column(double cost, double lower, double upper,
                          const std::vector<Entry>& entries) {
  return program_.add_column(cost, lower, upper, entries);
}
Index Simplex::add_row(double lower, double upper, const std::vector<Entry>& entries, bool exact) {
  return program_.add_row(lower, upper, entries, exact);
}
void Simplex::set_cost(Index j, double cost) {
  bound_known_ = false;
  const double old = program_.cost(j);
  program_.set_cost(j, cost);
  goal_changed_ = goal_changed_ || old != cost;
  costs_loaded_ = false;
  if (old != cost) ++goals_;
}
void Simplex::set_bounds(Index j, double lower, double upper) {
  bound_known_ = false;
  program_.set_bounds(j, lower, upper);
  if (j < n_) note_moved(j);
}
void Simplex::set_row_limits(Index i, double lower, double upper) {
  bound_known_ = false;
  program_.set_row_limits(i, lower, upper);
  if (i < m_) note_moved(n_ + i);
}

// Nothing is left to build on but the places.
void Simplex::stale() {
  bound_known_ = false;
  factored_ = values_known_ = duals_known_ = false;
  all_moved_ = true;
}

// Brings the state to the program's present size: new columns nonbasic, new rows basic, the factor
// bordered by them. A column that entered before its row was there has no entry in the factor's
// older rows, so the border is all there is to add.
void Simplex::grow() {
  const Index n = program_.num_columns(), m = program_.num_rows();
  const Index more_columns = n - n_, more_rows = m - m_;
  if (more_columns == 0 && more_rows == 0) return;
  bound_known_ = false;
  nothing_moved();
  all_moved_ = true;
  costs_loaded_ = false;
  const auto widen = [&](auto& v, auto column, auto row) {
    v.insert(v.begin() + n_, at(more_columns), column);
    v.resize(at(n) + at(m), row);
  };
  widen(place_, VariableStatus::at_lower, VariableStatus::basic);
  for (std::vector<double>* v : {&x_, &d_, &lower_, &upper_, &cost_}) widen(*v, 0.0, 0.0);
  widen(unit_, 1.0, 1.0);
  widen(row_of_, -1, -1);
  moved_listed_.assign(at(n) + at(m), 0);
  if (!pending_weight_.empty()) widen(pending_weight_, 1.0, 1.0);
  for (Index& k : basic_)
    if (k >= n_) k += more_columns;
  for (Index i = m_; i < m; ++i) {
    basic_.push_back(n + i);
    row_of_[at(n + i)] = i;
  }
  weight_.resize(at(m), 1.0);
  excess_.resize(at(m), 0.0);
  out_listed_.resize(at(m), 0);
  if (factored_ && more_rows > 0) {
    std::vector<Index> index;
    std::vector<double> value;
    std::vector<std::size_t> start{0};
    for (Index i = m_; i < m; ++i) {
      for (std::size_t e = 0; e < program_.rows().index(i).size(); ++e) {
        const Index row = row_of_[at(program_.rows().index(i)[e])];
        if (row < 0) continue;
        index.push_back(row);
        value.push_back(program_.rows().value(i)[e]);
      }
      start.push_back(index.size());
    }
    std::vector<linalg::ColumnView> lines;
    for (std::size_t k = 0; k + 1 < start.size(); ++k)
      lines.push_back({{index.data() + start[k], start[k + 1] - start[k]},
                       {value.data() + start[k], start[k + 1] - start[k]}});
    lu_.add_rows(lines);
  }
  const Index rows_before = m_;
  n_ = n;
  m_ = m;
  measure_units(rows_before);
  values_known_ = false;
  duals_known_ = duals_known_ && more_columns == 0;
  for (linalg::WorkVector* w : {&rho_, &column_, &tau_, &flip_column_}) w->reset(m_);
  alpha_.reset(n_ + m_);
}

// Columns are measured again only when some were added: new rows take the columns' units.
void Simplex::measure_units(Index rows_before) {
  if (columns_measured_ != n_) {
    columns_measured_ = n_;
    rows_before = 0;
    const std::vector<double> scale =
        column_scales(program_.rows(), std::vector<char>(at(n_), char{1}));
    for (Index j = 0; j < n_; ++j) unit_[at(j)] = 1.0 / scale[at(j)];
    work_.add(program_.num_nonzeros());
  }
  for (Index i = rows_before; i < m_; ++i) {
    double largest = 0.0;
    const auto index = program_.rows().index(i);
    const auto value = program_.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e)
      largest = std::max(largest, std::abs(value[e]) / unit_[at(index[e])]);
    unit_[at(n_ + i)] = row_scale({&largest, 1});
  }
}

Basis Simplex::basis() const {
  Basis b{{place_.begin(), place_.begin() + n_}, {place_.begin() + n_, place_.end()}, {}};
  if (!factored_) return b;
  std::vector<Index> order = basic_;
  std::sort(order.begin(), order.end());
  b.weights.reserve(order.size());
  for (const Index k : order) b.weights.push_back(static_cast<float>(weight_[at(row_of_[at(k)])]));
  return b;
}

void Simplex::set_basis(const Basis& basis) {
  grow();
  bound_known_ = false;
  all_moved_ = true;
  bool same = factored_;
  std::size_t basics = 0;
  pending_weight_.assign(at(n_ + m_), 1.0);
  for (Index k = 0; k < n_ + m_; ++k) {
    const std::size_t i = at(k < n_ ? k : k - n_);
    const std::vector<VariableStatus>& from = k < n_ ? basis.columns : basis.rows;
    const VariableStatus next =
        i < from.size() ? from[i] : (k < n_ ? VariableStatus::at_lower : VariableStatus::basic);
    same = same && (next == VariableStatus::basic) == (place_[at(k)] == VariableStatus::basic);
    place_[at(k)] = next;
    if (next == VariableStatus::basic && i < from.size() && basics < basis.weights.size())
      pending_weight_[at(k)] = basis.weights[basics++];
  }
  if (same)
    pending_weight_.clear();  // the factor still fits, and so do its weights
  else
    stale();
}

void Simplex::start_from_rows() {
  set_basis(
      {std::vector<VariableStatus>(at(program_.num_columns()), VariableStatus::at_lower), {}, {}});
}

void Simplex::remove_rows(const std::vector<char>& gone) {
  grow();
  Basis old = basis();
  Basis left{std::move(old.columns), {}, {}};
  // Rows of the inverse of [B 0; a -1] begin with those of B's, and 0 follows: where only basic
  // rows go, the weights of the others are what they were.
  bool all_basic = !old.weights.empty();
  std::size_t known = 0;
  const auto keep_weight = [&](VariableStatus place, bool stays) {
    if (place != VariableStatus::basic) {
      all_basic = all_basic && stays;
    } else if (all_basic) {
      if (stays) left.weights.push_back(old.weights[known]);
      ++known;
    }
  };
  for (const VariableStatus place : left.columns) keep_weight(place, true);
  for (std::size_t i = 0; i < old.rows.size(); ++i) {
    keep_weight(old.rows[i], !gone[i]);
    if (!gone[i]) left.rows.push_back(old.rows[i]);
  }
  if (!all_basic) left.weights.clear();
  program_.remove_rows(gone);
  ++removals_;
  ends_.forget();
  resize_state(0, 0);
  set_basis(left);
}

void Simplex::remove_columns(const std::vector<char>& gone) {
  grow();
  Basis old = basis();
  Basis left{{}, std::move(old.rows), {}};
  for (std::size_t j = 0; j < old.columns.size(); ++j)
    if (!gone[j]) left.columns.push_back(old.columns[j]);
  program_.remove_columns(gone);
  ++removals_;
  ends_.forget();
  resize_state(0, 0);
  set_basis(left);
}

// A state of the given size in which nothing is known.
void Simplex::resize_state(Index n, Index m) {
  nothing_moved();
  n_ = n;
  m_ = m;
  const std::size_t total = at(n) + at(m);
  moved_listed_.assign(total, 0);
  costs_loaded_ = false;
  for (std::vector<double>* v : {&x_, &d_, &lower_, &upper_, &cost_}) v->assign(total, 0.0);
  place_.assign(total, VariableStatus::at_lower);
  unit_.assign(total, 1.0);
  columns_measured_ = -1;
  row_of_.assign(total, -1);
  basic_.assign(at(m), -1);
  weight_.assign(at(m), 1.0);
  excess_.assign(at(m), 0.0);
  out_.clear();
  out_listed_.assign(at(m), 0);
  for (linalg::WorkVector* w : {&rho_, &column_, &tau_, &flip_column_}) w->reset(m_);
  alpha_.reset(n_ + m_);
  pending_weight_.clear();
  stale();
}

BasisSnapshot Simplex::save() const {
  if (!factored_ || n_ != program_.num_columns() || m_ != program_.num_rows())
    throw UsageError("only a basis that was solved can be kept");
  BasisSnapshot kept{n_,      m_,  removals_, unboxed_, goals_, place_, basic_,
                     weight_, lu_, {},        {},       {},     {}};
  if (values_known_ && duals_known_ && !shifted_ && !all_moved_ && moved_.empty()) {
    kept.x = x_;
    kept.d = d_;
    kept.lower = lower_;
    kept.upper = upper_;
  }
  return kept;
}

void Simplex::restore(const BasisSnapshot& snapshot) {
  if (snapshot.removals != removals_ || snapshot.place.empty())
    throw UsageError("rows or columns were removed since the basis was kept");
  bound_known_ = false;
  if (n_ == snapshot.num_columns && m_ == snapshot.num_rows) {
    for (const Index k : basic_) row_of_[at(k)] = -1;
    values_known_ = duals_known_ = false;
    all_moved_ = true;
  } else {
    const std::vector<double> unit = unit_;
    const auto rows = unit.begin() + n_;
    resize_state(snapshot.num_columns, snapshot.num_rows);
    std::copy_n(unit.begin(), n_, unit_.begin());
    std::copy_n(rows, m_, unit_.begin() + n_);
    columns_measured_ = n_;
  }
  place_ = snapshot.place;
  basic_ = snapshot.basic;
  weight_ = snapshot.weight;
  lu_ = snapshot.lu;
  pending_weight_.clear();
  for (Index i = 0; i < m_; ++i) row_of_[at(basic_[at(i)])] = i;
  factored_ = true;
  if (!snapshot.x.empty() && snapshot.goals == goals_ && program_.num_columns() == n_ &&
      program_.num_rows() == m_)
    restore_values(snapshot);
  grow();
}

// Values and duals as they were under the bounds of then; those that differ now have moved.
void Simplex::restore_values(const BasisSnapshot& snapshot) {
  x_ = snapshot.x;
  d_ = snapshot.d;
  lower_ = snapshot.lower;
  upper_ = snapshot.upper;
  values_known_ = duals_known_ = true;
  (void)load_costs();  // the duals are those of the costs without shifts
  nothing_moved();
  // Unequal bounds of a few variables, in passes without branches over the others.
  const auto look = [&](Index from, std::span<const double> low, std::span<const double> high) {
    Index differ = 0;
    const double* lower = lower_.data() + from;
    const double* upper = upper_.data() + from;
    for (std::size_t k = 0; k < low.size(); ++k)
      differ += static_cast<Index>(static_cast<int>(low[k] != lower[k]) |
                                   static_cast<int>(high[k] != upper[k]));
    for (std::size_t k = 0; k < low.size() && differ > 0; ++k) {
      if (low[k] == lower[k] && high[k] == upper[k]) continue;
      note_moved(from + static_cast<Index>(k));
      --differ;
    }
  };
  look(0, program_.lower(), program_.upper());
  look(n_, program_.row_lower(), program_.row_upper());
  unboxed_ = snapshot.unboxed;
  for (Index i = 0; i < m_; ++i) update_excess(i);
}

}  // namespace kiteknot::lp
