// Round trips drawn: one map, or the rounds side by side.

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/figure.hpp"
#include "model/stops_data.hpp"
#include "report/drawing.hpp"
#include "report/page.hpp"

namespace kiteknot {
namespace {

using report::Area;
using report::Drawing;
using report::Labels;
using report::MapFrame;
using report::Spot;
namespace colours = report::colours;

constexpr double kWidth = 1280.0, kHeight = 800.0, kTitle = 24.0, kWords = 15.0;

// The stops in an area of the page.
class StopMap {
 public:
  StopMap(const Stops& stops, const Area& area)
      : stops_(stops),
        area_(area),
        places_(places_of(stops)),
        frame_(places_.x, places_.y, stretch(), area) {}

  [[nodiscard]] Spot spot(std::int32_t stop) const {
    const auto k = static_cast<std::size_t>(stop);
    return frame_.spot(places_.x[k], places_.y[k]);
  }
  void draw_loop(Drawing& drawing, const std::vector<std::int32_t>& loop, const char* colour,
                 double width) const {
    std::vector<Spot> spots;
    for (const std::int32_t s : loop) spots.push_back(spot(s));
    drawing.path(spots, true, colour, width);
    if (stops_.directed())
      for (std::size_t k = 0; k < spots.size(); ++k)
        arrow(drawing, spots[k], spots[k + 1 == spots.size() ? 0 : k + 1], colour, width);
  }
  void draw_dots(Drawing& drawing, double radius, const char* fill) const {
    for (std::int32_t s = 0; s < stops_.size(); ++s) drawing.dot(spot(s), radius, fill);
  }
  // A kite: where the telling starts.
  static void draw_start(Drawing& drawing, Spot at, double size) {
    drawing.path({{at.x, at.y - size},
                  {at.x + 0.7 * size, at.y - 0.1 * size},
                  {at.x, at.y + size},
                  {at.x - 0.7 * size, at.y - 0.1 * size}},
                 true, colours::kPaper, 1.2, colours::kRed);
  }
  // A bar of a round length, about a sixth of the area.
  void draw_scale(Drawing& drawing, Spot at) const {
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
    drawing.text({end.x + 8.0, end.y + 5.0}, figure(length) + (unit.empty() ? "" : " " + unit),
                 13.0);
  }
  [[nodiscard]] const Area& area() const noexcept { return area_; }

