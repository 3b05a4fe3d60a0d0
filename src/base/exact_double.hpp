#pragma once
// Sums, products and quotients of doubles, or nothing where a double does not hold them exactly.

#include <cmath>
#include <optional>

#include "base/interval.hpp"

namespace kiteknot {

inline std::optional<double> exact_sum(double a, double b) {
  const double s = a + b;
  if (!std::isfinite(s) || sum_error(a, b, s) != 0.0) return std::nullopt;
  return s;
}
inline std::optional<double> exact_product(double a, double b) {
  const double p = a * b;
  if (a == 0.0 || b == 0.0) return 0.0;
  if (!std::isfinite(p) || std::abs(p) < kUnderflowGuard || std::fma(a, b, -p) != 0.0)
    return std::nullopt;
  return p;
}
/// b is not 0.
inline std::optional<double> exact_quotient(double a, double b) {
  const double q = a / b;
  if (a == 0.0) return 0.0;
  if (!std::isfinite(q) || std::abs(q) < kUnderflowGuard || std::abs(a) < kUnderflowGuard ||
      std::fma(-q, b, a) != 0.0)
    return std::nullopt;
  return q;
}

}  // namespace kiteknot
