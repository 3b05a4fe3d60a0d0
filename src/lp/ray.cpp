#include "lp/ray.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace kiteknot::lp {

Rational near_fraction(double x, std::int64_t most) {
  const double target = x;
  std::int64_t p0 = 0, q0 = 1, p1 = 1, q1 = 0;
  for (int step = 0; step < 40; ++step) {
    const double whole = std::floor(x);
    if (std::abs(whole) > 1e12) break;
    const auto a = static_cast<std::int64_t>(whole);
    const std::int64_t p = a * p1 + p0, q = a * q1 + q0;
    if (q > most) break;
    p0 = p1, q0 = q1, p1 = p, q1 = q;
    const double value = static_cast<double>(p) / static_cast<double>(q);
    if (std::abs(value - target) <= 1e-12 * (1.0 + std::abs(target)) || x == whole) break;
    x = 1.0 / (x - whole);
  }
  return q1 == 0 ? Rational(0) : Rational::ratio(p1, q1);
}

std::vector<std::vector<Rational>> as_fractions(std::span<const double> direction) {
  constexpr double kNoise = 1e-9;
  constexpr std::int64_t kMostDenominator = 10000;
  double least = std::numeric_limits<double>::infinity(), most = 0.0;
  for (const double v : direction) most = std::max(most, std::abs(v));
  for (const double v : direction)
    if (std::abs(v) > kNoise * most) least = std::min(least, std::abs(v));
  std::vector<std::vector<Rational>> candidates;
  if (most == 0.0) return candidates;
  for (const double unit : {1.0, least, most}) {
    std::vector<Rational>& d = candidates.emplace_back();
    for (const double v : direction) d.push_back(near_fraction(v / unit, kMostDenominator));
  }
  return candidates;
}

bool recedes(const Rational& rate, const Rational& lower, const Rational& upper) {
  return (rate.sign() <= 0 || !upper.is_finite()) && (rate.sign() >= 0 || !lower.is_finite());
}

bool recedes(const Program& program, const std::vector<Rational>& d) {
  Rational goal = 0;
  for (Index j = 0; j < program.num_columns(); ++j) {
    const Rational& rate = d[static_cast<std::size_t>(j)];
    if (rate.is_zero()) continue;
    if (!recedes(rate, program.exact_lower(j), program.exact_upper(j))) return false;
    goal += program.exact_cost(j) * rate;
  }
  if (goal.sign() >= 0) return false;
  for (Index i = 0; i < program.num_rows(); ++i) {
    Rational rate = 0;
    const auto index = program.rows().index(i);
    for (std::size_t e = 0; e < index.size(); ++e) {
      const Rational& step = d[static_cast<std::size_t>(index[e])];
      if (!step.is_zero()) rate += program.exact_value(i, e) * step;
    }
    if (!recedes(rate, program.exact_row_lower(i), program.exact_row_upper(i))) return false;
  }
  return true;
}

bool proves_unbounded(const Program& program, std::span<const double> direction) {
  const auto candidates = as_fractions(direction);
  return std::any_of(candidates.begin(), candidates.end(),
                     [&](const std::vector<Rational>& d) { return recedes(program, d); });
}

}  // namespace kiteknot::lp
