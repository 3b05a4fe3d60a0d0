// A program that changes under its basis: growth, removal, other bases, snapshots.

#include <algorithm>

#include "base/check.hpp"
#include "kiteknot/errors.hpp"
#include "lp/basis_state.hpp"

namespace kiteknot::lp {

// Nothing is left to build on but the places.
void BasisState::stale() {
  touch();
  factored = known.values = known.duals = false;
  moved.all = true;
}

// Brings the state to the program's present size: new columns nonbasic, new rows basic, the factor
// bordered by them. A column that entered before its row was there has no entry in the factor's
// older rows, so the border is all there is to add.
void BasisState::grow() {
  const Index new_n = program.num_columns(), new_m = program.num_rows();
  const Index more_columns = new_n - n, more_rows = new_m - m;
  if (more_columns == 0 && more_rows == 0) return;
  touch();
  nothing_moved();
  moved.all = true;
  goal.loaded = false;
  const auto widen = [&](auto& v, auto of_column, auto row) {
    v.insert(v.begin() + n, at(more_columns), of_column);
    v.resize(at(new_n) + at(new_m), row);
  };
  widen(place, VariableStatus::at_lower, VariableStatus::basic);
  for (std::vector<double>* v : {&x, &d, &lower, &upper, &cost}) widen(*v, 0.0, 0.0);
  widen(unit, 1.0, 1.0);
  widen(row_of, -1, -1);
  moved.listed.assign(at(new_n) + at(new_m), 0);
  if (!pending_weight.empty()) widen(pending_weight, 1.0, 1.0);
  for (Index& k : basic)
    if (k >= n) k += more_columns;
  for (Index i = m; i < new_m; ++i) {
    basic.push_back(new_n + i);
    row_of[at(new_n + i)] = i;
  }
  weight.resize(at(new_m), 1.0);
  out.excess.resize(at(new_m), 0.0);
  out.listed.resize(at(new_m), 0);
  if (factored && more_rows > 0) {
    std::vector<Index> index;
    std::vector<double> value;
    std::vector<std::size_t> start{0};
    for (Index i = m; i < new_m; ++i) {
      for (std::size_t e = 0; e < program.rows().index(i).size(); ++e) {
        const Index row = row_of[at(program.rows().index(i)[e])];
        if (row < 0) continue;
        index.push_back(row);
        value.push_back(program.rows().value(i)[e]);
      }
      start.push_back(index.size());
    }
    std::vector<linalg::ColumnView> lines;
    for (std::size_t k = 0; k + 1 < start.size(); ++k)
      lines.push_back({{index.data() + start[k], start[k + 1] - start[k]},
                       {value.data() + start[k], start[k + 1] - start[k]}});
    lu.add_rows(lines);
  }
  const Index rows_before = m;
  n = new_n;
  m = new_m;
  measure_units(rows_before);
  known.values = false;
  known.duals = known.duals && more_columns == 0;
  for (linalg::WorkVector* w : {&rho, &column, &flip_column}) w->reset(m);
  alpha.reset(n + m);
}

Basis BasisState::basis() const {
  Basis b{{place.begin(), place.begin() + n}, {place.begin() + n, place.end()}, {}};
  if (!factored) return b;
  std::vector<Index> order = basic;
  std::sort(order.begin(), order.end());
  b.weights.reserve(order.size());
  for (const Index k : order) b.weights.push_back(static_cast<float>(weight[at(row_of[at(k)])]));
  return b;
}

void BasisState::set_basis(const Basis& basis) {
  grow();
  touch();
  moved.all = true;
  bool same = factored;
  std::size_t basics = 0;
  pending_weight.assign(at(n + m), 1.0);
  for (Index k = 0; k < n + m; ++k) {
    const std::size_t i = at(k < n ? k : k - n);
    const std::vector<VariableStatus>& from = k < n ? basis.columns : basis.rows;
    const VariableStatus next =
        i < from.size() ? from[i] : (k < n ? VariableStatus::at_lower : VariableStatus::basic);
    same = same && (next == VariableStatus::basic) == (place[at(k)] == VariableStatus::basic);
    place[at(k)] = next;
    if (next == VariableStatus::basic && i < from.size() && basics < basis.weights.size())
      pending_weight[at(k)] = basis.weights[basics++];
  }
  if (same)
    pending_weight.clear();  // the factor still fits, and so do its weights
  else
    stale();
}

void BasisState::start_from_rows() {
  set_basis(
      {std::vector<VariableStatus>(at(program.num_columns()), VariableStatus::at_lower), {}, {}});
}

void BasisState::set_row(Index i, double low, double high, const std::vector<Entry>& entries,
                         bool exact) {
  grow();
  program.set_row(i, low, high, entries, exact);
  ++removals;
  measure_unit(i);
  stale();
}

void BasisState::remove_rows(const std::vector<char>& gone) {
  grow();
  Basis old = basis();
  Basis left{std::move(old.columns), {}, {}};
  // Rows of the inverse of [B 0; a -1] begin with those of B's, and 0 follows: where only basic
  // rows go, the weights of the others are what they were.
  bool all_basic = !old.weights.empty();
  std::size_t seen = 0;
  const auto keep_weight = [&](VariableStatus status, bool stays) {
    if (status != VariableStatus::basic) {
      all_basic = all_basic && stays;
    } else if (all_basic) {
      if (stays) left.weights.push_back(old.weights[seen]);
      ++seen;
    }
  };
  for (const VariableStatus status : left.columns) keep_weight(status, true);
  for (std::size_t i = 0; i < old.rows.size(); ++i) {
    keep_weight(old.rows[i], !gone[i]);
    if (!gone[i]) left.rows.push_back(old.rows[i]);
  }
  if (!all_basic) left.weights.clear();
  program.remove_rows(gone);
  ++removals;
  resize_state(0, 0);
  set_basis(left);
}

void BasisState::remove_columns(const std::vector<char>& gone) {
  grow();
  Basis old = basis();
  Basis left{{}, std::move(old.rows), {}};
  for (std::size_t j = 0; j < old.columns.size(); ++j)
    if (!gone[j]) left.columns.push_back(old.columns[j]);
  program.remove_columns(gone);
  ++removals;
  resize_state(0, 0);
  set_basis(left);
}

// A state of the given size in which nothing is known.
void BasisState::resize_state(Index new_n, Index new_m) {
  nothing_moved();
  n = new_n;
  m = new_m;
  const std::size_t total = at(new_n) + at(new_m);
  moved.listed.assign(total, 0);
  goal.loaded = false;
  for (std::vector<double>* v : {&x, &d, &lower, &upper, &cost}) v->assign(total, 0.0);
  place.assign(total, VariableStatus::at_lower);
  unit.assign(total, 1.0);
  columns_measured = -1;
  row_of.assign(total, -1);
  basic.assign(at(new_m), -1);
  weight.assign(at(new_m), 1.0);
  out.excess.assign(at(new_m), 0.0);
  out.list.clear();
  out.listed.assign(at(new_m), 0);
  for (linalg::WorkVector* w : {&rho, &column, &flip_column}) w->reset(m);
  alpha.reset(n + m);
  pending_weight.clear();
  stale();
}

BasisSnapshot BasisState::save() const {
  if (!factored || n != program.num_columns() || m != program.num_rows())
    throw UsageError("only a basis that was solved can be kept");
  BasisSnapshot kept{n,      m,  removals, unboxed, goal.number, place, basic,
                     weight, lu, {},       {},      {},          {}};
  if (known.values && known.duals && !goal.shifted && !moved.all && moved.list.empty()) {
    kept.x = x;
    kept.d = d;
    kept.lower = lower;
    kept.upper = upper;
  }
  return kept;
}

void BasisState::restore(const BasisSnapshot& snapshot) {
  if (snapshot.removals != removals || snapshot.place.empty())
    throw UsageError("rows or columns were removed since the basis was kept");
  touch();
  if (n == snapshot.num_columns && m == snapshot.num_rows) {
    for (const Index k : basic) row_of[at(k)] = -1;
    known.values = known.duals = false;
    moved.all = true;
  } else {
    const std::vector<double> units = unit;
    const auto rows = units.begin() + n;
    resize_state(snapshot.num_columns, snapshot.num_rows);
    std::copy_n(units.begin(), n, unit.begin());
    std::copy_n(rows, m, unit.begin() + n);
    columns_measured = n;
  }
  place = snapshot.place;
  basic = snapshot.basic;
  weight = snapshot.weight;
  lu = snapshot.lu;
  pending_weight.clear();
  for (Index i = 0; i < m; ++i) row_of[at(basic[at(i)])] = i;
  factored = true;
  if (!snapshot.x.empty() && snapshot.goals == goal.number && program.num_columns() == n &&
      program.num_rows() == m)
    restore_values(snapshot);
  grow();
}

// Values and duals as they were under the bounds of then; those that differ now have moved.
void BasisState::restore_values(const BasisSnapshot& snapshot) {
  x = snapshot.x;
  d = snapshot.d;
  lower = snapshot.lower;
  upper = snapshot.upper;
  known.values = known.duals = true;
  (void)load_costs();  // the duals are those of the costs without shifts
  nothing_moved();
  // Unequal bounds of a few variables, in passes without branches over the others.
  const auto look = [&](Index from, std::span<const double> low, std::span<const double> high) {
    Index differ = 0;
    const double* own_low = lower.data() + from;
    const double* own_high = upper.data() + from;
    for (std::size_t k = 0; k < low.size(); ++k)
      differ += static_cast<Index>(static_cast<int>(low[k] != own_low[k]) |
                                   static_cast<int>(high[k] != own_high[k]));
    for (std::size_t k = 0; k < low.size() && differ > 0; ++k) {
      if (low[k] == own_low[k] && high[k] == own_high[k]) continue;
      note_moved(from + static_cast<Index>(k));
      --differ;
    }
  };
  look(0, program.lower(), program.upper());
  look(n, program.row_lower(), program.row_upper());
  unboxed = snapshot.unboxed;
  for (Index i = 0; i < m; ++i) update_excess(i);
}

}  // namespace kiteknot::lp
