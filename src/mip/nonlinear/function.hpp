#pragma once
// Functions of one column: powers, exp, log. What a search has to know of one: its values, slopes
// and preimages of intervals (for certain), where it bends which way, and plain values with two
// derivatives (for local search).
//
// Every line below or above it gets its slope by choice and its height by proof: the least value of
// f(x) - slope x over a range is taken piece by piece. Where f is concave, at the ends; where it is
// convex, from the tangent at a point t near the least: f(x) >= f(t) + f'(t)(x - t), rounded
// outward. So any slope will do, and a poor one costs strength, never truth.

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <optional>
#include <vector>

#include "base/interval_functions.hpp"
#include "base/mark.hpp"

namespace kiteknot::mip {

class UnaryFunction {
 public:
  /// x^n; n is not 0. Negative ones of ranges that do not hold 0.
  static UnaryFunction whole_power(int n);
  /// x^p for x >= 0, above 0 where p < 0; p is not whole.
  static UnaryFunction real_power(double p);
  static UnaryFunction exponential();
  static UnaryFunction logarithm();

  // For certain. Ranges lie within the domain, or are cut to it; the image of nothing is empty.
  [[nodiscard]] Interval domain() const;
  [[nodiscard]] Interval values(const Interval& x) const;
  [[nodiscard]] Interval slopes(const Interval& x) const;
  /// Of the range x, where values in y can come from.
  [[nodiscard]] Interval preimage(const Interval& y, const Interval& x) const;
  enum class Bend : std::uint8_t { convex, concave, both };  ///< both: concave up to 0, then convex
  [[nodiscard]] Bend bend(const Interval& x) const;
  /// The greatest b with slope x + b <= f(x) all over the range, rounded down; -inf: none.
  [[nodiscard]] double height_below(double slope, const Interval& x) const;
  /// The least b with f(x) <= slope x + b, rounded up.
  [[nodiscard]] double height_above(double slope, const Interval& x) const;
  /// Slopes that make tight lines below (above) over a range: tangents at the ends and the one
  /// alongside the chord, or the chord.
  [[nodiscard]] std::vector<double> good_slopes(const Interval& x, bool above) const;

  // Nearly.
  [[nodiscard]] double value(double x) const;
  [[nodiscard]] double slope(double x) const;
  [[nodiscard]] double curvature(double x) const;

  /// Whether whole x have rational values: a power.
  [[nodiscard]] bool algebraic() const noexcept { return kind_ == Kind::whole_power; }
  /// Of a whole power.
  [[nodiscard]] int degree() const noexcept { return n_; }
  void mark(Mark& mark) const noexcept {
    mark.add(kind_);
    mark.add(n_);
    mark.add(p_);
  }
  friend bool operator==(const UnaryFunction&, const UnaryFunction&) = default;

 private:
  enum class Kind : std::uint8_t { whole_power, real_power, exponential, logarithm };
  UnaryFunction(Kind kind, int n, double p) : kind_(kind), n_(n), p_(p) {}
  [[nodiscard]] double height(double slope, const Interval& x, bool above) const;
  [[nodiscard]] double where_slope_is(double slope, const Interval& x) const;

  Kind kind_;
  int n_;
  double p_;
};

}  // namespace kiteknot::mip
