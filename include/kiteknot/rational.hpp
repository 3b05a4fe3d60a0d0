#pragma once
// Exact numbers. A figure in a table or a program means its shortest decimal: 0.1 is one tenth.
// Small fractions (numerator and denominator within 64 bits) live in the object itself, so that
// sums over a million figures stay quick; larger ones move to the heap by themselves. Values are
// always in lowest terms. Plus and minus infinity stand for "no limit"; they can be compared, not
// calculated with. Distinct objects may be used from distinct threads.

#include <compare>
#include <concepts>
#include <cstdint>
#include <functional>
#include <iosfwd>
#include <optional>
#include <string>
#include <string_view>

#pragma GCC visibility push(default)
namespace kiteknot {

class RationalSum;

class Rational {
 public:
  constexpr Rational() noexcept : num_(0), den_(1) {}
  constexpr Rational(int value) noexcept : num_(value), den_(1) {}
  Rational(long value) : Rational(static_cast<long long>(value)) {}
  Rational(long long value);
  template <std::unsigned_integral T>
  Rational(T value) : Rational(of_unsigned(value)) {}
  /// The shortest decimal that reads back as `value`; an infinity stays one. Throws UsageError on
  /// NaN.
  Rational(double value);
  Rational(const Rational& other) : num_(other.num_), den_(other.den_) {
    if (den_ == kBig) copy_big(other);
  }
  Rational(Rational&& other) noexcept : num_(other.num_), den_(other.den_) {
    other.num_ = 0;
    other.den_ = 1;
  }
  Rational& operator=(const Rational& other);
  Rational& operator=(Rational&& other) noexcept;
  ~Rational() {
    if (den_ == kBig) drop_big();  // NOLINT(clang-analyzer-core.UndefinedBinaryOperatorResult)
  }

  /// numerator / denominator; throws UsageError where the denominator is 0.
  static Rational ratio(std::int64_t numerator, std::int64_t denominator);
  /// Exactly the double's binary value, not its shortest decimal.
  static Rational exactly(double value);
  /// A decimal such as -12.5 or 1e-3 with nothing around it; nothing where the text is not one.
  /// Exponents beyond +-400 are refused.
  static std::optional<Rational> parse(std::string_view text);
  /// Larger than every finite one.
  static Rational infinity() noexcept;
  /// Smaller than every finite one.
  static Rational minus_infinity() noexcept;

  /// Neither of the two infinite ones.
  [[nodiscard]] bool is_finite() const noexcept { return den_ != kInfinite; }
  /// Whether it is finite and held without memory of its own.
  [[nodiscard]] bool in_place() const noexcept { return den_ > 0; }
  [[nodiscard]] bool is_zero() const noexcept { return num_ == 0 && den_ == 1; }
  /// Finite, and without a fraction.
  [[nodiscard]] bool is_integer() const;
  /// -1, 0 or 1; of infinite ones as well.
  [[nodiscard]] int sign() const noexcept;
  /// The nearest double (ties to even), or an infinity.
  [[nodiscard]] double to_double() const;
  /// The largest whole one that is not larger.
  [[nodiscard]] Rational floor() const;
  /// The smallest whole one that is not smaller.
  [[nodiscard]] Rational ceil() const;
  /// The nearest integer, halves away from zero.
  [[nodiscard]] Rational round() const;
  /// Its size.
  [[nodiscard]] Rational abs() const;
  /// In lowest terms, with the sign.
  [[nodiscard]] Rational numerator() const;
  /// In lowest terms, positive.
  [[nodiscard]] Rational denominator() const;
  /// A decimal where it ends within 20 digits ("0.1"), otherwise a fraction ("1/3").
  [[nodiscard]] std::string text() const;

  Rational operator-() const;
  Rational& operator+=(const Rational& other);
  Rational& operator-=(const Rational& other);
  Rational& operator*=(const Rational& other);
  /// Throws UsageError on a division by 0.
  Rational& operator/=(const Rational& other);
  friend Rational operator+(Rational a, const Rational& b) {
    a += b;
    return a;
  }
  friend Rational operator-(Rational a, const Rational& b) {
    a -= b;
    return a;
  }
  friend Rational operator*(Rational a, const Rational& b) {
    a *= b;
    return a;
  }
  friend Rational operator/(Rational a, const Rational& b) {
    a /= b;
    return a;
  }
  friend bool operator==(const Rational& a, const Rational& b) { return (a <=> b) == 0; }
  friend std::strong_ordering operator<=>(const Rational& a, const Rational& b);

  /// Greatest common divisor of two integers, and least common multiple; both at least 0.
  static Rational gcd(const Rational& a, const Rational& b);
  /// The least whole one that both whole ones divide.
  static Rational lcm(const Rational& a, const Rational& b);

 private:
  struct Big;
  friend struct RationalParts;                  // base/big_rational.hpp
  friend class RationalSum;                     // base/rational_sum.hpp
  static constexpr std::int64_t kInfinite = 0;  // num_ is 1 or -1
  static constexpr std::int64_t kBig = -1;      // num_ is replaced by big_

  void copy_big(const Rational& other);
  void drop_big() noexcept;
  static Rational of_unsigned(std::uint64_t value);
  static Rational from_big(Big&& value);
  [[nodiscard]] Big to_big() const;

  union {
    std::int64_t num_;
    Big* big_;
  };
  std::int64_t den_;  // > 0: the denominator; kInfinite or kBig otherwise
};

/// As text() has it.
std::ostream& operator<<(std::ostream& out, const Rational& value);

}  // namespace kiteknot

template <>
struct std::hash<kiteknot::Rational> {
  std::size_t operator()(const kiteknot::Rational& value) const;
};
#pragma GCC visibility pop
