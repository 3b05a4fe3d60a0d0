#include "model/real_functions.hpp"

#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "base/interval_functions.hpp"
#include "base/outward.hpp"
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

// The power where it is a fraction that can be had; throws where there is none.
std::optional<Rational> fraction_power(const Rational& base, const Rational& exponent) {
  if (exponent.is_zero()) return Rational(1);
  if (base.is_zero()) {
    if (exponent.sign() < 0)
      throw UsageError(fmt::format("0 to the power {} has no value", figure(exponent)));
    return Rational(0);
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
  if (parts > kMostParts || std::abs(times) > kMostTimes) return std::nullopt;
  const auto above = whole_root(base.numerator(), static_cast<int>(parts)),
             below = whole_root(base.denominator(), static_cast<int>(parts));
  if (!above || !below) return std::nullopt;
  const Rational size = whole_power(*above / *below, static_cast<int>(std::abs(times)));
  return times < 0.0 ? Rational(1) / size : size;
}

std::optional<Rational> fraction_log(const Rational& x) {
  if (x.sign() <= 0) throw UsageError(fmt::format("the log of {} has no value", figure(x)));
  return x == Rational(1) ? std::optional(Rational(0)) : std::nullopt;
}

Interval around(const Nearly& x) {
  return {outward(x.value - x.radius, false), outward(x.value + x.radius, true)};
}

// The middle, with what is left on either side.
Nearly middle_of(const Interval& y, const char* what, const Rational& of) {
  const Rational low = as_double(y.low, what, of), high = as_double(y.high, what, of);
  return {(low + high) / Rational(2), (high - low) / Rational(2)};
}

// x^p outward; for x below 0, p is whole.
Interval power_around(const Interval& x, const Rational& exponent) {
  const double p = exponent.to_double();
  const bool whole = exponent.is_integer() && std::abs(p) <= kLargestWhole;
  const Interval size =
      whole ? power(x, static_cast<int>(std::abs(p))) : real_power(x, std::abs(p));
  return p < 0.0 ? divided({1.0, 1.0}, size) : size;
}

}  // namespace

Rational power_of(const Rational& base, const Rational& exponent) {
  if (const auto fraction = fraction_power(base, exponent)) return *fraction;
  if (exponent == Rational(1) / Rational(2))
    return as_double(std::sqrt(base.to_double()), "the root", base);
  return as_double(std::pow(base.to_double(), exponent.to_double()), "a power", base);
}

Rational exponential_of(const Rational& x) {
  return x.is_zero() ? Rational(1) : as_double(std::exp(x.to_double()), "exp", x);
}

Rational logarithm_of(const Rational& x) {
  if (const auto fraction = fraction_log(x)) return *fraction;
  return as_double(std::log(x.to_double()), "log", x);
}

Nearly power_of(const Nearly& base, const Rational& exponent) {
  const auto fraction = fraction_power(base.value, exponent);
  if (fraction && base.radius.is_zero()) return {*fraction};
  return middle_of(power_around(around(base), exponent), "a power", base.value);
}

Nearly exponential_of(const Nearly& x) {
  if (x.value.is_zero() && x.radius.is_zero()) return {1};
  return middle_of(exponential(around(x)), "exp", x.value);
}

Nearly logarithm_of(const Nearly& x) {
  const auto fraction = fraction_log(x.value);
  if (fraction && x.radius.is_zero()) return {*fraction};
  return middle_of(logarithm(around(x)), "log", x.value);
}

Nearly product_of(const Nearly& a, const Nearly& b) {
  return {a.value * b.value,
          a.value.abs() * b.radius + b.value.abs() * a.radius + a.radius * b.radius};
}

// |a / b - a' / b'| <= (r_a + |a / b| r_b) / (|b| - r_b)
Nearly quotient_of(const Nearly& a, const Nearly& by) {
  const Rational least = by.value.abs() - by.radius;
  if (least.sign() <= 0) throw UsageError(fmt::format("{} is divided by 0", figure(a.value)));
  const Rational q = a.value / by.value;
  return {q, (a.radius + q.abs() * by.radius) / least};
}

}  // namespace kiteknot
