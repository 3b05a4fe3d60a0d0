#include "lp/exact_basis.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "base/big_rational.hpp"

namespace kiteknot::lp {
namespace {

// Numbers over their least common denominator.
ScaledVector over_one(const std::vector<Rational>& values) {
  ScaledVector out;
  std::vector<mpq_class> big;
  big.reserve(values.size());
  for (const Rational& v : values) {
    big.push_back(to_big(v));
    if (big.back().get_den() != 1 &&
        !mpz_divisible_p(out.denominator.get_mpz_t(), big.back().get_den_mpz_t()))
      out.denominator = lcm(out.denominator, big.back().get_den());
  }
  for (const mpq_class& v : big)
    out.numerator.push_back(v.get_num() * (out.denominator / v.get_den()));
  return out;
}

// The kernel A_RS with its labels, made whole row by row: M = S A_RS.
class Kernel {
 public:
  Kernel(const Program& program, const Basis& basis, const ExactLimits& limits) : limits_(limits) {
    if (basis.columns.size() != at(program.num_columns()) ||
        basis.rows.size() != at(program.num_rows()))
      return;
    std::vector<Index> number(basis.columns.size(), -1);
    for (Index j = 0; j < program.num_columns(); ++j)
      if (basis.columns[at(j)] == VariableStatus::basic) {
        number[at(j)] = static_cast<Index>(columns.size());
        columns.push_back(j);
      }
    for (Index i = 0; i < program.num_rows(); ++i) {
      if (!program.row_known(i)) return;
      if (basis.rows[at(i)] != VariableStatus::basic) rows.push_back(i);
    }
    if (rows.size() != columns.size() || rows.size() > at(limits.max_kernel)) return;
    ExactSystem::Matrix matrix;
    for (const Index i : rows) {
      std::vector<Rational> values;
      const auto index = program.rows().index(i);
      for (std::size_t e = 0; e < index.size(); ++e)
        if (number[at(index[e])] >= 0 && program.rows().value(i)[e] != 0.0) {
          matrix.column.push_back(number[at(index[e])]);
          values.push_back(program.exact_value(i, e));
        }
      ScaledVector whole = over_one(values);
      scale.push_back(whole.denominator);
      for (mpz_class& v : whole.numerator) matrix.value.push_back(std::move(v));
      matrix.start.push_back(matrix.value.size());
    }
    system_.emplace(std::move(matrix));
    usable_ = system_->regular();
  }

  [[nodiscard]] bool usable() const { return usable_; }
  std::vector<Index> rows, columns;
  std::vector<mpz_class> scale;  // of each row

  // A_RS x = rhs.
  std::optional<ScaledVector> solve(const std::vector<Rational>& rhs) {
    std::vector<Rational> scaled(rhs);
    for (std::size_t r = 0; r < rows.size(); ++r)
      if (scale[r] != 1) scaled[r] *= ratio_of(scale[r], 1);
    return finish(over_one(scaled), false);
  }
  // A_RS' y = rhs; the result is S^-1 y, which goes with rows of whole numbers.
  std::optional<ScaledVector> solve_transposed(const std::vector<Rational>& rhs) {
    return finish(over_one(rhs), true);
  }
  [[nodiscard]] Rational multiplier(const ScaledVector& w, std::size_t r) const {
    return ratio_of(w.numerator[r] * scale[r], w.denominator);
  }

 private:
  std::optional<ScaledVector> finish(const ScaledVector& rhs, bool transposed) {
    WorkCounter work;
    auto x = system_->solve(rhs.numerator, transposed, limits_, work);
    limits_.interrupt.tell(work.units());
    if (x) x->denominator *= rhs.denominator;
    return x;
  }

  ExactLimits limits_;
  bool usable_ = false;
  std::optional<ExactSystem> system_;
};

Rational nonbasic_value(VariableStatus place, const Rational& lower, const Rational& upper) {
  if (place == VariableStatus::at_lower && lower.is_finite()) return lower;
  if (place == VariableStatus::at_upper && upper.is_finite()) return upper;
  return 0;
}

// Sums of fractions: those over one denominator are added as whole numbers.
class FractionSum {
 public:
  void add_product(const Rational& a, const mpz_class& numerator, const mpz_class& denominator) {
    if (numerator == 0 || a.is_zero()) return;
    if (!same_ || denominator != denominator_) {
      flush();
      denominator_ = denominator;
      same_ = true;
    }
    if (a.is_integer())
      whole_ += to_big(a).get_num() * numerator;
    else
      rest_ += to_big(a) * mpq_class(numerator);
  }
  void add(const Rational& v) { total_ += to_big(v); }
  mpq_class value() {
    flush();
    return total_;
  }