 private:
  static structures::tours::Places places_of(const Stops& stops) {
    if (!stops.on_a_map())
      throw UsageError(
          "where the stops are is not known, so there is no map: lengths alone do not tell");
    return *stops.data().map;
  }
  static double kilometres_a_degree() { return 6371.0088 * std::numbers::pi / 180.0; }
  // A degree of longitude is shorter away from the equator.
  [[nodiscard]] double stretch() const {
    if (!stops_.data().on_earth || places_.y.empty()) return 1.0;
    const auto [low, high] = std::ranges::minmax(places_.y);
    return std::max(0.05, std::cos((low + high) / 2.0 * std::numbers::pi / 180.0));
  }
  static void arrow(Drawing& drawing, Spot from, Spot to, const char* colour, double width) {
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

  const Stops& stops_;
  Area area_;
  structures::tours::Places places_;
  MapFrame frame_;
};

std::string told_length(const Stops& stops, const Rational& length) {
  const std::string unit = stops.unit();
  return report::measured(length) + (unit.empty() ? "" : " " + unit);
}

void name_stops(Drawing& drawing, const StopMap& map, const Stops& stops,
                const std::vector<std::vector<std::int32_t>>& loops, std::int32_t first,
                double radius) {
  constexpr std::int32_t kMostNamed = 150;
  constexpr double kSize = 13.0;
  Labels labels({20.0, 90.0, kWidth - 40.0, kHeight - 150.0});
  for (std::int32_t s = 0; s < stops.size() && stops.size() <= 10 * kMostNamed; ++s) {
    labels.keep_mark(map.spot(s), radius);
  }
  const bool all = stops.size() <= kMostNamed;
  if (all)
    for (const std::vector<std::int32_t>& loop : loops)
      for (std::size_t k = 0; k < loop.size(); ++k)
        labels.keep_clear_of(map.spot(loop[k]), map.spot(loop[k + 1 == loop.size() ? 0 : k + 1]));
  if (stops.size() > 0)
    labels.place(drawing, map.spot(first), 14.0, stops.name(first), kSize + 1.0, true, true);
  // What no leg crosses first.
  std::vector<std::int32_t> left;
  for (std::int32_t s = 0; s < stops.size() && all; ++s)
    if (s != first && !labels.place(drawing, map.spot(s), radius, stops.name(s), kSize, false))
      left.push_back(s);
  for (const std::int32_t s : left)
    labels.place(drawing, map.spot(s), radius, stops.name(s), kSize, true);
}

// The rule that rules the loops out, with as many of their names as the room takes.
std::string rule_in_words(const Stops& stops, const TourRound& round, double width, double size) {
  std::string words = "from now on legs lead out of ";
  for (std::size_t l = 0; l < round.loops.size(); ++l) {
    const std::vector<std::int32_t>& loop = round.loops[l];
    const std::string set =
        fmt::format("{}{} + {}", l == 0 ? "" : "; ", stops.name(loop.front()), loop.size() - 1);
    const std::string more = fmt::format(" and {} more", round.loops.size() - l);
    if (report::width_of_words(words + set + more, size) > width)
      return words + more.substr(l == 0 ? 1 : 0);
    words += set;
  }
  return words;
}

double radius_for(std::int32_t stops) {
  return stops <= 60 ? 5.0 : stops <= 250 ? 3.5 : stops <= 2000 ? 2.0 : stops <= 20'000 ? 1.0 : 0.0;
}

double width_for(std::int32_t stops) {
  return stops <= 60 ? 2.6 : stops <= 250 ? 2.0 : stops <= 2000 ? 1.4 : 0.7;
}

}  // namespace

std::string tour_map(const Stops& stops, const TourAnswer& answer) {
  Drawing drawing(kWidth, kHeight);
  const StopMap map(stops, {60.0, 110.0, kWidth - 120.0, kHeight - 200.0});
  drawing.text({40.0, 48.0}, stops.title().empty() ? "The round trip" : stops.title(), kTitle,
               colours::kInk, Drawing::Side::left, true);
  const double radius = radius_for(stops.size());
  if (answer.order.empty()) {
    drawing.text({40.0, 76.0}, "there is no tour to draw", kWords);
    map.draw_dots(drawing, radius, colours::kInk);
    return std::move(drawing).finish();
  }
  std::string below = fmt::format("{} long, {}", told_length(stops, answer.length),
                                  counted(answer.order.size(), "stop"));
  if (answer.outcome == Outcome::optimal)
    below += "; proven shortest";
  else if (answer.gap)
    below += fmt::format("; at most {} above the shortest", percent(*answer.gap));
  drawing.text({40.0, 76.0}, below, kWords);
  map.draw_loop(drawing, answer.order, colours::kBlue, width_for(stops.size()));
  if (radius > 0.0) map.draw_dots(drawing, radius, colours::kInk);
  name_stops(drawing, map, stops, {answer.order}, answer.order.front(), radius);
  StopMap::draw_start(drawing, map.spot(answer.order.front()), 13.0);
  map.draw_scale(drawing, {40.0, kHeight - 34.0});
  return std::move(drawing).finish();
}

std::string rounds_figure(const Stops& stops, const TourAnswer& answer) {
  if (answer.rounds.empty()) throw UsageError("the tour was not found in rounds");
  constexpr std::size_t kMost = 12;
  std::vector<std::size_t> shown;  // the first ones and the last ones
  const std::size_t all = answer.rounds.size();
  for (std::size_t k = 0; k < all; ++k)
    if (all <= kMost || k < kMost / 2 || k + kMost / 2 >= all) shown.push_back(k);
  const std::size_t across = shown.size() <= 1   ? 1
                             : shown.size() <= 4 ? 2
                             : shown.size() <= 9 ? 3
                                                 : 4;
  const std::size_t down = (shown.size() + across - 1) / across;
  Drawing drawing(kWidth, kHeight);
  drawing.text({40.0, 44.0},
               (stops.title().empty() ? "The round trip" : stops.title()) + ", round by round",
               kTitle, colours::kInk, Drawing::Side::left, true);
  if (shown.size() < all)
    drawing.text({40.0, 68.0},
                 fmt::format("{} rounds; the first {} and the last {}", all, kMost / 2, kMost / 2),
                 kWords);
  constexpr double kTop = 80.0, kGap = 26.0, kBelow = 44.0;
  const double width =
      (kWidth - 80.0 - kGap * static_cast<double>(across - 1)) / static_cast<double>(across);
  const double height = (kHeight - kTop - 24.0 - kGap * 0.5 * static_cast<double>(down - 1)) /
                        static_cast<double>(down);
  const double small = down > 2 ? 12.0 : 14.0;
  for (std::size_t k = 0; k < shown.size(); ++k) {
    const TourRound& round = answer.rounds[shown[k]];
    const Area cell{40.0 + static_cast<double>(k % across) * (width + kGap),
                    kTop + static_cast<double>(k / across) * (height + kGap * 0.5), width, height};
    const StopMap map(stops,
                      {cell.left + 14.0, cell.top + 12.0, width - 28.0, height - kBelow - 18.0});
    drawing.path({{cell.left, cell.top},
                  {cell.left + width, cell.top},
                  {cell.left + width, cell.top + height - kBelow},
                  {cell.left, cell.top + height - kBelow}},
                 true, colours::kFaint, 1.0);
    const bool last = round.loops.size() == 1;
    for (std::size_t l = 0; l < round.loops.size(); ++l)
      map.draw_loop(drawing, round.loops[l], last ? colours::kBlue : colours::of_number(l), 2.0);
    map.draw_dots(drawing, stops.size() <= 100 ? 2.6 : 1.6, colours::kInk);
    if (!round.loops.empty() && !answer.order.empty())
      StopMap::draw_start(drawing, map.spot(answer.order.front()), 8.0);
    const double words = cell.top + height - kBelow + 18.0;
    drawing.text({cell.left, words},
                 fmt::format("{}.  {} long, {}", shown[k] + 1, told_length(stops, round.length),
                             last ? "one loop" : counted(round.loops.size(), "loop")),
                 small, colours::kInk, Drawing::Side::left, true);
    drawing.text({cell.left, words + small + 4.0},
                 last ? "the shortest round trip" : rule_in_words(stops, round, width, small),
                 small);
  }
  return std::move(drawing).finish();
}

}  // namespace kiteknot
