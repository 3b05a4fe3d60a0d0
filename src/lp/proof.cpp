#include "lp/proof.hpp"

#include <cmath>

#include "base/infinity.hpp"

namespace kiteknot::lp {
namespace {

// start - A'y by columns, enclosed; entries of y that are 0 cost nothing.
void subtract_combination(const Program& program, std::span<const double> y,
                          std::vector<Interval>& combination) {
  for (Index i = 0; i < program.num_rows(); ++i) {
    const double multiplier = -y[static_cast<std::size_t>(i)];
    if (multiplier == 0.0) continue;
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    const bool exact = program.row_exact(i);
    for (std::size_t k = 0; k < index.size(); ++k)
      combination[static_cast<std::size_t>(index[k])].add(
          times(multiplier, coefficient(value[k], exact)));
  }
}

}  // namespace

double least_product(const Interval& d, double lower, double upper) {
  double least = kInf;
  for (const double slope : {d.low, d.high})
    for (const double end : {lower, upper}) {
      if (slope == 0.0) {
        least = std::min(least, 0.0);
      } else if (std::isinf(end)) {
        least = std::min(least, slope * end);
      } else {
        least = std::min(least, multiply_down(slope, end));
      }
    }
  return least;
}

double safe_bound(const Program& program, std::span<const double> y,
                  std::vector<Interval>* reduced) {
  std::vector<double> multiplier(y.begin(), y.end());
  std::vector<Interval> own;
  return safe_bound_in_place(program, multiplier, reduced != nullptr ? *reduced : own);
}

double proof_sum(const Program& program, std::span<double> multiplier, bool with_costs,
                 std::vector<Interval>& d) {
  double constant = 0.0;
  for (Index i = 0; i < program.num_rows(); ++i) {
    double& v = multiplier[static_cast<std::size_t>(i)];
    const double limit = v > 0.0 ? program.row_lower(i) : program.row_upper(i);
    if (!std::isfinite(v) || std::isinf(limit)) v = 0.0;
    if (v != 0.0) constant = add_down(constant, multiply_down(v, limit));
  }
  d.assign(static_cast<std::size_t>(program.num_columns()), {});
  for (Index j = 0; j < program.num_columns() && with_costs; ++j)
    d[static_cast<std::size_t>(j)] = coefficient(program.cost(j), program.cost_exact());
  subtract_combination(program, multiplier, d);
  return constant;
}

double safe_bound_in_place(const Program& program, std::span<double> multiplier,
                           std::vector<Interval>& d, const ImpliedEnds* ends) {
  double bound = proof_sum(program, multiplier, true, d);
  for (Index j = 0; j < program.num_columns(); ++j) {
    const double least =
        least_product(d[static_cast<std::size_t>(j)],
                      ends != nullptr ? ends->lower(program, j) : program.lower(j),
                      ends != nullptr ? ends->upper(program, j) : program.upper(j));
    bound = std::isinf(least) || bound == -kInf ? -kInf : add_down(bound, least);
  }
  return std::isnan(bound) ? -kInf : bound;
}

PlainBound PlainProof::bound(const Program& program, std::span<double> y,
                             std::vector<Interval>& reduced) {
  constexpr double kUnit = 0x1p-53, kMargin = 1.01, kTiny = 1e-290;
  const PlainBound none{-kInf, kInf};
  const Index n = program.num_columns(), m = program.num_rows();
  const auto columns = static_cast<std::size_t>(n);
  d_.resize(columns);
  size_.resize(columns);
  reduced.resize(columns);
  bool exact = program.cost_exact();
  for (Index j = 0; j < n; ++j) {
    d_[static_cast<std::size_t>(j)] = program.cost(j);
    size_[static_cast<std::size_t>(j)] = std::abs(program.cost(j));
  }
  double sum = 0.0, sizes = 0.0, radius = 0.0;
  for (Index i = 0; i < m; ++i) {
    double& v = y[static_cast<std::size_t>(i)];
    const double limit = v > 0.0 ? program.row_lower(i) : program.row_upper(i);
    if (!std::isfinite(v) || std::isinf(limit)) v = 0.0;
    if (v == 0.0) continue;
    exact = exact && program.row_exact(i);
    sum += v * limit;
    sizes += std::abs(v * limit);
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    for (std::size_t k = 0; k < index.size(); ++k) {
      const double term = v * value[k];
      d_[static_cast<std::size_t>(index[k])] -= term;
      size_[static_cast<std::size_t>(index[k])] += std::abs(term);
    }
  }
  // A number that is only the nearest double is off by up to two units more.
  const double more = exact ? 5.0 : 8.0;
  const double* lower = program.lower().data();
  const double* upper = program.upper().data();
  Index longest = 0;
  for (Index j = 0; j < n; ++j) longest = std::max(longest, program.columns().size(j));
  const double share = kMargin * kUnit * (static_cast<double>(longest) + more);
  // By columns, without branches: the term into d_, what it may be off by into size_.
  for (std::size_t j = 0; j < columns; ++j) {
    const double d = d_[j], off = share * size_[j] + std::min(size_[j] * 0x1p60, kTiny);
    reduced[j] = {d - off, d + off};
    d_[j] = std::max(d, 0.0) * lower[j] + std::min(d, 0.0) * upper[j];
    size_[j] = off * std::max(std::abs(lower[j]), std::abs(upper[j]));
  }
  struct Sums {
    double terms = 0.0, sizes = 0.0, radius = 0.0;
  };
  const auto add_up_columns = [&] {
    constexpr std::size_t kLanes = 4;
    double terms[kLanes] = {}, sizes_of[kLanes] = {}, radii[kLanes] = {};
    std::size_t j = 0;
    for (; j + kLanes <= columns; j += kLanes)
      for (std::size_t k = 0; k < kLanes; ++k) {
        terms[k] += d_[j + k];
        sizes_of[k] += std::abs(d_[j + k]);
        radii[k] += size_[j + k];
      }
    for (; j < columns; ++j) {
      terms[0] += d_[j];
      sizes_of[0] += std::abs(d_[j]);
      radii[0] += size_[j];
    }
    Sums all;
    for (std::size_t k = 0; k < kLanes; ++k) {
      all.terms += terms[k];
      all.sizes += sizes_of[k];
      all.radius += radii[k];
    }
    return all;
  };
  Sums all = add_up_columns();
  if (!(all.radius < kInf)) {  // a column without an end makes it infinite, or no number
    for (std::size_t j = 0; j < columns; ++j) {
      if (std::max(std::abs(lower[j]), std::abs(upper[j])) < kInf) continue;
      const Interval& d = reduced[j];
      d_[j] = size_[j] = 0.0;
      if (d.low == 0.0 && d.high == 0.0) continue;  // no term at all
      const double end = d.low > 0.0 ? lower[j] : upper[j];
      if (!std::isfinite(end) || !(d.low > 0.0 || d.high < 0.0)) return none;
      d_[j] = (d.low + 0.5 * (d.high - d.low)) * end;
      size_[j] = kMargin * (d.high - d.low) * std::abs(end);
    }
    all = add_up_columns();
  }
  sum += all.terms;
  sizes += all.sizes;
  radius += all.radius;
  const double terms = static_cast<double>(n) + static_cast<double>(m) + 8.0;
  radius = kMargin * (radius + kUnit * terms * sizes) + kTiny;
  const double bound = step_down(sum - radius);
  return std::isfinite(bound) ? PlainBound{bound, radius} : none;
}

bool proves_infeasible(const Program& program, std::span<const double> y, const ImpliedEnds* ends) {
  std::vector<Interval> combination(static_cast<std::size_t>(program.num_columns()));
  for (const double v : y)
    if (!std::isfinite(v)) return false;
  subtract_combination(program, y, combination);
  // With w = y'(A x - r) = 0 for every feasible pair, look at the range of -w.
  double low = 0.0, high = 0.0;
  const auto widen = [&](const Interval& d, double lower, double upper) {
    const double least = least_product(d, lower, upper);
    const double most = -least_product({-d.high, -d.low}, lower, upper);
    low = std::isinf(least) || std::isinf(low) ? -kInf : add_down(low, least);
    high = std::isinf(most) || std::isinf(high) ? kInf : add_up(high, most);
  };
  for (Index j = 0; j < program.num_columns(); ++j)
    widen(combination[static_cast<std::size_t>(j)],
          ends != nullptr ? ends->lower(program, j) : program.lower(j),
          ends != nullptr ? ends->upper(program, j) : program.upper(j));
  for (Index i = 0; i < program.num_rows(); ++i) {
    const double v = y[static_cast<std::size_t>(i)];
    if (v != 0.0) widen({v, v}, program.row_lower(i), program.row_upper(i));
    if (std::isinf(low) && std::isinf(high)) return false;
  }
  return low > 0.0 || high < 0.0;
}

}  // namespace kiteknot::lp
