#pragma once
// The figures that a curve is made of, and what its value changes by per unit of each: that is a
// curve over the same range.

#include "model/derived.hpp"

namespace kiteknot {

struct CurveFigure {
  std::string name;  // "rate 2", "what is charged once", "the value at 6"
  Rational now;
  Curve by;  // its value is the change of the curve's value per unit of the figure
};

/// Rates, what is charged once, and the values at points; widths and places are left out, as the
/// value does not change in proportion to them. Of a curve through points with jumps: none.
std::vector<CurveFigure> curve_figures(const CurveData& curve,
                                       const std::vector<CurvePiece>& pieces);

}  // namespace kiteknot
