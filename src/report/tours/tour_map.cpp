// Round trips drawn: one map, or the rounds side by side.

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
  // What no leg crosses first. Of several trips with what is to be carried.
  const auto words = [&](std::int32_t s) {
    return stops.capacity() > 0.0 ? fmt::format("{} {}", stops.name(s), figure(stops.load(s)))
                                  : stops.name(s);
  };
  std::vector<std::int32_t> left;
  for (std::int32_t s = 0; s < stops.size() && all; ++s)
    if (s != first && !labels.place(drawing, map.spot(s), radius, words(s), kSize, false))
      left.push_back(s);
  for (const std::int32_t s : left)
    labels.place(drawing, map.spot(s), radius, words(s), kSize, true);
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

// What each trip carries and how long it is, in its colour, below the map.
void tell_trips(Drawing& drawing, const Stops& stops, const TourAnswer& answer) {
  constexpr std::size_t kMost = 6;
  constexpr double kLine = 20.0;
  const std::size_t told = std::min(answer.trips.size(), kMost);
  double top = kHeight - 24.0 - kLine * static_cast<double>(told);
  for (std::size_t t = 0; t < told; ++t, top += kLine) {
    const std::vector<std::int32_t>& trip = answer.trips[t];
    drawing.line({kWidth - 330.0, top + 10.0}, {kWidth - 300.0, top + 10.0}, colours::of_number(t),
                 4.0);
    std::vector<std::string> facts;
    if (stops.capacity() > 0.0) facts.push_back("carries " + told_load(stops, trip));
    if (answer.in_place_of_length.empty())
      facts.push_back(told_length(stops, Rational(std::round(length_of(stops, trip) * 1e6)) /
                                             Rational(1'000'000)) +
                      " long");
    if (facts.empty()) facts.push_back(counted(trip.size(), "stop"));
    std::string words = fmt::format("{}", fmt::join(facts, ", "));
    if (t + 1 == told && told < answer.trips.size())
      words += fmt::format("; and {}", counted(answer.trips.size() - told, "more trip"));
    drawing.text({kWidth - 290.0, top + 15.0}, words, kWords);
  }
}

double radius_for(std::int32_t stops) {
  return stops <= 60 ? 5.0 : stops <= 250 ? 3.5 : stops <= 2000 ? 2.0 : stops <= 20'000 ? 1.0 : 0.0;
}

double width_for(std::int32_t stops) {
  return stops <= 60 ? 2.6 : stops <= 250 ? 2.0 : stops <= 2000 ? 1.4 : 0.7;
}

}  // namespace

std::string tour_map(const Stops& stops, const TourAnswer& answer) {
  need_answer_of(stops, answer);
  Drawing drawing(kWidth, kHeight);
  const StopMap map(stops, {60.0, 110.0, kWidth - 120.0, kHeight - 200.0});
  drawing.text({40.0, 48.0}, heading_of(stops), kTitle, colours::kInk, Drawing::Side::left, true);
  const double radius = radius_for(stops.size());
  if (answer.order.empty()) {
    drawing.text({40.0, 76.0}, "there is no tour to draw", kWords);
    map.draw_dots(drawing, radius, colours::kInk);
    return std::move(drawing).finish();
  }
  const bool measured = answer.in_place_of_length.empty();
  std::string below = counted(answer.order.size(), "stop");
  if (measured) below = told_length(stops, answer.length) + " long, " + below;
  const std::size_t left_out = static_cast<std::size_t>(stops.size()) - answer.order.size();
  if (left_out > 0) below += fmt::format(", {} left out", left_out);
  if (!answer.trips.empty()) below += fmt::format(" in {}", counted(answer.trips.size(), "trip"));
  if (!measured && answer.in_place_of_length != "-") below += "; " + answer.in_place_of_length;
  if (answer.outcome == Outcome::optimal && measured)
    below += "; proven shortest";
  else if (answer.gap)
    below += fmt::format("; at most {} above the shortest", percent(*answer.gap));
  drawing.text({40.0, 76.0}, below, kWords);
  const std::vector<std::vector<std::int32_t>> trips = loops_of(answer);
  for (std::size_t t = 0; t < trips.size(); ++t)
    map.draw_loop(drawing, trips[t], answer.trips.empty() ? colours::kBlue : colours::of_number(t),
                  width_for(stops.size()));
  if (radius > 0.0) map.draw_dots(drawing, radius, colours::kInk);
  // Those left out are hollow.
  std::vector<char> visited(static_cast<std::size_t>(stops.size()), 0);
  for (const std::int32_t s : answer.order) visited[static_cast<std::size_t>(s)] = 1;
  for (std::int32_t s = 0; s < stops.size() && radius > 0.0; ++s)
    if (visited[static_cast<std::size_t>(s)] == 0)
      drawing.dot(map.spot(s), radius, colours::kPaper, colours::kInk);
  name_stops(drawing, map, stops, trips, answer.order.front(), radius);
  if (!answer.trips.empty()) tell_trips(drawing, stops, answer);
  StopMap::draw_start(drawing, map.spot(answer.order.front()), 13.0);
  map.draw_scale(drawing, {40.0, kHeight - 34.0});
  return std::move(drawing).finish();
}

std::string rounds_figure(const Stops& stops, const TourAnswer& answer) {
  need_answer_of(stops, answer);
  if (answer.rounds.empty()) throw UsageError("the tour was not found in rounds");
  constexpr std::size_t kMost = 12;
  std::vector<std::size_t> shown;  // the first ones and the last ones
  const std::size_t all = answer.rounds.size();
  for (std::size_t k = 0; k < all; ++k)
    if (all <= kMost || k < kMost / 2 || k + kMost / 2 >= all) shown.push_back(k);
  const MapGrid grid(shown.size());
  Drawing drawing(kWidth, kHeight);
  drawing.text({40.0, 44.0}, (heading_of(stops)) + ", round by round", kTitle, colours::kInk,
               Drawing::Side::left, true);
  if (shown.size() < all)
    drawing.text({40.0, 68.0},
                 fmt::format("{} rounds; the first {} and the last {}", all, kMost / 2, kMost / 2),
                 kWords);
  for (std::size_t k = 0; k < shown.size(); ++k) {
    const TourRound& round = answer.rounds[shown[k]];
    grid.frame(drawing, k);
    const StopMap map(stops, grid.map(k));
    const bool last = round.loops.size() == 1;
    for (std::size_t l = 0; l < round.loops.size(); ++l)
      map.draw_loop(drawing, round.loops[l], last ? colours::kBlue : colours::of_number(l), 2.0);
    map.draw_dots(drawing, stops.size() <= 100 ? 2.6 : 1.6, colours::kInk);
    if (!round.loops.empty() && !answer.order.empty())
      StopMap::draw_start(drawing, map.spot(answer.order.front()), 8.0);
    grid.tell(drawing, k,
              fmt::format("{}.  {} long, {}", shown[k] + 1, told_length(stops, round.length),
                          last ? "one loop" : counted(round.loops.size(), "loop")),
              last ? "the shortest round trip"
                   : rule_in_words(stops, round, grid.width(), grid.size_of_words()));
  }
  return std::move(drawing).finish();
}

}  // namespace kiteknot
