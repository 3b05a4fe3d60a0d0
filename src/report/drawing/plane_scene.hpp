#pragma once
// The plane of two decisions of a model as a scene: its rules as rows, what holds at a point, the
// optima and roundings.

#include "kiteknot/draw.hpp"
#include "model/model_data.hpp"
#include "report/drawing/plane.hpp"

namespace kiteknot::report {

class PlaneOf {
 public:
  /// The others stand as in the plan, but for those that were asked for elsewhere. UsageError as
  /// plane_figure says.
  PlaneOf(const Model& model, const PlaneAsked& asked, const Plan& plan);
  /// It looks at this object as long as it is used.
  PlaneScene scene();
  /// The relaxed best of the plane, the whole one, and the roundings of the first.
  void add_marks(PlaneScene& scene);
  /// "with box at 0", "the other 12 decisions as in the plan"
  [[nodiscard]] std::string others() const;
  [[nodiscard]] const Plan& held() const noexcept { return held_; }

 private:
  [[nodiscard]] Plan at_point(const Rational& x, const Rational& y) const;
  [[nodiscard]] bool held_can_be(std::int32_t d) const;
  void rules(PlaneScene& s, Index family);
  void limits(PlaneScene& s, const Decision& decision, bool is_x);
  void goal(PlaneScene& s);
  void add_curves(PlaneScene& s, const Condition& c, const std::string& name);
  [[nodiscard]] double value_at(double x, double y, const Expression& e,
                                const Expression& less) const;
  [[nodiscard]] std::string told(const Rational& x, const Rational& y) const;

  const Model& model_;
  Model open_;  // both may have any value there
  const ModelData& m_;
  const PlaneAsked& asked_;
  Plan held_;
  Collector collector_{m_};
};

/// The sheet that figures are drawn on, with its title and a line below.
inline constexpr double kSheetWidth = 1280.0, kSheetHeight = 800.0;
Drawing sheet(const std::string& title, const std::string& below, const Ground& ground);

}  // namespace kiteknot::report
