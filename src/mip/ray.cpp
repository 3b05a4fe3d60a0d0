#include "mip/ray.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {

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

namespace {

bool recedes(const Rational& rate, double lower, double upper) {
  return (rate.sign() <= 0 || std::isinf(upper)) && (rate.sign() >= 0 || std::isinf(lower));
}

bool row_recedes(std::span<const Index> index, std::span<const double> value, double lower,
                 double upper, const std::vector<Rational>& d) {
  Rational rate = 0;
  for (std::size_t k = 0; k < index.size(); ++k)
    rate += Rational::exactly(value[k]) * d[static_cast<std::size_t>(index[k])];
  return recedes(rate, lower, upper);
}

bool holds(const Problem& problem, const std::vector<Rational>& d) {
  Rational goal = 0;
  for (Index j = 0; j < problem.num_columns(); ++j) {
    const Rational& rate = d[static_cast<std::size_t>(j)];
    if (!recedes(rate, problem.lower(j), problem.upper(j))) return false;
    goal += Rational::exactly(problem.cost(j)) * rate;
  }
  if (goal.sign() >= 0) return false;
  for (Index i = 0; i < problem.num_rows(); ++i)
    if (!problem.row_exact(i) || !row_recedes(problem.rows().index(i), problem.rows().value(i),
                                              problem.row_lower(i), problem.row_upper(i), d))
      return false;
  for (const ConditionalRow& c : problem.conditional_rows()) {
    Rational rate = 0;
    for (const Entry& e : c.row.entries)
      rate += Rational::exactly(e.value) * d[static_cast<std::size_t>(e.index)];
    if (!recedes(rate, c.row.lower, c.row.upper)) return false;
  }
  for (const OrderedSet& set : problem.ordered_sets())
    for (const Index j : set.columns)
      if (!d[static_cast<std::size_t>(j)].is_zero()) return false;
  return true;
}

}  // namespace

bool exact_ray(const Problem& problem, std::span<const double> direction) {
  if (problem.generator() != nullptr || direction.empty()) return false;
  double least = std::numeric_limits<double>::infinity(), most = 0.0;
  constexpr double kNoise = 1e-9;
  for (const double v : direction) most = std::max(most, std::abs(v));
  for (const double v : direction)
    if (std::abs(v) > kNoise * most) least = std::min(least, std::abs(v));
  for (const double unit : {1.0, least, most}) {
    std::vector<Rational> d;
    for (const double v : direction) d.push_back(near_fraction(v / unit, 10000));
    if (holds(problem, d)) return true;
  }
  return false;
}

}  // namespace kiteknot::mip
