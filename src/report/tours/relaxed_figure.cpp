// The relaxed point of two legs at every stop, drawn: why loops and fractions have to be ruled out.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/stops_data.hpp"
#include "kiteknot/figure.hpp"
#include "report/tours/stop_map.hpp"

namespace kiteknot {
namespace {

using namespace report;

// Andrew 1979, "Another efficient algorithm for convex hulls in two dimensions".
std::vector<Spot> hull(std::vector<Spot> spots) {
  std::sort(spots.begin(), spots.end(),
            [](const Spot& p, const Spot& q) { return p.x != q.x ? p.x < q.x : p.y < q.y; });
  const auto left_turn = [](const Spot& p, const Spot& q, const Spot& r) {
    return (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x) > 0.0;
  };
  std::vector<Spot> around;
  for (int side = 0; side < 2; ++side) {
    const std::size_t first = around.size();
    for (const Spot& s : spots) {
      while (around.size() >= first + 2 && !left_turn(around[around.size() - 2], around.back(), s))
        around.pop_back();
      around.push_back(s);
    }
    around.pop_back();
    std::reverse(spots.begin(), spots.end());
  }
  return around;
}

// Round every stop a few pixels, so that the shade holds the dots.
std::vector<Spot> around(const StopMap& map, const std::vector<std::int32_t>& stops) {
  constexpr double kRoom = 17.0, kEighth = 0.7853981633974483;
  std::vector<Spot> spots;
  for (const std::int32_t s : stops)
    for (int k = 0; k < 8; ++k)
      spots.push_back({map.spot(s).x + kRoom * std::cos(kEighth * k),
                       map.spot(s).y + kRoom * std::sin(kEighth * k)});
  return hull(std::move(spots));
}

}  // namespace

std::string relaxed_figure(const Stops& stops, const TourAnswer& answer) {
  need_answer_of(stops, answer);
  if (!answer.relaxed)
    throw UsageError("there is no relaxed point to draw: 'exact' has one, of symmetric lengths");
  const RelaxedTour& relaxed = *answer.relaxed;
  Drawing drawing(kWidth, kHeight);
  const StopMap map(stops, {60.0, 136.0, kWidth - 120.0, kHeight - 226.0});
  drawing.text({40.0, 48.0},
               (stops.title().empty() ? "The round trip" : stops.title()) + ", relaxed", kTitle,
               colours::kInk, Drawing::Side::left, true);
  const auto parts = std::count_if(relaxed.legs.begin(), relaxed.legs.end(),
                                   [](const PartOfLeg& leg) { return leg.share < 1.0 - 1e-6; });
  drawing.text({40.0, 76.0},
               fmt::format("Two legs at every stop, in parts where that is shorter: {} long, {} in "
                           "parts (red, as wide as they are large).",
                           told_length(stops, relaxed.length),
                           counted(static_cast<std::size_t>(parts), "leg")),
               kWords);
  std::vector<std::string> outs;
  for (const auto& [set, out] : relaxed.sets) {
    drawing.path(around(map, set), true, colours::kFaint, 1.0, colours::kSand);
    outs.push_back(fmt::format("{:.2g}", out));
  }
  std::sort(outs.begin(), outs.end());
  outs.erase(std::unique(outs.begin(), outs.end()), outs.end());
  if (!relaxed.sets.empty())
    drawing.text({40.0, 98.0},
                 fmt::format("Shaded: sets of stops with {} in and out, where a round trip has at "
                             "least 2.",
                             listed(outs)),
                 kWords);
  for (const PartOfLeg& leg : relaxed.legs) {
    const bool whole = leg.share >= 1.0 - 1e-6;
    drawing.line(map.spot(leg.from), map.spot(leg.to), whole ? colours::kBlue : colours::kRed,
                 whole ? 3.4 : 0.4 + 3.0 * leg.share);
  }
  map.draw_dots(drawing,
                stops.size() <= 100   ? 5.0
                : stops.size() <= 500 ? 3.0
                                      : 1.5,
                colours::kInk);
  map.draw_scale(drawing, {40.0, kHeight - 34.0});
  return std::move(drawing).finish();
}

}  // namespace kiteknot
