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

/// A figure that is known to lie within `radius` of this; 0: it is this.
struct Nearly {
  Rational value, radius{};
};
/// The same of figures that are nearly known, by intervals rounded outward where the value is no
/// fraction.
Nearly power_of(const Nearly& base, const Rational& exponent);
Nearly exponential_of(const Nearly& x);
Nearly logarithm_of(const Nearly& x);
Nearly product_of(const Nearly& a, const Nearly& b);
/// `by` is not 0, nor near enough to it to be.
Nearly quotient_of(const Nearly& a, const Nearly& by);

}  // namespace kiteknot
