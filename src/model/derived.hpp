#pragma once
// Terms that are not sums of decisions, as stated: what they are functions of, and which.

#include <memory>
#include <vector>

#include "kiteknot/curve.hpp"

namespace kiteknot {

/// One straight piece over from <= x <= to (to may be infinite): y = value + slope (x - from).
/// A piece of one point has from = to.
struct CurvePiece {
  Rational from, to, value, slope;
  /// Whether the piece's value is the curve's at its ends.
  bool owns_from = true, owns_to = true;
  [[nodiscard]] Rational at(const Rational& x) const { return value + slope * (x - from); }
};

struct CurveData {
  std::string name, stated;
  std::vector<CurvePiece> pieces;  // in order; each point of the range is owned by one at least
};

struct Derived {
  enum class Kind {
    product,  // args[0] * args[1]
    largest,  // of args
    curve,    // curve(args[0])
    truth     // of condition
  };
  /// How a largest was stated; it changes no value.
  enum class Shape { largest, smallest, absolute };
  Kind kind = Kind::product;
  std::vector<Expression> args;
  std::shared_ptr<const CurveData> curve{};
  Condition condition{};
  Shape shape = Shape::largest;
};

}  // namespace kiteknot
