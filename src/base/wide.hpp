#pragma once
// Whole numbers of 128 bits, for products and sums of two 64-bit ones: the compiler's own where it
// has them, else GMP's behind the same operators (32-bit machines).

#include <compare>
#include <cstdint>

#include <gmpxx.h>

namespace kiteknot {

inline mpz_class big_whole(std::uint64_t v) {
  mpz_class z(static_cast<unsigned long>(v >> 32));
  z <<= 32;
  return z + static_cast<unsigned long>(v & 0xFFFFFFFFU);
}
inline mpz_class big_whole(std::int64_t v) {
  const mpz_class size =
      big_whole(v < 0 ? 0 - static_cast<std::uint64_t>(v) : static_cast<std::uint64_t>(v));
  return v < 0 ? mpz_class(-size) : size;
}
/// Of one that fits.
inline std::int64_t small_whole(const mpz_class& z) {
  const mpz_class size = abs(z), high = size >> 32, low = size & mpz_class(0xFFFFFFFFUL);
  const auto v = (static_cast<std::uint64_t>(high.get_ui()) << 32) | low.get_ui();
  return static_cast<std::int64_t>(sgn(z) < 0 ? 0 - v : v);
}

/// What stands for 128 bits where the compiler has none.
class WideByGmp {
 public:
  WideByGmp(std::int64_t v) : value_(big_whole(v)) {}
  explicit operator std::int64_t() const { return small_whole(value_); }
  friend WideByGmp operator+(const WideByGmp& a, const WideByGmp& b) {
    return of(a.value_ + b.value_);
  }
  friend WideByGmp operator-(const WideByGmp& a, const WideByGmp& b) {
    return of(a.value_ - b.value_);
  }
  friend WideByGmp operator*(const WideByGmp& a, const WideByGmp& b) {
    return of(a.value_ * b.value_);
  }
  /// Towards zero.
  friend WideByGmp operator/(const WideByGmp& a, const WideByGmp& b) {
    return of(a.value_ / b.value_);
  }
  friend WideByGmp operator-(const WideByGmp& a) { return of(-a.value_); }
  friend std::strong_ordering operator<=>(const WideByGmp& a, const WideByGmp& b) {
    return cmp(a.value_, b.value_) <=> 0;
  }
  friend bool operator==(const WideByGmp& a, const WideByGmp& b) { return a.value_ == b.value_; }
  [[nodiscard]] const mpz_class& big() const noexcept { return value_; }

 private:
  static WideByGmp of(mpz_class value) {
    WideByGmp w(0);
    w.value_ = std::move(value);
    return w;
  }
  mpz_class value_;
};
inline const mpz_class& to_mpz(const WideByGmp& v) {
  return v.big();
}

#ifdef __SIZEOF_INT128__
__extension__ using Wide = __int128;
inline mpz_class to_mpz(Wide v) {
  const bool negative = v < 0;
  __extension__ using Size = unsigned __int128;
  const Size size = negative ? Size(0) - static_cast<Size>(v) : static_cast<Size>(v);
  mpz_class z = big_whole(static_cast<std::uint64_t>(size >> 64));
  z <<= 64;
  z += big_whole(static_cast<std::uint64_t>(size));
  return negative ? mpz_class(-z) : z;
}
#else
using Wide = WideByGmp;
#endif

}  // namespace kiteknot
