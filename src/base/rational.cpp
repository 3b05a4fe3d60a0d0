#include "kiteknot/rational.hpp"

#include <charconv>
#include <cmath>
#include <limits>
#include <numeric>
#include <ostream>

#include "base/big_rational.hpp"
#include "base/wide.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot {

struct Rational::Big {
  mpq_class value;
};

namespace {

constexpr std::int64_t kMost = std::numeric_limits<std::int64_t>::max();

std::int64_t common(std::int64_t a, std::int64_t b) {
  return std::gcd(a, b);
}

bool fits(Wide v) {
  return v >= -Wide(kMost) && v <= Wide(kMost);
}

bool fits(const mpz_class& z) {
  constexpr std::size_t kBits = 63;
  return mpz_sizeinbase(z.get_mpz_t(), 2) <= kBits;
}

}  // namespace

void Rational::copy_big(const Rational& other) {
  big_ = new Big(*other.big_);
}
void Rational::drop_big() noexcept {
  delete big_;
}

Rational& Rational::operator=(const Rational& other) {
  if (this == &other) return *this;
  Rational copy(other);
  return *this = std::move(copy);
}

Rational& Rational::operator=(Rational&& other) noexcept {
  if (this == &other) return *this;
  if (den_ == kBig) drop_big();
  num_ = other.num_;
  den_ = other.den_;
  other.num_ = 0;
  other.den_ = 1;
  return *this;
}

// Keeps the invariant: lowest terms, and in the object whenever both parts fit.
Rational Rational::from_big(Big&& value) {
  value.value.canonicalize();
  Rational r;
  if (fits(value.value.get_num()) && fits(value.value.get_den())) {
    r.num_ = small_whole(value.value.get_num());
    r.den_ = small_whole(value.value.get_den());
  } else {
    r.big_ = new Big(std::move(value));
    r.den_ = kBig;
  }
  return r;
}

Rational::Big Rational::to_big() const {
  if (!is_finite()) throw UsageError("an infinite limit was calculated with");
  if (den_ == kBig) return *big_;
  return Big{mpq_class(big_whole(num_), big_whole(den_))};
}

Rational::Rational(long long value) : num_(value), den_(1) {
  if (value == std::numeric_limits<long long>::min()) *this = Rational(value + 1) - Rational(1);
}

Rational::Rational(double value) : num_(0), den_(1) {
  if (std::isnan(value)) throw UsageError("NaN is not a figure");
  if (std::isinf(value)) {
    num_ = value > 0 ? 1 : -1;
    den_ = kInfinite;
  } else if (std::abs(value) < 0x1p53 && value == std::trunc(value)) {
    num_ = static_cast<std::int64_t>(value);
  } else {
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, value).ptr;
    *this = *parse(std::string_view(text, static_cast<std::size_t>(end - text)));
  }
}

Rational Rational::of_unsigned(std::uint64_t value) {
  if (value <= static_cast<std::uint64_t>(kMost)) return static_cast<long long>(value);
  return Rational(static_cast<long long>(value / 2)) * 2 + static_cast<int>(value % 2);
}

Rational Rational::ratio(std::int64_t numerator, std::int64_t denominator) {
  return Rational(static_cast<long long>(numerator)) /
         Rational(static_cast<long long>(denominator));
}

Rational Rational::exactly(double value) {
  if (!std::isfinite(value)) throw UsageError("an infinite value has no exact fraction");
  constexpr double kSmall = 0x1p62;
  if (std::abs(value) < kSmall && std::trunc(value) == value)
    return Rational(static_cast<long long>(value));
  return from_big(Big{mpq_class(value)});
}

std::optional<Rational> Rational::parse(std::string_view text) {
  const auto is_digit = [](char c) { return c >= '0' && c <= '9'; };
  std::size_t at = 0;
  bool negative = false;
  if (at < text.size() && (text[at] == '-' || text[at] == '+')) negative = text[at++] == '-';
  std::string digits;
  int exponent = 0;
  bool any = false;
  for (bool behind_point = false; at < text.size(); ++at) {
    if (text[at] == '.' && !behind_point) {
      behind_point = true;
    } else if (is_digit(text[at])) {
      any = true;
      digits += text[at];
      exponent -= behind_point ? 1 : 0;
    } else {
      break;
    }
  }
  if (!any || digits.size() > 4000) return std::nullopt;
  if (at < text.size() && (text[at] == 'e' || text[at] == 'E')) {
    if (++at < text.size() && text[at] == '+' && at + 1 < text.size() && is_digit(text[at + 1]))
      ++at;  // of two signs neither counts
    int power = 0;
    const auto [end, code] = std::from_chars(text.data() + at, text.data() + text.size(), power);
    constexpr int kMostExponent = 400;
    if (code != std::errc() || power > kMostExponent || power < -kMostExponent) return std::nullopt;
    at = static_cast<std::size_t>(end - text.data());
    exponent += power;
  }
  if (at != text.size()) return std::nullopt;

  if (digits.size() <= 18 && exponent <= 0 && exponent >= -18) {
    std::int64_t num = 0, den = 1;
    for (char c : digits) num = num * 10 + (c - '0');
    for (int k = 0; k < -exponent; ++k) den *= 10;
    const std::int64_t g = common(num, den);
    Rational r;
    r.num_ = (negative ? -num : num) / g;
    r.den_ = den / g;
    return r;
  }
  mpz_class whole(digits, 10), power;
  mpz_ui_pow_ui(power.get_mpz_t(), 10, static_cast<unsigned long>(std::abs(exponent)));
  if (negative) whole = -whole;
  return from_big(Big{exponent >= 0 ? mpq_class(whole * power) : mpq_class(whole, power)});
}

