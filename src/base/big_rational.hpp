#pragma once
// Between exact numbers and the big integers behind them; for kernels that count in those.

#include <gmpxx.h>

#include "kiteknot/rational.hpp"

namespace kiteknot {

/// The same number; UsageError for an infinite one.
mpq_class to_big(const Rational& value);
/// numerator / denominator in lowest terms; the denominator is not 0.
Rational ratio_of(const mpz_class& numerator, const mpz_class& denominator);
Rational from_big(const mpq_class& value);
/// A finite double's exact value.
inline mpq_class exactly(double value) {
  return mpq_class(value);
}

}  // namespace kiteknot
