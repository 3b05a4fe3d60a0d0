#include "model/real_functions.hpp"

#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot {
namespace {

constexpr int kLargestWhole = 1000;  // beyond it powers come from doubles

Rational as_double(double value, const char* what, const Rational& of) {
  if (!std::isfinite(value))
    throw UsageError(fmt::format("{} of {} is beyond what can be told", what, figure(of)));
  return Rational::exactly(value);
}

Rational whole_power(Rational base, int n) {
  Rational result = 1;
  for (; n > 0; n /= 2) {
    if (n % 2 != 0) result = result * base;
    if (n > 1) base = base * base;
  }
  return result;
}

// The n-th root of a whole figure, where that is whole.
std::optional<Rational> whole_root(const Rational& of, int n) {
  const Rational guess(std::round(std::pow(of.to_double(), 1.0 / n)));
  if (!guess.is_finite() || whole_power(guess, n) != of) return std::nullopt;
  return guess;
}

}  // namespace

Rational power_of(const Rational& base, const Rational& exponent) {
  if (exponent.is_zero()) return 1;
  if (base.is_zero()) {
    if (exponent.sign() < 0)
      throw UsageError(fmt::format("0 to the power {} has no value", figure(exponent)));
    return 0;
  }
  const double p = exponent.to_double();
  if (exponent.is_integer() && std::abs(p) <= kLargestWhole) {
    const Rational size = whole_power(base, static_cast<int>(std::abs(p)));
    return p < 0.0 ? Rational(1) / size : size;
  }
  if (base.sign() < 0 && !exponent.is_integer())
    throw UsageError(
        fmt::format("{} to the power {} has no value", figure(base), figure(exponent)));
  const double parts = exponent.denominator().to_double(), times = exponent.numerator().to_double();
  constexpr double kMostParts = 12.0, kMostTimes = 60.0;
  if (parts <= kMostParts && std::abs(times) <= kMostTimes) {
    const auto above = whole_root(base.numerator(), static_cast<int>(parts)),
               below = whole_root(base.denominator(), static_cast<int>(parts));
    if (above && below) {
      const Rational size = whole_power(*above / *below, static_cast<int>(std::abs(times)));
      return times < 0.0 ? Rational(1) / size : size;
    }
  }
  if (parts == 2.0 && times == 1.0) return as_double(std::sqrt(base.to_double()), "the root", base);
  return as_double(std::pow(base.to_double(), p), "a power", base);
}

Rational exponential_of(const Rational& x) {
  return x.is_zero() ? Rational(1) : as_double(std::exp(x.to_double()), "exp", x);
}

Rational logarithm_of(const Rational& x) {
  if (x.sign() <= 0) throw UsageError(fmt::format("the log of {} has no value", figure(x)));
  return x == Rational(1) ? Rational(0) : as_double(std::log(x.to_double()), "log", x);
}

}  // namespace kiteknot
