#include "lp/refinement.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/at.hpp"
#include "lp/exact_pivots.hpp"

namespace kiteknot::lp {
namespace {

constexpr double kMostScale = 0x1p60;
constexpr int kRounds = 8;

double power_of_two_below(double v) {
  return std::ldexp(1.0, std::ilogb(v));
}

double near(const Rational& limit, const Rational& value, const Rational& scale) {
  return limit.is_finite() ? ((limit - value) * scale).to_double() : limit.to_double();
}

// An exact point of the columns with the rows' values, and exact reduced costs.
struct Vertex {
  std::vector<Rational> x, row, d;
  double primal = 0.0, dual = 0.0;  // the largest violations
};

std::optional<Vertex> vertex(const Program& p, const Basis& basis, const ExactLimits& limits) {
  auto x = exact_values(p, basis, limits);
  auto d = x ? exact_reduced_costs(p, basis, limits) : std::nullopt;
  if (!d) return std::nullopt;
  Vertex v{std::move(*x), {}, std::move(*d)};
  for (Index i = 0; i < p.num_rows(); ++i) {
    Rational sum = 0;
    const auto index = p.rows().index(i);
    for (std::size_t e = 0; e < index.size(); ++e)
      if (!v.x[at(index[e])].is_zero()) sum += p.exact_value(i, e) * v.x[at(index[e])];
    v.row.push_back(std::move(sum));
  }
  const auto look = [&](const Rational& value, const Rational& low, const Rational& high,
                        const Rational& slope, VariableStatus place) {
    if (value < low) v.primal = std::max(v.primal, (low - value).to_double());
    if (value > high) v.primal = std::max(v.primal, (value - high).to_double());
    if (place == VariableStatus::basic || low == high) return;
    const int wrong = place == VariableStatus::at_lower   ? -1
                      : place == VariableStatus::at_upper ? 1
                                                          : slope.sign();
    if (slope.sign() == wrong) v.dual = std::max(v.dual, slope.abs().to_double());
  };
  for (Index j = 0; j < p.num_columns(); ++j)
    look(v.x[at(j)], p.exact_lower(j), p.exact_upper(j), v.d[at(j)], basis.columns[at(j)]);
  for (Index i = 0; i < p.num_rows(); ++i)
    look(v.row[at(i)], p.exact_row_lower(i), p.exact_row_upper(i), v.d[at(p.num_columns()) + at(i)],
         basis.rows[at(i)]);
  return v;
}

}  // namespace

// The program with the rows' logicals as columns of their own, which can have costs:
// A x - r = 0, columns first, then logicals.
Simplex with_logicals(const Program& p) {
  Simplex s;
  for (Index j = 0; j < p.num_columns() + p.num_rows(); ++j) s.add_column(0.0, 0.0, 0.0);
  for (Index i = 0; i < p.num_rows(); ++i) {
    std::vector<Entry> entries;
    const auto index = p.rows().index(i);
    for (std::size_t e = 0; e < index.size(); ++e)
      entries.push_back({index[e], p.rows().value(i)[e]});
    entries.push_back({p.num_columns() + i, -1.0});
    s.add_row(0.0, 0.0, entries, p.row_exact(i));
  }
  return s;
}

namespace {

// What the rounds left: by exact pivots, from the last basis that could be looked at.
Refined pivoted(const Program& p, Basis basis, const ExactLimits& limits) {
  constexpr int kPivots = 200;
  auto end = exact_pivots(p, std::move(basis), {kPivots, limits});
  if (!end || end->status == Status::limit) return {};
  return {end->status, std::move(end->basis)};
}

}  // namespace

Refined refined(const Simplex& simplex, const ExactLimits& limits) {
  const Program& p = simplex.program();
  for (Index i = 0; i < p.num_rows(); ++i)
    if (!p.row_known(i)) return {};
  if (!p.cost_known()) return {};
  Basis basis = at_own_bounds(p, simplex.basis());
  const Index n = p.num_columns(), m = p.num_rows();
  double primal_scale = 1.0, dual_scale = 1.0;
  std::optional<Simplex> scaled;
  for (int round = 0; round < kRounds; ++round) {
    if (limits.interrupt.now()) return {};
    const std::optional<Vertex> v = vertex(p, basis, limits);
    if (!v) return {};
    if (v->primal == 0.0 && v->dual == 0.0) return {Status::optimal, basis};
    const auto finer = [](double violation, double before) {
      constexpr double kGrowth = 0x1p30;
      const double wanted =
          violation > 0.0 ? power_of_two_below(1.0 / violation) : before * kGrowth;
      return std::clamp(wanted, 1.0, std::min(before * kGrowth, kMostScale));
    };
    primal_scale = finer(v->primal, primal_scale);
    dual_scale = finer(v->dual, dual_scale);
    const Rational by = Rational::exactly(primal_scale), cost_by = Rational::exactly(dual_scale);
    if (!scaled) scaled.emplace(with_logicals(p));
    for (Index k = 0; k < n + m; ++k) {
      const bool column = k < n;
      const Rational& x = column ? v->x[at(k)] : v->row[at(k - n)];
      const double low = near(column ? p.exact_lower(k) : p.exact_row_lower(k - n), x, by),
                   high = near(column ? p.exact_upper(k) : p.exact_row_upper(k - n), x, by);
      scaled->set_bounds(k, low, std::max(low, high));
      scaled->set_cost(k, (v->d[at(k)] * cost_by).to_double());
    }
    // The violation is about 1 now, however large the reduced costs beside it.
    constexpr double kSmall = 1e-6;
    double largest = 1.0;
    for (const Rational& d : v->d) largest = std::max(largest, std::abs((d * cost_by).to_double()));
    Basis all{basis.columns, std::vector<VariableStatus>(at(m), VariableStatus::at_lower), {}};
    all.columns.insert(all.columns.end(), basis.rows.begin(), basis.rows.end());
    scaled->set_basis(all);
    SimplexOptions options;
    options.interrupt = limits.interrupt;
    options.tolerances.optimality = std::min(options.tolerances.optimality, kSmall / largest);
    options.exact_pivots = 0;  // of a program that is rounded anyway
    const Status status = scaled->solve(options).status;
    if (status != Status::optimal && status != Status::undecided) break;
    all = scaled->basis();
    if (std::count(all.rows.begin(), all.rows.end(), VariableStatus::basic) > 0) break;
    Basis next{{all.columns.begin(), all.columns.begin() + n},
               {all.columns.begin() + n, all.columns.end()},
               {}};
    if (next.columns == basis.columns && next.rows == basis.rows) break;
    basis = std::move(next);
  }
  return pivoted(p, std::move(basis), limits);
}

}  // namespace kiteknot::lp
