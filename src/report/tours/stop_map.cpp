#include "report/tours/stop_map.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

structures::tours::Places places_of(const Stops& stops) {
  if (!stops.on_a_map())
    throw UsageError(
        "where the stops are is not known, so there is no map: lengths alone do not tell");
  return *stops.data().map;
}

double kilometres_a_degree() {
  return 6371.0088 * std::numbers::pi / 180.0;
}

// In the middle of the leg and a little on.
void arrow(Drawing& drawing, Spot from, Spot to, const char* colour, double width) {
  const double dx = to.x - from.x, dy = to.y - from.y, far = std::hypot(dx, dy);
  const double size = 3.2 * width;
  if (far < 2.5 * size) return;
  const Spot tip{from.x + 0.58 * dx, from.y + 0.58 * dy};
  const double ux = dx / far * size, uy = dy / far * size;
  drawing.path({{tip.x + ux, tip.y + uy},
                {tip.x - ux - 0.8 * uy, tip.y - uy + 0.8 * ux},
                {tip.x - ux + 0.8 * uy, tip.y - uy - 0.8 * ux}},
               true, colour, 0.5, colour);
}

}  // namespace

StopMap::StopMap(const Stops& stops, const Area& area)
    : stops_(stops),
      area_(area),
      places_(places_of(stops)),
      frame_(places_.x, places_.y, stretch(), area) {}

// A degree of longitude is shorter away from the equator.
double StopMap::stretch() const {
  if (!stops_.data().on_earth || places_.y.empty()) return 1.0;
  const auto [low, high] = std::ranges::minmax(places_.y);
  return std::max(0.05, std::cos((low + high) / 2.0 * std::numbers::pi / 180.0));
}

void StopMap::draw_loop(Drawing& drawing, const std::vector<std::int32_t>& loop, const char* colour,
                        double width) const {
  std::vector<Spot> spots;
  for (const std::int32_t s : loop) spots.push_back(spot(s));
  drawing.path(spots, true, colour, width);
  if (stops_.directed())
    for (std::size_t k = 0; k < spots.size(); ++k)
      arrow(drawing, spots[k], spots[k + 1 == spots.size() ? 0 : k + 1], colour, width);
}

void StopMap::draw_dots(Drawing& drawing, double radius, const char* fill) const {
  for (std::int32_t s = 0; s < stops_.size(); ++s) drawing.dot(spot(s), radius, fill);
}

void StopMap::draw_start(Drawing& drawing, Spot at, double size) {
  drawing.path({{at.x, at.y - size},
                {at.x + 0.7 * size, at.y - 0.1 * size},
                {at.x, at.y + size},
                {at.x - 0.7 * size, at.y - 0.1 * size}},
               true, colours::kPaper, 1.2, colours::kRed);
}

void StopMap::draw_scale(Drawing& drawing, Spot at) const {
  constexpr double kShare = 1.0 / 6.0;
  const double one = frame_.scale() / (stops_.data().on_earth ? kilometres_a_degree() : 1.0);
  if (!(one > 0.0) || !std::isfinite(one)) return;
  const double wanted = area_.width * kShare / one,
               power = std::pow(10.0, std::floor(std::log10(wanted)));
  const double length = wanted >= 5.0 * power   ? 5.0 * power
                        : wanted >= 2.0 * power ? 2.0 * power
                                                : power;
  const Spot end{at.x + length * one, at.y};
  drawing.line(at, end, colours::kInk, 2.0);
  for (const Spot& s : {at, end})
    drawing.line({s.x, s.y - 4.0}, {s.x, s.y + 4.0}, colours::kInk, 2.0);
  const std::string unit = stops_.unit();
  drawing.text({end.x + 8.0, end.y + 5.0}, figure(length) + (unit.empty() ? "" : " " + unit), 13.0);
}

namespace {

constexpr double kLeft = 40.0, kTop = 80.0, kBottom = 24.0, kGap = 26.0, kBelow = 44.0;

}  // namespace

MapGrid::MapGrid(std::size_t maps)
    : across_(maps <= 1   ? 1
              : maps <= 4 ? 2
              : maps <= 9 ? 3
                          : 4),
      down_((std::max<std::size_t>(maps, 1) + across_ - 1) / across_),
      width_((kWidth - 2.0 * kLeft - kGap * static_cast<double>(across_ - 1)) /
             static_cast<double>(across_)),
      height_((kHeight - kTop - kBottom - 0.5 * kGap * static_cast<double>(down_ - 1)) /
              static_cast<double>(down_)),
      words_(down_ > 2 ? 12.0 : 14.0) {}

Area MapGrid::cell(std::size_t k) const {
  return {kLeft + static_cast<double>(k % across_) * (width_ + kGap),
          kTop + static_cast<double>(k / across_) * (height_ + 0.5 * kGap), width_, height_};
}

Area MapGrid::map(std::size_t k) const {
  const Area c = cell(k);
  return {c.left + 14.0, c.top + 12.0, c.width - 28.0, c.height - kBelow - 24.0};
}

void MapGrid::frame(Drawing& drawing, std::size_t k) const {
  const Area c = cell(k);
  const double bottom = c.top + c.height - kBelow;
  drawing.path(
      {{c.left, c.top}, {c.left + c.width, c.top}, {c.left + c.width, bottom}, {c.left, bottom}},
      true, colours::kFaint, 1.0);
}

void MapGrid::tell(Drawing& drawing, std::size_t k, const std::string& bold,
                   const std::string& plain) const {
  const Area c = cell(k);
  const double base = c.top + c.height - kBelow + 18.0;
  drawing.text({c.left, base}, bold, words_, colours::kInk, Drawing::Side::left, true);
  drawing.text({c.left, base + words_ + 4.0}, plain, words_);
}

std::vector<std::vector<std::int32_t>> loops_of(const TourAnswer& answer) {
  if (!answer.trips.empty() || answer.order.empty()) return answer.trips;
  return {answer.order};
}

std::string heading_of(const Stops& stops) {
  if (!stops.title().empty()) return stops.title();
  return stops.several() ? "The round trips" : "The round trip";
}

std::string told_load(const Stops& stops, const std::vector<std::int32_t>& trip) {
  return fmt::format("{} of {}", figure(stops.load(trip)), figure(stops.capacity()));
}

double length_of(const Stops& stops, const std::vector<std::int32_t>& trip) {
  double sum = 0.0;
  for (std::size_t k = 0; k < trip.size() && trip.size() > 1; ++k)
    sum += stops.length(trip[k], trip[k + 1 == trip.size() ? 0 : k + 1]);
  return sum;
}

std::string told_length(const Stops& stops, const Rational& length) {
  const std::string unit = stops.unit();
  return measured(length) + (unit.empty() ? "" : " " + unit);
}

}  // namespace kiteknot::report
