#pragma once
// What pages and documents tell of a variant alike.

#include <optional>

#include "base/text.hpp"
#include "kiteknot/vary.hpp"

namespace kiteknot::report {

// The value of a sweep is written as a decimal.
inline std::string name_of(const Variation& v, const Variant& one) {
  if (v.kind != Variation::Kind::sweep || &one == &v.base) return one.name;
  return decimal(one.at);
}

// Between proven values only.
inline std::optional<Rational> change(const Variation& v, const Variant& one) {
  if (!one.goal || !v.base.goal || one.outcome != Outcome::optimal ||
      v.base.outcome != Outcome::optimal)
    return std::nullopt;
  return *one.goal - *v.base.goal;
}

}  // namespace kiteknot::report