Rational Rational::infinity() noexcept {
  Rational r;
  r.num_ = 1;
  r.den_ = kInfinite;
  return r;
}

Rational Rational::minus_infinity() noexcept {
  Rational r = infinity();
  r.num_ = -1;
  return r;
}

bool Rational::is_integer() const {
  if (den_ == kBig) return big_->value.get_den() == 1;
  return den_ == 1;
}

int Rational::sign() const noexcept {
  if (den_ == kBig) return sgn(big_->value);
  return (num_ > 0) - (num_ < 0);
}

double Rational::to_double() const {
  if (!is_finite()) return static_cast<double>(num_) * std::numeric_limits<double>::infinity();
  constexpr std::int64_t kExact = std::int64_t{1} << 53;
  if (den_ != kBig && std::abs(num_) <= kExact && den_ <= kExact)
    return static_cast<double>(num_) / static_cast<double>(den_);
  // mpq_get_d truncates; the nearest double is it or its outer neighbour.
  const mpq_class value = to_big().value;
  const double inner = value.get_d();
  const double outer = std::nextafter(inner, sgn(value) * std::numeric_limits<double>::infinity());
  if (std::isinf(inner) || std::isinf(outer)) return inner;
  const mpq_class to_inner = ::abs(mpq_class(value - mpq_class(inner)));
  const mpq_class to_outer = ::abs(mpq_class(mpq_class(outer) - value));
  if (to_inner != to_outer) return to_inner < to_outer ? inner : outer;
  int exponent = 0;
  const double mantissa = std::ldexp(std::frexp(inner, &exponent), 53);
  return std::fmod(mantissa, 2.0) == 0.0 ? inner : outer;
}

Rational Rational::floor() const {
  if (den_ == 1 || !is_finite()) return *this;
  mpz_class q;
  const Big b = to_big();
  mpz_fdiv_q(q.get_mpz_t(), b.value.get_num_mpz_t(), b.value.get_den_mpz_t());
  return from_big(Big{mpq_class(q)});
}

Rational Rational::ceil() const {
  return -((-*this).floor());
}

Rational Rational::round() const {
  if (den_ == 1 || !is_finite()) return *this;
  const Rational half = ratio(1, 2);
  return sign() >= 0 ? (*this + half).floor() : (*this - half).ceil();
}

Rational Rational::abs() const {
  return sign() < 0 ? -*this : *this;
}

Rational Rational::numerator() const {
  if (den_ == kBig) return from_big(Big{mpq_class(big_->value.get_num())});
  return Rational(static_cast<long long>(num_));
}

Rational Rational::denominator() const {
  if (den_ == kBig) return from_big(Big{mpq_class(big_->value.get_den())});
  return Rational(static_cast<long long>(den_));
}

std::string Rational::text() const {
  if (!is_finite()) return num_ > 0 ? "inf" : "-inf";
  if (den_ == 1) return std::to_string(num_);
  mpq_class value = to_big().value;
  mpz_class den = value.get_den();
  unsigned twos = 0, fives = 0;
  for (; den % 2 == 0; den /= 2) ++twos;
  for (; den % 5 == 0; den /= 5) ++fives;
  const unsigned places = std::max(twos, fives);
  constexpr unsigned kMostPlaces = 20;
  if (den != 1 || places > kMostPlaces) return value.get_str();
  mpz_class power;
  mpz_ui_pow_ui(power.get_mpz_t(), 10, places);
  const mpz_class scaled = ::abs(value.get_num()) * power / value.get_den();
  std::string digits = scaled.get_str();
  if (places > 0) {
    if (digits.size() <= places) digits.insert(0, places + 1 - digits.size(), '0');
    digits.insert(digits.size() - places, ".");
  }
  return sgn(value) < 0 ? "-" + digits : digits;
}

Rational Rational::operator-() const {
  if (den_ == kBig) return from_big(Big{mpq_class(-big_->value)});
  Rational r(*this);
  r.num_ = -r.num_;
  return r;
}

