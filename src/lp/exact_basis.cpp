#include "lp/exact_basis.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace kiteknot::lp {
namespace {

std::size_t at(Index i) {
  return static_cast<std::size_t>(i);
}

// The kernel A_RS with its labels.
class Kernel {
 public:
  Kernel(const Program& program, const Basis& basis, const ExactLimits& limits) : limits_(limits) {
    if (basis.columns.size() != at(program.num_columns()) ||
        basis.rows.size() != at(program.num_rows()))
      return;
    std::vector<Index> number(basis.columns.size(), -1);
    for (Index j = 0; j < program.num_columns(); ++j)
      if (basis.columns[at(j)] == Place::basic) {
        number[at(j)] = static_cast<Index>(columns.size());
        columns.push_back(j);
      }
    for (Index i = 0; i < program.num_rows(); ++i) {
      if (!program.row_exact(i)) return;
      if (basis.rows[at(i)] != Place::basic) rows.push_back(i);
    }
    if (rows.size() != columns.size() || rows.size() > at(limits.max_kernel)) return;
    matrix_.resize(rows.size());
    for (std::size_t r = 0; r < rows.size(); ++r) {
      const auto index = program.rows().index(rows[r]);
      const auto value = program.rows().value(rows[r]);
      for (std::size_t e = 0; e < index.size(); ++e)
        if (number[at(index[e])] >= 0 && value[e] != 0.0)
          matrix_[r][number[at(index[e])]] = Rational::exactly(value[e]);
    }
    usable_ = true;
  }

  [[nodiscard]] bool usable() const { return usable_; }
  std::vector<Index> rows, columns;

  // A_RS x = rhs (or the transposed system), by Gauss-Jordan elimination on sparse rows, the
  // shortest row first.
  std::optional<std::vector<Rational>> solve(std::vector<Rational> rhs, bool transposed) const {
    std::vector<std::map<Index, Rational>> a = matrix_;
    if (transposed) {
      a.assign(matrix_.size(), {});
      for (std::size_t r = 0; r < matrix_.size(); ++r)
        for (const auto& [c, v] : matrix_[r]) a[at(c)][static_cast<Index>(r)] = v;
    }
    const std::size_t k = a.size();
    std::vector<char> done(k, 0);
    std::vector<std::size_t> row_of(k, 0);
    std::int64_t operations = 0;
    for (std::size_t step = 0; step < k; ++step) {
      std::size_t pivot_row = k;
      for (std::size_t r = 0; r < k; ++r)
        if (!done[r] && (pivot_row == k || a[r].size() < a[pivot_row].size())) pivot_row = r;
      if (a[pivot_row].empty()) return std::nullopt;
      done[pivot_row] = 1;
      const Index pivot_column = a[pivot_row].begin()->first;
      row_of[at(pivot_column)] = pivot_row;
      const Rational pivot = a[pivot_row].begin()->second;
      for (std::size_t r = 0; r < k; ++r) {
        if (r == pivot_row) continue;
        const auto hit = a[r].find(pivot_column);
        if (hit == a[r].end()) continue;
        const Rational factor = hit->second / pivot;
        for (const auto& [c, v] : a[pivot_row]) {
          Rational& entry = a[r][c];
          entry -= factor * v;
          if (entry.is_zero()) a[r].erase(c);
        }
        rhs[r] -= factor * rhs[pivot_row];
        operations += static_cast<std::int64_t>(a[pivot_row].size()) + 1;
      }
      if (operations > limits_.max_operations) return std::nullopt;
    }
    std::vector<Rational> x(k);
    for (std::size_t c = 0; c < k; ++c)
      x[c] = rhs[row_of[c]] / a[row_of[c]].at(static_cast<Index>(c));
    return x;
  }

 private:
  ExactLimits limits_;
  bool usable_ = false;
  std::vector<std::map<Index, Rational>> matrix_;
};

Rational nonbasic_value(Place place, double lower, double upper) {
  if (place == Place::at_lower && std::isfinite(lower)) return Rational::exactly(lower);
  if (place == Place::at_upper && std::isfinite(upper)) return Rational::exactly(upper);
  return 0;
}

// start + y'A by columns.
std::vector<Rational> combine(const Program& program, std::vector<Rational> start,
                              const std::vector<Index>& rows, const std::vector<Rational>& y) {
  for (std::size_t r = 0; r < rows.size(); ++r) {
    if (y[r].is_zero()) continue;
    const auto index = program.rows().index(rows[r]);
    const auto value = program.rows().value(rows[r]);
    for (std::size_t e = 0; e < index.size(); ++e)
      start[at(index[e])] += y[r] * Rational::exactly(value[e]);
  }
  return start;
}

// Adds the least value of d x over lower <= x <= upper; false where it has no end.
bool add_least(Rational& sum, const Rational& d, double lower, double upper) {
  if (d.is_zero()) return true;
  const double end = d.sign() > 0 ? lower : upper;
  if (std::isinf(end)) return false;
  sum += d * Rational::exactly(end);
  return true;
}

}  // namespace

std::optional<std::vector<Rational>> exact_values(const Program& program, const Basis& basis,
                                                  const ExactLimits& limits) {
  const Kernel kernel(program, basis, limits);
  if (!kernel.usable()) return std::nullopt;
  std::vector<Rational> x(at(program.num_columns()));
  for (Index j = 0; j < program.num_columns(); ++j)
    if (basis.columns[at(j)] != Place::basic)
      x[at(j)] = nonbasic_value(basis.columns[at(j)], program.lower(j), program.upper(j));
  std::vector<Rational> rhs;
  for (const Index i : kernel.rows) {
    Rational rest = nonbasic_value(basis.rows[at(i)], program.row_lower(i), program.row_upper(i));
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e)
      if (!x[at(index[e])].is_zero()) rest -= Rational::exactly(value[e]) * x[at(index[e])];
    rhs.push_back(rest);
  }
  const auto solved = kernel.solve(std::move(rhs), false);
  if (!solved) return std::nullopt;
  for (std::size_t k = 0; k < kernel.columns.size(); ++k) x[at(kernel.columns[k])] = (*solved)[k];
  return x;
}

