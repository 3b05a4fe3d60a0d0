#pragma once
// Terms that are not sums of decisions, as stated: what they are functions of, and which.

#include <functional>
#include <memory>
#include <unordered_map>
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
  enum class Shape { tiers, all_units, through } shape = Shape::tiers;
  std::string name, stated;
  // In order; each point of the range is owned by one at least. Of a curve with numbers in it they
  // are those of the numbers as stated; CurvesNow knows the present ones.
  std::vector<CurvePiece> pieces;
  std::vector<Expression> figures{};  // that hold numbers; empty: the pieces are for good
  std::function<std::vector<CurvePiece>(const std::vector<Rational>& numbers)> made{};
};

/// The value of pieces at x; UsageError outside.
Rational value_at(const CurveData& curve, const std::vector<CurvePiece>& pieces, const Rational& x);

/// The pieces of curves under given numbers, each worked out once. UsageError with the curve's name
/// where they make no curve.
class CurvesNow {
 public:
  const std::vector<CurvePiece>& pieces(const CurveData& curve,
                                        const std::vector<Rational>& numbers) {
    if (!curve.made) return curve.pieces;
    const auto known = known_.find(&curve);
    return known != known_.end() ? known->second
                                 : known_.emplace(&curve, made(curve, numbers)).first->second;
  }
  static std::vector<CurvePiece> made(const CurveData& curve, const std::vector<Rational>& numbers);

 private:
  std::unordered_map<const CurveData*, std::vector<CurvePiece>> known_;
};

struct Derived {
  enum class Kind {
    product,      // args[0] * args[1]
    quotient,     // args[0] / args[1]
    power,        // args[0] ^ args[1], which holds no decision
    exponential,  // of args[0]
    logarithm,    // of args[0]
    largest,      // of args
    curve,        // curve(args[0])
    truth         // of condition
  };
  /// How a largest or a power was stated; it changes no value.
  enum class Shape { largest, smallest, absolute, root };
  Kind kind = Kind::product;
  std::vector<Expression> args;
  std::shared_ptr<const CurveData> curve{};
  Condition condition{};
  Shape shape = Shape::largest;
};

/// UsageError for a condition that was put together by hand and lacks what its kind needs.
void need_form(const Condition& condition);

}  // namespace kiteknot
