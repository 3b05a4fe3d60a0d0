#pragma once
// The plane of two decisions: what half-planes leave, and how that is drawn into an area.

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "kiteknot/rational.hpp"
#include "report/drawing/drawing.hpp"

namespace kiteknot::report {

/// low <= a x + b y <= high; an end may be infinite.
struct PlaneRow {
  std::string name;
  double a = 0.0, b = 0.0, low = 0.0, high = 0.0;
  enum class Kind { rule, limit, added } kind = Kind::rule;
};

/// A rule that is no sum: it holds where this is at least 0; NaN where it has no value.
struct PlaneCurve {
  std::string name;
  std::function<double(double, double)> room;
};

struct PlaneMark {
  double x = 0.0, y = 0.0;
  std::string words;
  enum class Kind { whole, relaxed, rounded } kind = Kind::whole;
};

struct PlaneScene {
  std::string x_name, y_name;
  bool x_whole = false, y_whole = false;
  std::vector<PlaneRow> rows;  ///< the limits of both among them
  double goal_x = 0.0, goal_y = 0.0;
  bool maximize = true;
  std::string goal;
  std::vector<PlaneMark> marks;
  std::vector<PlaneCurve> curves;
  std::function<double(double, double)> goal_at;  ///< where the goal is no sum
  std::vector<double> x_listed, y_listed;         ///< the values that a decision may take
  /// Whether all rules hold at a point, exactly; null: the rows say it all.
  std::function<bool(const Rational&, const Rational&)> holds;
  bool only_rows = true;  ///< every rule is one of the rows
  int cells = 96;         ///< across, where the region is found by trying
};

/// What is drawn of a plane.
struct PlaneWindow {
  double low_x = 0.0, high_x = 1.0, low_y = 0.0, high_y = 1.0;
};

/// Corners of what the rows leave within a window, in order; less than three: nothing with an area.
/// Sutherland and Hodgman 1974, "Reentrant polygon clipping".
std::vector<Spot> region_of(const std::vector<PlaneRow>& rows, const PlaneWindow& window);
/// A window around the region, the marks and, where nothing is left, the lines' own corners.
PlaneWindow window_of(const PlaneScene& scene);

struct PlaneLook {
  bool small = false;  ///< one of several: no names but those of the marks
};
void draw_plane(Drawing& drawing, const Area& area, const PlaneScene& scene,
                const PlaneWindow& window, const PlaneLook& look, const Ground& ground);

}  // namespace kiteknot::report
