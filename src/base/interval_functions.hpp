#pragma once
// Intervals with infinite ends, and functions of them, rounded outward (base/interval.hpp). An
// interval whose low end lies above the high one is empty.
//
// Powers are products that round outward. Square roots are rounded by the processor, and the
// residual says in which direction. exp, log and pow come from the C library, which states errors
// of at most 2 units in the last place for doubles; results are taken 2^-50 wider on either side.
// Source: Moore 1966, "Interval Analysis".

#include <algorithm>
#include <cmath>

#include "base/infinity.hpp"
#include "base/interval.hpp"

namespace kiteknot {

inline constexpr double kLargestDouble = std::numeric_limits<double>::max();
inline constexpr Interval kWholeLine{-kInf, kInf};

[[nodiscard]] inline bool is_empty(const Interval& x) {
  return !(x.low <= x.high);
}
[[nodiscard]] inline bool contains(const Interval& x, double value) {
  return x.low <= value && value <= x.high;
}
[[nodiscard]] inline Interval intersection(const Interval& a, const Interval& b) {
  return {std::max(a.low, b.low), std::min(a.high, b.high)};
}
[[nodiscard]] inline Interval hull(const Interval& a, const Interval& b) {
  if (is_empty(a)) return b;
  if (is_empty(b)) return a;
  return {std::min(a.low, b.low), std::max(a.high, b.high)};
}

/// a b rounded down, where 0 times an infinite end is 0.
inline double product_down(double a, double b) {
  if (a == 0.0 || b == 0.0) return 0.0;
  const double p = a * b;
  if (std::isinf(p)) return std::isinf(a) || std::isinf(b) || p < 0.0 ? p : kLargestDouble;
  return multiply_down(a, b);
}
inline double product_up(double a, double b) {
  return -product_down(-a, b);
}
/// a + b rounded down; where the ends are infinite in both directions nothing is known.
inline double total_down(double a, double b) {
  const double s = a + b;
  if (std::isnan(s)) return -kInf;
  if (std::isinf(s)) return std::isinf(a) || std::isinf(b) || s < 0.0 ? s : kLargestDouble;
  return add_down(a, b);
}
inline double total_up(double a, double b) {
  return -total_down(-a, -b);
}
/// a / b rounded down; b is not 0.
inline double quotient_down(double a, double b) {
  if (a == 0.0) return 0.0;
  const double q = a / b;
  if (std::isinf(a) || std::isinf(b)) return q;  // exact; NaN for inf / inf
  if (std::isinf(q)) return q < 0.0 ? q : kLargestDouble;
  return divide_down(a, b);
}
inline double quotient_up(double a, double b) {
  return -quotient_down(-a, b);
}

inline Interval operator+(const Interval& a, const Interval& b) {
  return {total_down(a.low, b.low), total_up(a.high, b.high)};
}
inline Interval operator-(const Interval& a) {
  return {-a.high, -a.low};
}
inline Interval operator*(const Interval& a, const Interval& b) {
  return {std::min({product_down(a.low, b.low), product_down(a.low, b.high),
                    product_down(a.high, b.low), product_down(a.high, b.high)}),
          std::max({product_up(a.low, b.low), product_up(a.low, b.high), product_up(a.high, b.low),
                    product_up(a.high, b.high)})};
}

/// All a with a b in `product` for some b in `by`.
inline Interval divided(const Interval& product, const Interval& by) {
  if (contains(product, 0.0) && contains(by, 0.0)) return kWholeLine;
  Interval out{kInf, -kInf};
  const auto take = [&](double low, double high) { out = hull(out, {low, high}); };
  // By 0 < b <= h; at b -> 0 the quotient has no end on the sides where the product is not 0.
  const auto by_positive = [&](const Interval& p, double least, double most) {
    const auto least_of = [&](double v) {
      if (v == 0.0) return 0.0;
      if (v > 0.0) return std::isinf(most) ? 0.0 : quotient_down(v, most);
      return least == 0.0 ? -kInf : quotient_down(v, least);
    };
    return Interval{least_of(p.low), -least_of(-p.high)};
  };
  if (by.high > 0.0) {
    const Interval q = by_positive(product, std::max(by.low, 0.0), by.high);
    take(q.low, q.high);
  }
  if (by.low < 0.0) {
    const Interval q = by_positive(-product, std::max(-by.high, 0.0), -by.low);
    take(q.low, q.high);
  }
  return out;
}

/// x^n for x >= 0 and n >= 1, rounded down (up).
inline double power_down(double x, int n) {
  double result = 1.0;
  for (double square = x; n > 0; n /= 2, square = product_down(square, square))
    if (n % 2 != 0) result = product_down(result, square);
  return result;
}
inline double power_up(double x, int n) {
  double result = 1.0;
  for (double square = x; n > 0; n /= 2, square = product_up(square, square))
    if (n % 2 != 0) result = product_up(result, square);
  return result;
}
/// x^n, n >= 1.
inline Interval power(const Interval& x, int n) {
  const auto signed_power = [&](double v, bool up) {
    if (v >= 0.0) return up ? power_up(v, n) : power_down(v, n);
    if (n % 2 == 0) return up ? power_up(-v, n) : power_down(-v, n);
    return up ? -power_down(-v, n) : -power_up(-v, n);
  };
  if (n % 2 != 0 || x.low >= 0.0) return {signed_power(x.low, false), signed_power(x.high, true)};
  if (x.high <= 0.0) return {signed_power(x.high, false), signed_power(x.low, true)};
  return {0.0, std::max(signed_power(x.low, true), signed_power(x.high, true))};
}

namespace detail {
inline constexpr double kLibraryError = 0x1p-50;
inline double lower_of(double r, double error) {
  if (std::isinf(r)) return r < 0.0 ? r : kLargestDouble;
  return r - (std::abs(r) * error + std::numeric_limits<double>::min());
}
inline double upper_of(double r, double error) {
  return -lower_of(-r, error);
}
}  // namespace detail

inline double root_down(double x) {
  const double r = std::sqrt(x);
  if (std::isinf(x) || x == 0.0) return r;
  if (x < kUnderflowGuard) return step_down(r) < 0.0 ? 0.0 : step_down(r);
  return std::fma(r, r, -x) > 0.0 ? step_down(r) : r;
}
inline double root_up(double x) {
  const double r = std::sqrt(x);
  if (std::isinf(x) || x == 0.0) return r;
  if (x < kUnderflowGuard) return step_up(r);
  return std::fma(r, r, -x) < 0.0 ? step_up(r) : r;
}

/// exp(x).
inline Interval exponential(const Interval& x) {
  const auto at = [](double v, bool up) {
    if (std::isinf(v)) return v > 0.0 ? v : 0.0;
    const double r = std::exp(v);
    if (r == 1.0 && v == 0.0) return 1.0;
    return up ? detail::upper_of(r, detail::kLibraryError)
              : std::max(0.0, detail::lower_of(r, detail::kLibraryError));
  };
  return {at(x.low, false), at(x.high, true)};
}
/// log of the part above 0; empty where there is none.
inline Interval logarithm(const Interval& x) {
  if (!(x.high > 0.0)) return {kInf, -kInf};
  const auto at = [](double v, bool up) {
    if (v <= 0.0) return -kInf;
    if (std::isinf(v) || v == 1.0) return v == 1.0 ? 0.0 : v;
    const double r = std::log(v);
    return up ? detail::upper_of(r, detail::kLibraryError)
              : detail::lower_of(r, detail::kLibraryError);
  };
  return {at(x.low, false), at(x.high, true)};
}
/// x^p of the part at and above 0, p > 0 known to half a unit in its last place.
inline Interval real_power(const Interval& x, double p) {
  if (!(x.high >= 0.0)) return {kInf, -kInf};
  const auto at = [&](double v, bool up) {
    if (v <= 0.0) return 0.0;
    if (std::isinf(v) || v == 1.0) return v;
    if (p == 0.5) return up ? root_up(v) : root_down(v);
    const double r = std::pow(v, p);
    // The exponent's own error, 2^-53 of it or of 1, moves log r by as much of log v.
    const double error = detail::kLibraryError * (1.0 + (p + 1.0) * std::abs(std::log(v)));
    return up ? detail::upper_of(r, error) : std::max(0.0, detail::lower_of(r, error));
  };
  return {at(x.low, false), at(x.high, true)};
}

}  // namespace kiteknot