std::optional<Rational> exact_bound(const Program& program, const Basis& basis,
                                    const ExactLimits& limits) {
  if (!program.cost_exact()) return std::nullopt;
  const Kernel kernel(program, basis, limits);
  if (!kernel.usable()) return std::nullopt;
  std::vector<Rational> rhs;
  for (const Index j : kernel.columns) rhs.push_back(Rational::exactly(program.cost(j)));
  auto y = kernel.solve(std::move(rhs), true);
  if (!y) return std::nullopt;
  Rational bound = 0;
  for (std::size_t r = 0; r < kernel.rows.size(); ++r) {
    const Index i = kernel.rows[r];
    if (!add_least(bound, (*y)[r], program.row_lower(i), program.row_upper(i))) (*y)[r] = 0;
    (*y)[r] = -(*y)[r];
  }
  std::vector<Rational> cost;
  for (Index j = 0; j < program.num_columns(); ++j)
    cost.push_back(Rational::exactly(program.cost(j)));
  const std::vector<Rational> d = combine(program, std::move(cost), kernel.rows, *y);
  for (Index j = 0; j < program.num_columns(); ++j)
    if (!add_least(bound, d[at(j)], program.lower(j), program.upper(j))) return std::nullopt;
  return bound;
}

// A_RS d_S = -A_Rq for a column q; = e_i for the logical of row i.
std::optional<std::vector<Rational>> exact_direction(const Program& program, const Basis& basis,
                                                     Index variable, bool upward,
                                                     const ExactLimits& limits) {
  const Kernel kernel(program, basis, limits);
  if (!kernel.usable()) return std::nullopt;
  const Rational one = upward ? 1 : -1;
  std::vector<Rational> d(at(program.num_columns()));
  if (variable < program.num_columns()) d[at(variable)] = one;
  std::vector<Rational> rhs;
  for (const Index i : kernel.rows) {
    Rational rest = i == variable - program.num_columns() ? one : Rational(0);
    if (variable < program.num_columns()) {
      const auto index = program.rows().index(i);
      for (std::size_t e = 0; e < index.size(); ++e)
        if (index[e] == variable) rest -= Rational::exactly(program.rows().value(i)[e]) * one;
    }
    rhs.push_back(rest);
  }
  const auto solved = kernel.solve(std::move(rhs), false);
  if (!solved) return std::nullopt;
  for (std::size_t k = 0; k < kernel.columns.size(); ++k) d[at(kernel.columns[k])] = (*solved)[k];
  return d;
}

bool fits_exactly(const Program& program, const std::vector<Rational>& x) {
  const auto within = [](const Rational& v, double lower, double upper) {
    return (std::isinf(lower) || v >= Rational::exactly(lower)) &&
           (std::isinf(upper) || v <= Rational::exactly(upper));
  };
  for (Index j = 0; j < program.num_columns(); ++j)
    if (!within(x[at(j)], program.lower(j), program.upper(j))) return false;
  for (Index i = 0; i < program.num_rows(); ++i) {
    Rational sum = 0;
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e)
      sum += Rational::exactly(value[e]) * x[at(index[e])];
    if (!within(sum, program.row_lower(i), program.row_upper(i))) return false;
  }
  return true;
}

bool exact_infeasible(const Program& program, const Basis& basis, Index variable,
                      const ExactLimits& limits) {
  Kernel kernel(program, basis, limits);
  if (!kernel.usable()) return false;
  // Row `variable` of the inverse: A_RS' y_R = e (a column), or = A_iS with y_i = -1 (a row's
  // logical).
  const Index row = variable - program.num_columns();
  std::vector<Rational> rhs(kernel.columns.size());
  for (std::size_t k = 0; k < kernel.columns.size(); ++k) {
    const Index j = kernel.columns[k];
    if (row < 0) {
      rhs[k] = j == variable ? 1 : 0;
      continue;
    }
    const auto index = program.rows().index(row);
    for (std::size_t e = 0; e < index.size(); ++e)
      if (index[e] == j) rhs[k] += Rational::exactly(program.rows().value(row)[e]);
  }
  auto y = kernel.solve(std::move(rhs), true);
  if (!y) return false;
  std::vector<Index> rows = kernel.rows;
  if (row >= 0) {
    rows.push_back(row);
    y->push_back(-1);
  }
  const std::vector<Rational> d =
      combine(program, std::vector<Rational>(at(program.num_columns())), rows, *y);
  // y'(A x - r) must be able to be 0; it cannot if its range lies on one side.
  for (const int side : {1, -1}) {
    Rational least = 0;
    bool finite = true;
    for (Index j = 0; j < program.num_columns() && finite; ++j)
      finite = add_least(least, d[at(j)] * side, program.lower(j), program.upper(j));
    for (std::size_t r = 0; r < rows.size() && finite; ++r)
      finite =
          add_least(least, (*y)[r] * -side, program.row_lower(rows[r]), program.row_upper(rows[r]));
    if (finite && least.sign() > 0) return true;
  }
  return false;
}

}  // namespace kiteknot::lp
