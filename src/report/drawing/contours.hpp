#pragma once
// Where a function of two variables has a value: by squares of a grid, joined to lines. Source:
// Lorensen and Cline 1987, "Marching cubes", in the plane.

#include <functional>
#include <vector>

#include "report/drawing/plane.hpp"

namespace kiteknot::report {

/// A function seen at the corners of a grid over a window; NaN where it has no value.
class SeenOverGrid {
 public:
  SeenOverGrid(const PlaneWindow& window, int across, int up,
               const std::function<double(double, double)>& value);
  /// Open or closed lines, in the window's units.
  [[nodiscard]] std::vector<std::vector<Spot>> contour(double level) const;
  /// A value below which so large a part of all lies; NaN where none is known.
  [[nodiscard]] double quantile(double part) const;

 private:
  [[nodiscard]] double at(int i, int j) const {
    return value_[static_cast<std::size_t>(j * (across_ + 1) + i)];
  }
  PlaneWindow window_;
  int across_, up_;
  std::vector<double> value_;
};

}  // namespace kiteknot::report
