#pragma once
// Stops in an area of a drawing, and pages of small maps.

#include "data/stops_data.hpp"
#include "kiteknot/tour.hpp"
#include "report/drawing/drawing.hpp"

namespace kiteknot::report {

inline constexpr double kWidth = 1280.0, kHeight = 800.0;  // of a page, in pixels
inline constexpr double kTitle = 24.0, kWords = 15.0;      // sizes of letters

class StopMap {
 public:
  /// UsageError where nobody knows where the stops are.
  StopMap(const Stops& stops, const Area& area);
  [[nodiscard]] Spot spot(std::int32_t stop) const {
    const auto k = static_cast<std::size_t>(stop);
    return frame_.spot(places_.x[k], places_.y[k]);
  }
  /// Directed ones with arrows.
  void draw_loop(Drawing& drawing, const std::vector<std::int32_t>& loop, const char* colour,
                 double width) const;
  void draw_dots(Drawing& drawing, double radius, const char* fill) const;
  /// A kite: where the telling starts.
  static void draw_start(Drawing& drawing, Spot at, double size);
  /// A bar of a round length, about a sixth of the area.
  void draw_scale(Drawing& drawing, Spot at) const;

 private:
  [[nodiscard]] double stretch() const;
  const Stops& stops_;
  Area area_;
  structures::tours::Places places_;
  MapFrame frame_;
};

/// Small maps side by side, with two lines of words below each.
class MapGrid {
 public:
  explicit MapGrid(std::size_t maps);
  void frame(Drawing& drawing, std::size_t k) const;
  [[nodiscard]] Area map(std::size_t k) const;
  void tell(Drawing& drawing, std::size_t k, const std::string& bold,
            const std::string& plain) const;
  [[nodiscard]] double width() const noexcept { return width_; }
  [[nodiscard]] double size_of_words() const noexcept { return words_; }

 private:
  [[nodiscard]] Area cell(std::size_t k) const;
  std::size_t across_, down_;
  double width_, height_, words_;
};

/// The trips of an answer, or its one tour; nothing where there is none.
std::vector<std::vector<std::int32_t>> loops_of(const TourAnswer& answer);
/// What the stops are called, or what they are for.
std::string heading_of(const Stops& stops);
/// "12 of 15"
std::string told_load(const Stops& stops, const std::vector<std::int32_t>& trip);
/// Of a closed trip.
double length_of(const Stops& stops, const std::vector<std::int32_t>& trip);

/// With its unit.
std::string told_length(const Stops& stops, const Rational& length);

}  // namespace kiteknot::report