 private:
  void flush() {
    if (!same_) return;
    mpq_class part(whole_);
    part += rest_;
    part /= mpq_class(denominator_);
    total_ += part;
    whole_ = 0;
    rest_ = 0;
    same_ = false;
  }
  bool same_ = false;
  mpz_class denominator_, whole_ = 0;
  mpq_class rest_ = 0, total_ = 0;
};

// Reduced costs d = c - A'y of all columns over one denominator, from S^-1 y.
ScaledVector reduced_costs(const Program& program, const std::vector<Rational>& cost,
                           const std::vector<Index>& rows, const std::vector<mpz_class>& scale,
                           const ScaledVector& w) {
  ScaledVector d = over_one(cost);
  const mpz_class common = lcm(d.denominator, w.denominator);
  const mpz_class cost_by = common / d.denominator, by = common / w.denominator;
  for (mpz_class& v : d.numerator) v *= cost_by;
  d.denominator = common;
  mpz_class part;
  constexpr double kWord = sizeof(long) > 4 ? 0x1p53 : 0x1p31;  // figures that a long can hold
  for (std::size_t r = 0; r < rows.size(); ++r) {
    if (w.numerator[r] == 0) continue;
    const mpz_class multiplier = w.numerator[r] * by * scale[r];
    const auto index = program.rows().index(rows[r]);
    for (std::size_t e = 0; e < index.size(); ++e) {
      const double value = program.rows().value(rows[r])[e];
      mpz_class& to = d.numerator[at(index[e])];
      if (program.row_exact(rows[r]) && std::abs(value) < kWord && value == std::trunc(value)) {
        const auto whole = static_cast<long>(value);
        if (whole >= 0)
          mpz_submul_ui(to.get_mpz_t(), multiplier.get_mpz_t(), static_cast<unsigned long>(whole));
        else
          mpz_addmul_ui(to.get_mpz_t(), multiplier.get_mpz_t(), static_cast<unsigned long>(-whole));
        continue;
      }
      // The row's scale makes entries of the kernel whole; others may need more.
      const mpq_class exact = to_big(program.exact_value(rows[r], e));
      if (!mpz_divisible_p(multiplier.get_mpz_t(), exact.get_den_mpz_t())) {
        const mpz_class& more = exact.get_den();
        ScaledVector w_finer = w;
        for (mpz_class& v : w_finer.numerator) v *= more;
        w_finer.denominator *= more;
        return reduced_costs(program, cost, rows, scale, w_finer);
      }
      part = multiplier / exact.get_den() * exact.get_num();
      to -= part;
    }
  }
  return d;
}

}  // namespace

Basis at_own_bounds(const Program& program, Basis basis) {
  // Rows and columns that came after the basis: as in Simplex::set_basis.
  basis.columns.resize(at(program.num_columns()), VariableStatus::at_lower);
  basis.rows.resize(at(program.num_rows()), VariableStatus::basic);
  const auto settle = [](VariableStatus& place, double low, double high) {
    const bool has_low = std::isfinite(low), has_high = std::isfinite(high);
    if ((place == VariableStatus::at_lower && !has_low) ||
        (place == VariableStatus::at_upper && !has_high) || place == VariableStatus::at_zero)
      place = has_low    ? VariableStatus::at_lower
              : has_high ? VariableStatus::at_upper
                         : VariableStatus::at_zero;
  };
  for (Index j = 0; j < program.num_columns(); ++j)
    settle(basis.columns[at(j)], program.lower(j), program.upper(j));
  for (Index i = 0; i < program.num_rows(); ++i)
    settle(basis.rows[at(i)], program.row_lower(i), program.row_upper(i));
  basis.weights.clear();
  return basis;
}

namespace {

// Fractions are no units of work, but take time: whoever waits for this one is told.
void tell_one_pass(const Program& program, const ExactLimits& limits) {
  constexpr std::int64_t kAnEntry = 20;
  limits.interrupt.tell(kAnEntry *
                        (program.num_nonzeros() + program.num_columns() + program.num_rows()));
}

}  // namespace

std::optional<std::vector<Rational>> exact_values(const Program& program, const Basis& basis,
                                                  const ExactLimits& limits) {
  Kernel kernel(program, basis, limits);
  tell_one_pass(program, limits);
  if (!kernel.usable()) return std::nullopt;
  std::vector<Rational> x(at(program.num_columns()));
  for (Index j = 0; j < program.num_columns(); ++j)
    if (basis.columns[at(j)] != VariableStatus::basic)
      x[at(j)] =
          nonbasic_value(basis.columns[at(j)], program.exact_lower(j), program.exact_upper(j));
  std::vector<Rational> rhs;
  for (const Index i : kernel.rows) {
    Rational rest =
        nonbasic_value(basis.rows[at(i)], program.exact_row_lower(i), program.exact_row_upper(i));
    const auto index = program.rows().index(i);
    for (std::size_t e = 0; e < index.size(); ++e)
      if (!x[at(index[e])].is_zero()) rest -= program.exact_value(i, e) * x[at(index[e])];
    rhs.push_back(std::move(rest));
  }
  const auto solved = kernel.solve(rhs);
  if (!solved) return std::nullopt;
  for (std::size_t k = 0; k < kernel.columns.size(); ++k)
    x[at(kernel.columns[k])] = ratio_of(solved->numerator[k], solved->denominator);
  return x;
}

namespace {

struct Priced {
  ScaledVector w, d;  // multipliers over S, reduced costs
};

std::optional<Priced> price(const Program& program, Kernel& kernel,
                            const std::vector<Rational>& cost) {
  std::vector<Rational> rhs;
  for (const Index j : kernel.columns) rhs.push_back(cost[at(j)]);
  auto w = kernel.solve_transposed(rhs);
  if (!w) return std::nullopt;
  // A multiplier that points at no limit counts as 0; the columns then pay for it.
  for (std::size_t r = 0; r < kernel.rows.size(); ++r) {
    const Index i = kernel.rows[r];
    const double limit = w->numerator[r] > 0 ? program.row_lower(i) : program.row_upper(i);
    if (std::isinf(limit)) w->numerator[r] = 0;
  }
  ScaledVector d = reduced_costs(program, cost, kernel.rows, kernel.scale, *w);
  return Priced{std::move(*w), std::move(d)};
}

std::vector<Rational> costs_of(const Program& program) {
  std::vector<Rational> cost;
  for (Index j = 0; j < program.num_columns(); ++j) cost.push_back(program.exact_cost(j));
  return cost;
}

}  // namespace

std::optional<Rational> exact_bound(const Program& program, const Basis& basis,
                                    const ExactLimits& limits) {
  if (!program.cost_known()) return std::nullopt;
  Kernel kernel(program, basis, limits);
  tell_one_pass(program, limits);
  if (!kernel.usable()) return std::nullopt;
  const auto p = price(program, kernel, costs_of(program));
  tell_one_pass(program, limits);
  if (!p) return std::nullopt;
  FractionSum bound;
  for (std::size_t r = 0; r < kernel.rows.size(); ++r) {
    const int sign = sgn(p->w.numerator[r]);
    if (sign == 0) continue;
    const Index i = kernel.rows[r];
    bound.add_product(sign > 0 ? program.exact_row_lower(i) : program.exact_row_upper(i),
                      p->w.numerator[r] * kernel.scale[r], p->w.denominator);
  }
  for (Index j = 0; j < program.num_columns(); ++j) {
    const int sign = sgn(p->d.numerator[at(j)]);
    if (sign == 0) continue;
    const Rational end = sign > 0 ? program.exact_lower(j) : program.exact_upper(j);
    if (!end.is_finite()) return std::nullopt;
    bound.add_product(end, p->d.numerator[at(j)], p->d.denominator);
  }
  return from_big(bound.value());
}

std::optional<std::vector<Rational>> exact_reduced_costs(const Program& program, const Basis& basis,
                                                         const ExactLimits& limits) {
  if (!program.cost_known()) return std::nullopt;
  return exact_reduced_costs(program, basis, costs_of(program), limits);
}

std::optional<std::vector<Rational>> exact_reduced_costs(const Program& program, const Basis& basis,
                                                         const std::vector<Rational>& cost,
                                                         const ExactLimits& limits) {
  Kernel kernel(program, basis, limits);
  if (!kernel.usable()) return std::nullopt;
  std::vector<Rational> rhs;
  for (const Index j : kernel.columns) rhs.push_back(cost[at(j)]);
  const auto w = kernel.solve_transposed(rhs);
  if (!w) return std::nullopt;
  const ScaledVector d = reduced_costs(program, cost, kernel.rows, kernel.scale, *w);
  std::vector<Rational> all;
  for (const mpz_class& v : d.numerator) all.push_back(ratio_of(v, d.denominator));
  all.resize(at(program.num_columns()) + at(program.num_rows()));
  for (std::size_t r = 0; r < kernel.rows.size(); ++r)
    all[at(program.num_columns()) + at(kernel.rows[r])] = kernel.multiplier(*w, r);
  return all;
}

// A_RS d_S = -A_Rq for a column q; = e_i for the logical of row i.
std::optional<std::vector<Rational>> exact_direction(const Program& program, const Basis& basis,
                                                     Index variable, bool upward,
                                                     const ExactLimits& limits) {
  Kernel kernel(program, basis, limits);
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
        if (index[e] == variable) rest -= program.exact_value(i, e) * one;
    }
    rhs.push_back(rest);
  }
  const auto solved = kernel.solve(rhs);
  if (!solved) return std::nullopt;
  for (std::size_t k = 0; k < kernel.columns.size(); ++k)
    d[at(kernel.columns[k])] = ratio_of(solved->numerator[k], solved->denominator);
  return d;
}

