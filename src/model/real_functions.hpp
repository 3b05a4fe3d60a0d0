#pragma once
// Powers, roots, exp and log of figures: exactly where the value is a fraction that can be had
// (whole powers, roots of powers, exp 0, log 1), else the nearest double's own value.

#include "kiteknot/rational.hpp"

namespace kiteknot {

/// Each throws UsageError where it has no value: a fractional power of a negative figure, a
/// negative power of 0, the log of what is not above 0, and what is beyond the doubles.
Rational power_of(const Rational& base, const Rational& exponent);
Rational exponential_of(const Rational& x);
Rational logarithm_of(const Rational& x);

}  // namespace kiteknot
