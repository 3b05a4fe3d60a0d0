// The factor of the basis, and what is read from it.

#include <algorithm>

#include "base/check.hpp"
#include "lp/basis_state.hpp"

namespace kiteknot::lp {

// Exactly m variables are basic: too few are filled up with rows, too many give up columns, last
// first.
void BasisState::repair_counts() {
  Index count = static_cast<Index>(std::count(place.begin(), place.end(), VariableStatus::basic));
  for (Index k = n; k < n + m && count < m; ++k)
    if (place[at(k)] != VariableStatus::basic) {
      place[at(k)] = VariableStatus::basic;
      ++count;
    }
  for (Index k = n + m; k-- > 0 && count > m;)
    if (place[at(k)] == VariableStatus::basic) {
      place[at(k)] = VariableStatus::at_lower;
      --count;
    }
}

linalg::ColumnView BasisState::column_of(Index k) const {
  return {program.columns().index(k), program.columns().value(k)};
}

void BasisState::load_column(Index k, linalg::WorkVector& to) const {
  to.clear();
  if (k >= n) {
    to.add(k - n, -1.0);
    return;
  }
  const linalg::ColumnView view = column_of(k);
  for (std::size_t e = 0; e < view.index.size(); ++e) to.add(view.index[e], view.value[e]);
}

// Factorises the present basis. A singular one is repaired: dependent columns leave, the logicals
// of the rows left over enter.
void BasisState::factorise() {
  const SolveMeter::Timed timer = meter.timed(&Parts::factor);
  static constexpr double kMinusOne = -1.0;
  linalg::LuOptions options;
  options.pivot_threshold = pivot_threshold;
  for (int attempt = 0;; ++attempt) {
    KITEKNOT_CHECK(attempt < 10, "a basis of logicals must factorise");
    repair_counts();
    std::vector<Index> variables;
    std::vector<linalg::ColumnView> views;
    std::vector<Index> rows(at(m));
    for (Index i = 0; i < m; ++i) rows[at(i)] = i;
    for (Index k = 0; k < n + m; ++k) {
      if (place[at(k)] != VariableStatus::basic) continue;
      variables.push_back(k);
      views.push_back(k < n ? column_of(k)
                            : linalg::ColumnView{{&rows[at(k - n)], 1}, {&kMinusOne, 1}});
    }
    const linalg::LuReport report = lu.factor(views, options);
    work.add(lu.num_factor_entries() + m);
    if (report.regular()) {
      std::vector<double> weight_of(at(n + m), 1.0);
      if (!pending_weight.empty())
        weight_of.swap(pending_weight);
      else
        for (Index i = 0; i < m; ++i)
          if (basic[at(i)] >= 0) weight_of[at(basic[at(i)])] = weight[at(i)];
      pending_weight.clear();
      std::fill(row_of.begin(), row_of.end(), -1);
      for (std::size_t c = 0; c < variables.size(); ++c) {
        const Index row = lu.pivot_row()[c];
        basic[at(row)] = variables[c];
        row_of[at(variables[c])] = row;
        weight[at(row)] = weight_of[at(variables[c])];
      }
      factored = true;
      known.values = known.duals = false;
      return;
    }
    for (Index c : report.columns_without_pivot)
      place[at(variables[at(c)])] = VariableStatus::at_lower;
    for (Index i : report.rows_without_pivot) place[at(n + i)] = VariableStatus::basic;
  }
}

// Too many updates, or too much fill since the factorisation.
bool BasisState::factor_worn() const {
  constexpr int kMostUpdates = 100;
  return !factored || lu.num_updates() >= kMostUpdates ||
         lu.num_entries() > 3 * lu.num_factor_entries() + 4 * Offset{m};
}

// New factor, values and duals from scratch.
void BasisState::refresh() {
  factorise();
  compute_values();
  compute_duals();
}

// rho = B^-T e_row.
void BasisState::invert_row(Index row, double drop) {
  const SolveMeter::Timed timer = meter.timed(&Parts::btran);
  rho.clear();
  rho.add(row, 1.0);
  lu.btran(rho, drop);
  work.add(lu.num_entries() + m);
}

// column = B^-1 a_q, kept for the update of the factor.
void BasisState::load_entering(Index q, double drop) {
  const SolveMeter::Timed timer = meter.timed(&Parts::ftran);
  load_column(q, column);
  lu.ftran(column, drop, true);
  work.add(lu.num_entries() + m);
}

// alpha = rho'(A, -I) over all variables, row by row.
void BasisState::price_row(const linalg::WorkVector& by) {
  const SolveMeter::Timed timer = meter.timed(&Parts::pricing);
  alpha.clear();
  Offset touched = 0;
  for (Index i : by.list()) {
    const double r = by[i];
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e) alpha.add(index[e], r * value[e]);
    alpha.add(n + i, -r);
    touched += static_cast<Offset>(index.size()) + 1;
  }
  work.add(touched);
}

void BasisState::swap_basis(Index row, Index entering, VariableStatus leaving_place) {
  touch();
  const Index leaving = basic[at(row)];
  place[at(leaving)] = leaving_place;
  row_of[at(leaving)] = -1;
  place[at(entering)] = VariableStatus::basic;
  row_of[at(entering)] = row;
  basic[at(row)] = entering;
  // A factor that cannot take the column is made anew at the next turn of the loop.
  const SolveMeter::Timed timer = meter.timed(&Parts::update);
  if (!lu.replace(row, column[row])) factored = false;
  ++meter.pivots;
  work.add(static_cast<Offset>(column.list().size()));
}

}  // namespace kiteknot::lp
