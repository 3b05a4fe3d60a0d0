#pragma once
// What the figures of a comparison over cases share: a time axis in steps of ten, an axis of
// distances with a place for none and for no plan, lines with their names at the end.

#include <string>
#include <vector>

#include "kiteknot/trials.hpp"
#include "report/drawing/drawing.hpp"

namespace kiteknot::report {

/// Seconds to pixels, each step ten times the last.
class TimeAxis {
 public:
  TimeAxis(double first, double last, double left, double right);
  [[nodiscard]] double at(double seconds) const;
  void draw(Drawing& d, double y, const Ground& g) const;

 private:
  double first_, last_, left_, right_;
};

/// Distances to pixels from `from` (at the best) to `to` (no plan): in steps of ten between.
class DistanceAxis {
 public:
  DistanceAxis(double least, double most, double from, double to);
  [[nodiscard]] double at(double distance) const;
  struct Tick {
    double at = 0.0;
    std::string words;
  };
  [[nodiscard]] std::vector<Tick> ticks() const;

 private:
  double least_, most_, from_, to_;
};

/// A step line: where it stands from each time on.
struct WayLine {
  std::string name;
  std::vector<Spot> spots{};  ///< in pixels
  std::size_t number = 0;     ///< of its colour
};
/// Lines with their names at the right, moved apart.
void draw_lines(Drawing& d, std::vector<WayLine> lines, double right, double top, double bottom,
                const Ground& g);

/// A line at the foot: what has no line of its own, and why.
void tell_left_out(Drawing& d, const std::string& why, const std::vector<std::string>& names,
                   double left, double right, const Ground& g);

/// The shortest and longest times of all attempts.
std::pair<double, double> times_of(const Trials& trials);

}  // namespace kiteknot::report
