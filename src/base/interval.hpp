#pragma once
// Outward rounding without touching the processor's rounding mode. Every operation is done to
// nearest; its error is recovered exactly (TwoSum for sums, a fused multiply-add for products and
// quotients), and the result moves one step outward only where there is an error of the wrong sign:
// sums and products of whole numbers below 2^53 stay exact. Sources: Knuth 1969 (TwoSum); Rump,
// Zimmermann, Boldo, Melquiond 2009, "Computing predecessor and successor in rounding to nearest".
// Ends are finite; callers keep count of infinite terms themselves.

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>

namespace kiteknot {

// |x| 2^-52 is at least one unit in the last place of x; the smallest normal number guards
// underflow.
inline double step_down(double x) {
  return x - (std::abs(x) * 0x1p-52 + std::numeric_limits<double>::min());
}
inline double step_up(double x) {
  return x + (std::abs(x) * 0x1p-52 + std::numeric_limits<double>::min());
}

/// The rounding error of s = fl(a + b), exactly: a + b = s + error.
inline double sum_error(double a, double b, double s) {
  const double b_part = s - a;
  return (a - (s - b_part)) + (b - b_part);
}
inline double add_down(double a, double b) {
  const double s = a + b;
  return sum_error(a, b, s) < 0.0 ? step_down(s) : s;
}
inline double add_up(double a, double b) {
  const double s = a + b;
  return sum_error(a, b, s) > 0.0 ? step_up(s) : s;
}

/// Products and quotients this small may have lost their error term to underflow.
inline constexpr double kUnderflowGuard = 1e-280;

/// Whether x is a whole number below 2^53 in size.
inline bool whole(double x) {
  return std::abs(x) < 0x1p53 && static_cast<double>(static_cast<std::int64_t>(x)) == x;
}

inline double multiply_down(double a, double b) {
  const double p = a * b;
  if (std::abs(p) < 0x1p53 && whole(a) && whole(b)) return p;  // no error to recover
  if (a == 0.0 || b == 0.0) return 0.0;
  return std::abs(p) < kUnderflowGuard || std::fma(a, b, -p) < 0.0 ? step_down(p) : p;
}
inline double multiply_up(double a, double b) {
  return -multiply_down(-a, b);
}

/// a / b rounded down; b is not 0.
inline double divide_down(double a, double b) {
  const double q = a / b;
  if (a == 0.0) return 0.0;
  const double rest = std::fma(-q, b, a);  // a - q b, exactly
  const bool below = (b > 0.0) ? rest < 0.0 : rest > 0.0;
  return std::abs(q) < kUnderflowGuard || std::abs(a) < kUnderflowGuard || below ? step_down(q) : q;
}
inline double divide_up(double a, double b) {
  return -divide_down(-a, b);
}

/// A closed interval that holds a real number.
struct Interval {
  double low = 0.0;
  double high = 0.0;

  void add(const Interval& o) {
    low = add_down(low, o.low);
    high = add_up(high, o.high);
  }
};

inline Interval times(double x, const Interval& y) {
  return x >= 0.0 ? Interval{multiply_down(x, y.low), multiply_up(x, y.high)}
                  : Interval{multiply_down(x, y.high), multiply_up(x, y.low)};
}

/// A coefficient known exactly, or only to half a unit in its last place.
inline Interval coefficient(double a, bool exact) {
  return exact || a == 0.0 ? Interval{a, a} : Interval{step_down(a), step_up(a)};
}

}  // namespace kiteknot