namespace {
// x(j): a column's value.
template <class X>
bool row_holds(const Program& program, Index i, const X& x) {
  FractionSum sum;
  const auto index = program.rows().index(i);
  for (std::size_t e = 0; e < index.size(); ++e) {
    const mpq_class v = to_big(x(index[e]));
    sum.add_product(program.exact_value(i, e), v.get_num(), v.get_den());
  }
  const Rational value = from_big(sum.value());
  return value >= program.exact_row_lower(i) && value <= program.exact_row_upper(i);
}
}  // namespace

bool fits_exactly(const Program& program, const std::vector<Rational>& x) {
  for (Index j = 0; j < program.num_columns(); ++j)
    if (x[at(j)] < program.exact_lower(j) || x[at(j)] > program.exact_upper(j)) return false;
  for (Index i = 0; i < program.num_rows(); ++i)
    if (!row_holds(program, i, [&](Index j) -> const Rational& { return x[at(j)]; })) return false;
  return true;
}

bool breaks_fixed_row(const Program& program) {
  for (Index i = 0; i < program.num_rows(); ++i) {
    const auto index = program.rows().index(i);
    if (program.row_known(i) &&
        std::all_of(index.begin(), index.end(),
                    [&](Index j) { return program.exact_lower(j) == program.exact_upper(j); }) &&
        !row_holds(program, i, [&](Index j) { return program.exact_lower(j); }))
      return true;
  }
  return false;
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
      if (index[e] == j) rhs[k] += program.exact_value(row, e);
  }
  auto w = kernel.solve_transposed(rhs);
  if (!w) return false;
  std::vector<Index> rows = kernel.rows;
  std::vector<mpz_class> scale = kernel.scale;
  if (row >= 0) {
    rows.push_back(row);
    scale.push_back(1);
    w->numerator.push_back(-w->denominator);
  }
  // -d = y'A by columns.
  const ScaledVector d =
      reduced_costs(program, std::vector<Rational>(at(program.num_columns())), rows, scale, *w);
  // y'(A x - r) must be able to be 0; it cannot if its range lies on one side.
  for (const int side : {1, -1}) {
    FractionSum least;
    bool finite = true;
    const auto add = [&](int sign, const mpz_class& numerator, const mpz_class& denominator,
                         const Rational& low, const Rational& high) {
      const Rational& end = sign > 0 ? low : high;
      finite = finite && (sign == 0 || end.is_finite());
      if (finite && sign != 0) least.add_product(end, numerator, denominator);
    };
    for (Index j = 0; j < program.num_columns() && finite; ++j) {
      const mpz_class v = d.numerator[at(j)] * -side;
      add(sgn(v), v, d.denominator, program.exact_lower(j), program.exact_upper(j));
    }
    for (std::size_t r = 0; r < rows.size() && finite; ++r) {
      const mpz_class v = w->numerator[r] * scale[r] * -side;
      add(sgn(v), v, w->denominator, program.exact_row_lower(rows[r]),
          program.exact_row_upper(rows[r]));
    }
    if (finite && least.value() > 0) return true;
  }
  return false;
}

}  // namespace kiteknot::lp
