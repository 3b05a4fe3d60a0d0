#pragma once
// The best plan and the bound of a search as two lines over time, for figures.

#include <cmath>
#include <functional>
#include <string>
#include <vector>

#include "kiteknot/result.hpp"

namespace kiteknot::report {

struct LinePoint {
  double time = 0.0, value = 0.0;
  std::string found_by{};  ///< of plans
};

/// Each stays where it is until it moves.
struct SearchLines {
  std::vector<LinePoint> plans, bounds;
  double low = HUGE_VAL, high = -HUGE_VAL;  ///< of values
  double first = HUGE_VAL;                  ///< the first time above 0
  double end = 0.0;                         ///< of the search
  /// Whether there is anything to see.
  [[nodiscard]] bool some() const {
    return !plans.empty() && !bounds.empty() && plans.size() + bounds.size() >= 3 && high > low;
  }
};
SearchLines search_lines(const std::vector<Progress>& progress, double seconds);

/// From times or values to pixels.
using Scale = std::function<double(double)>;
/// SVG path data of one line, and of the area between both from where both are known.
std::string step_path(const std::vector<LinePoint>& line, double end, const Scale& x,
                      const Scale& y);
std::string open_path(const SearchLines& lines, const Scale& x, const Scale& y);

}  // namespace kiteknot::report
