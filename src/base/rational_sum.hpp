#pragma once
// A sum of many fractions of which a few are long: those that fit in place are added among
// themselves, so that one long fraction does not make every later addition long.

#include "kiteknot/rational.hpp"

namespace kiteknot {

class RationalSum {
 public:
  RationalSum& operator+=(const Rational& v) {
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
  [[nodiscard]] Rational value() const { return short_ + long_; }

 private:
  Rational short_, long_;
};

}  // namespace kiteknot
