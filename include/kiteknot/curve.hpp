#pragma once
// Functions of one expression, given by pieces: what a quantity costs or yields. A curve knows
// nothing of decisions; whether its use needs binaries is found out when a model is solved. Where a
// curve of decisions stands in a goal or in a rule that is switched on, in whatever part of it, its
// argument is kept within from() .. to().
//
//   kk::Curve hire = kk::Curve::tiers({{120, 4}, {95, 6}, {80}}, 50);
//   model.minimize("cost", hire(lamps));
//
// Numbers of a model may stand among its figures. Such a curve is stated by that model
// (Model::curve) before it is used, and moves with them.

#include <optional>
#include <string>
#include <vector>

#include "kiteknot/expression.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

struct CurveData;

class Curve {
 public:
  /// `rate` for each unit of a tier, `width` units wide; no width: as far as it goes (last only).
  struct Tier {
    Expression rate;
    std::optional<Expression> width{};
  };
  struct Step {
    Expression rate, from;
  };
  struct Point {
    Expression x, y;
  };
  /// Every unit at its own tier's rate; `once` is charged for anything above 0.
  static Curve tiers(std::vector<Tier> tiers, const Expression& once = 0);
  /// One rate for all units, by how many there are: from[0] = 0, then rising.
  static Curve all_units(std::vector<Step> steps);
  /// Straight lines between points with rising x; several points with one x are a jump, at which
  /// the lowest y counts, at the first and the last x too.
  static Curve through(std::vector<Point> points);

  /// The same curve under this name, for pages.
  [[nodiscard]] Curve named(std::string name) const;
  /// "" where it has none.
  [[nodiscard]] const std::string& name() const noexcept;
  /// Exact; UsageError outside from() .. to(). With numbers in it: as these were stated.
  [[nodiscard]] Rational at(const Rational& x) const;
  /// Where it begins.
  [[nodiscard]] Rational from() const;
  [[nodiscard]] Rational to() const;  ///< infinite where there is no end
  Expression operator()(const Expression& argument) const;
  /// For the library itself.
  [[nodiscard]] const CurveData& data() const noexcept { return *data_; }

  /// For the library itself.
  explicit Curve(std::shared_ptr<const CurveData> data);
  Curve(const Curve&) = default;  // also where it is moved from: it stays usable
  Curve& operator=(const Curve&) = default;

 private:
  friend struct Internals;
  std::shared_ptr<const CurveData> data_;
};

}  // namespace kiteknot
#pragma GCC visibility pop
