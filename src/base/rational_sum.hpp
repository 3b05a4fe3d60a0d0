#pragma once
// A sum of many fractions, most of them whole and a few of them long: whole ones are added as
// integers, and those that fit in place among themselves, so that one long fraction does not make
// every later addition long.

#include "kiteknot/rational.hpp"

namespace kiteknot {

class RationalSum {
 public:
  RationalSum& operator+=(const Rational& v) {
    std::int64_t sum = 0;
    if (v.den_ != 1 || __builtin_add_overflow(whole_, v.num_, &sum)) return add_fraction(v);
    whole_ = sum;
    return *this;
  }
  /// Adds a * b.
  void add_product(const Rational& a, const Rational& b) {
    std::int64_t product = 0;
    std::int64_t sum = 0;
    if (a.den_ == 1 && b.den_ == 1 && !__builtin_mul_overflow(a.num_, b.num_, &product) &&
        !__builtin_add_overflow(whole_, product, &sum))
      whole_ = sum;
    else
      *this += a * b;
  }
  [[nodiscard]] Rational value() const {
    return Rational(static_cast<long long>(whole_)) + short_ + long_;
  }

 private:
  RationalSum& add_fraction(const Rational& v) {
    if (!v.in_place()) {
      long_ += v;
      return *this;
    }
    short_ += v;
    if (!short_.in_place()) {
      long_ += short_;
      short_ = 0;
    }
    return *this;
  }

  std::int64_t whole_ = 0;
  Rational short_, long_;
};

}  // namespace kiteknot
