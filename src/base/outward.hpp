#pragma once
// Fractions as doubles on the side where nothing is cut off.

#include "base/interval.hpp"
#include "kiteknot/rational.hpp"

namespace kiteknot {

/// The nearest double, one step further out where it lies inside: upward for an upper limit.
inline double outward(const Rational& limit, bool upper) {
  const double near = limit.to_double();
  if (!limit.is_finite() || std::isinf(near)) return near;
  const Rational back = Rational::exactly(near);
  if (upper ? back >= limit : back <= limit) return near;
  return upper ? step_up(near) : step_down(near);
}

}  // namespace kiteknot