Rational& Rational::operator+=(const Rational& o) {
  if (den_ > 0 && o.den_ > 0) {
    if (den_ == o.den_) {
      std::int64_t sum = 0;
      if (!__builtin_add_overflow(num_, o.num_, &sum) &&
          sum != std::numeric_limits<std::int64_t>::min()) {
        if (den_ == 1) {
          num_ = sum;
          return *this;
        }
        const std::int64_t g = common(sum, den_);
        num_ = sum / g;
        den_ /= g;
        return *this;
      }
    }
    const std::int64_t g = common(den_, o.den_);
    const Wide n = Wide(num_) * (o.den_ / g) + Wide(o.num_) * (den_ / g);
    const Wide d = Wide(den_) * (o.den_ / g);
    if (fits(n) && fits(d)) {
      const std::int64_t h = common(static_cast<std::int64_t>(n), static_cast<std::int64_t>(d));
      num_ = static_cast<std::int64_t>(n) / h;
      den_ = static_cast<std::int64_t>(d) / h;
      return *this;
    }
    return *this = from_big(Big{mpq_class(to_mpz(n), to_mpz(d))});
  }
  return *this = from_big(Big{mpq_class(to_big().value + o.to_big().value)});
}

Rational& Rational::operator-=(const Rational& o) {
  return *this += -o;
}

Rational& Rational::operator*=(const Rational& o) {
  if (den_ == 1 && o.den_ == 1) {  // most figures are whole: no division
    std::int64_t product = 0;
    if (!__builtin_mul_overflow(num_, o.num_, &product) &&
        product != std::numeric_limits<std::int64_t>::min()) {
      num_ = product;
      return *this;
    }
  }
  if (den_ > 0 && o.den_ > 0) {
    const std::int64_t g = o.den_ == 1 ? 1 : common(num_, o.den_);
    const std::int64_t h = den_ == 1 ? 1 : common(o.num_, den_);
    const Wide n = Wide(num_ / g) * (o.num_ / h);
    const Wide d = Wide(den_ / h) * (o.den_ / g);
    if (fits(n) && fits(d)) {
      num_ = static_cast<std::int64_t>(n);
      den_ = num_ == 0 ? 1 : static_cast<std::int64_t>(d);
      return *this;
    }
    return *this = from_big(Big{mpq_class(to_mpz(n), to_mpz(d))});
  }
  return *this = from_big(Big{mpq_class(to_big().value * o.to_big().value)});
}

Rational& Rational::operator/=(const Rational& o) {
  if (o.is_zero()) throw UsageError("division by 0");
  if (o.den_ > 0) {
    Rational inverse;
    inverse.num_ = o.num_ < 0 ? -o.den_ : o.den_;
    inverse.den_ = std::abs(o.num_);
    return *this *= inverse;
  }
  return *this = from_big(Big{mpq_class(to_big().value / o.to_big().value)});
}

// Declared as a friend only, where GCC 12 does not see the visibility that the header asks for.
[[gnu::visibility("default")]] std::strong_ordering operator<=>(const Rational& a,
                                                                const Rational& b) {
  if (!a.is_finite() || !b.is_finite()) {
    const int left = a.is_finite() ? 0 : a.sign(), right = b.is_finite() ? 0 : b.sign();
    return left <=> right;
  }
  if (a.den_ > 0 && b.den_ > 0) return Wide(a.num_) * b.den_ <=> Wide(b.num_) * a.den_;
  const int c = cmp(a.to_big().value, b.to_big().value);
  return c <=> 0;
}

struct RationalParts {
  static mpq_class get(const Rational& r) { return r.to_big().value; }
  static Rational make(mpq_class value) {
    return Rational::from_big(Rational::Big{std::move(value)});
  }
};

mpq_class to_big(const Rational& value) {
  return RationalParts::get(value);
}
Rational from_big(const mpq_class& value) {
  return RationalParts::make(value);
}
Rational ratio_of(const mpz_class& numerator, const mpz_class& denominator) {
  return RationalParts::make(mpq_class(numerator, denominator));
}

Rational Rational::gcd(const Rational& a, const Rational& b) {
  if (!a.is_integer() || !b.is_integer())
    throw UsageError("a greatest common divisor is taken of whole numbers");
  if (a.den_ == 1 && b.den_ == 1) return Rational(static_cast<long long>(common(a.num_, b.num_)));
  return Rational::from_big(
      Big{mpq_class(::gcd(a.to_big().value.get_num(), b.to_big().value.get_num()))});
}

Rational Rational::lcm(const Rational& a, const Rational& b) {
  if (a.is_zero() || b.is_zero()) return 0;
  return (a / gcd(a, b) * b).abs();
}

std::ostream& operator<<(std::ostream& out, const Rational& value) {
  return out << value.text();
}

}  // namespace kiteknot

std::size_t std::hash<kiteknot::Rational>::operator()(const kiteknot::Rational& value) const {
  if (!value.is_finite()) return value.sign() > 0 ? 1 : 2;
  if (!value.in_place()) return std::hash<std::string>()(value.text());
  // Fibonacci hashing of both parts (Knuth, vol. 3, 6.4).
  constexpr std::uint64_t kGolden = 0x9E3779B97F4A7C15U;
  const auto part = [](const kiteknot::Rational& whole) {
    return static_cast<std::uint64_t>(std::hash<double>()(whole.to_double()));
  };
  return static_cast<std::size_t>((part(value.numerator()) * kGolden) ^ part(value.denominator()));
}
