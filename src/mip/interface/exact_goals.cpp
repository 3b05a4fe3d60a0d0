#include "mip/interface/exact_goals.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/interval.hpp"

namespace kiteknot::mip {

double rounded_up(const Rational& goal) {
  // Below every double the least of them is above it.
  const double near = std::max(goal.to_double(), std::numeric_limits<double>::lowest());
  if (!std::isfinite(near) || Rational::exactly(near) >= goal) return near;
  return step_up(near);
}

double rounded_down(const Rational& goal) {
  return -rounded_up(-goal);
}

Rational to_step(const Rational& goal, double step) {
  if (step == 0.0) return goal;
  const Rational unit = Rational::exactly(step);
  return -(-goal / unit).floor() * unit;
}

std::vector<double> in_doubles(std::span<const Rational> plan) {
  std::vector<double> point;
  point.reserve(plan.size());
  for (const Rational& x : plan) point.push_back(x.to_double());
  return point;
}

}  // namespace kiteknot::mip
