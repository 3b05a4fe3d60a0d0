// Ways to a tour side by side: a table, a page of small maps, and length against time.

#include <algorithm>
#include <array>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/stops_data.hpp"
#include "kiteknot/figure.hpp"
#include "kiteknot/pages.hpp"
#include "report/forms/page.hpp"
#include "report/tours/stop_map.hpp"

namespace kiteknot {
namespace {

using namespace report;

using Pair = std::pair<std::int32_t, std::int32_t>;

std::vector<Pair> legs_of(const Stops& stops, const TourAnswer& answer) {
  std::vector<Pair> legs;
  for (const std::vector<std::int32_t>& trip : loops_of(answer))
    for (std::size_t k = 0; k < trip.size(); ++k) {
      const std::int32_t a = trip[k], b = trip[k + 1 == trip.size() ? 0 : k + 1];
      legs.push_back(stops.directed() ? Pair{a, b} : Pair{std::min(a, b), std::max(a, b)});
    }
  return legs;
}

// Shortest first; ways without a tour last.
std::vector<const TourAnswer*> in_order(const std::vector<TourAnswer>& answers) {
  std::vector<const TourAnswer*> order;
  for (const TourAnswer& a : answers) order.push_back(&a);
  std::stable_sort(order.begin(), order.end(), [](const TourAnswer* a, const TourAnswer* b) {
    if (a->order.empty() != b->order.empty()) return b->order.empty();
    return a->length < b->length;
  });
  return order;
}

// What tours are held against: the best one, and what is proven.
struct Measure {
  const TourAnswer* best = nullptr;
  std::optional<Rational> bound;
  [[nodiscard]] bool proven() const { return best != nullptr && bound && *bound == best->length; }
};

Measure measure_of(const std::vector<TourAnswer>& answers) {
  Measure m;
  for (const TourAnswer& a : answers) {
    if (!a.order.empty() && (m.best == nullptr || a.length < m.best->length)) m.best = &a;
    if (a.bound && (!m.bound || *m.bound < *a.bound)) m.bound = a.bound;
  }
  return m;
}

// "proven shortest", "3.2 % longer", "at most 3.2 % above the shortest"
std::string distance(const Measure& m, const TourAnswer& a) {
  if (a.order.empty()) return "no tour";
  const auto above = [&](const Rational& than) {
    return percent(than.is_zero() ? 0.0 : (a.length / than).to_double() - 1.0);
  };
  if (m.proven())
    return a.length == m.best->length ? "proven shortest" : above(m.best->length) + " longer";
  if (m.bound && m.bound->sign() > 0) return "at most " + above(*m.bound) + " above the shortest";
  return a.length == m.best->length ? "shortest known" : above(m.best->length) + " longer";
}

// Legs that the best tour has not, the longest first.
std::vector<Pair> worst_legs(const Stops& stops, const TourAnswer& best, const TourAnswer& a) {
  constexpr std::size_t kMost = 3;
  const std::vector<Pair> good = legs_of(stops, best);
  const std::set<Pair> known(good.begin(), good.end());
  std::vector<Pair> worst;
  for (const Pair& leg : legs_of(stops, a))
    if (known.count(leg) == 0) worst.push_back(leg);
  std::stable_sort(worst.begin(), worst.end(), [&](const Pair& p, const Pair& q) {
    return stops.length(p.first, p.second) > stops.length(q.first, q.second);
  });
  if (worst.size() > kMost) worst.resize(kMost);
  return worst;
}

}  // namespace

std::string tour_comparison_page(const Stops& stops, const std::vector<TourAnswer>& answers,
                                 const PageOptions& options) {
  for (const TourAnswer& a : answers) need_answer_of(stops, a);
  Page page(options);
  page.title(fmt::format("{}: {} side by side", heading_of(stops), counted(answers.size(), "way")),
             Tone::good);
  const Measure m = measure_of(answers);
  page.say(fmt::format("Over {}{}.", counted(static_cast<std::size_t>(stops.size()), "stop"),
                       stops.directed() ? ", with lengths that differ there and back" : ""));
  page.gap();
  std::vector<std::vector<std::string>> rows = {
      {"way", "length", "against the shortest", "took", ""}};
  for (const TourAnswer* a : in_order(answers)) {
    std::string about;
    for (const TourWay& way : tour_ways())
      if (way.name == a->way) about = way.about;
    rows.push_back({a->way, a->order.empty() ? "-" : told_length(stops, a->length),
                    m.best == nullptr ? "-" : distance(m, *a), duration(a->seconds), about});
  }
  page.headed_table(rows, {1});
  return page.take();
}

std::string tour_comparison_maps(const Stops& stops, const std::vector<TourAnswer>& answers) {
  for (const TourAnswer& a : answers) need_answer_of(stops, a);
  constexpr std::size_t kMost = 12;
  std::vector<const TourAnswer*> shown = in_order(answers);
  if (shown.size() > kMost) shown.resize(kMost);
  const Measure m = measure_of(answers);
  Drawing drawing(kWidth, kHeight);
  drawing.text({40.0, 44.0}, (heading_of(stops)) + ", way by way", kTitle, colours::kInk,
               Drawing::Side::left, true);
  if (!stops.several())
    drawing.text({40.0, 68.0}, "red: the longest legs that the best tour does without", kWords);
  const MapGrid grid(shown.size());
  for (std::size_t k = 0; k < shown.size(); ++k) {
    const TourAnswer& a = *shown[k];
    grid.frame(drawing, k);
    const StopMap map(stops, grid.map(k));
    const std::vector<std::vector<std::int32_t>> trips = loops_of(a);
    for (std::size_t t = 0; t < trips.size(); ++t)
      map.draw_loop(drawing, trips[t], a.trips.empty() ? colours::kBlue : colours::of_number(t),
                    stops.size() <= 250 ? 1.7 : 0.8);
    if (m.best != nullptr && !stops.several())
      for (const auto& [from, to] : worst_legs(stops, *m.best, a))
        drawing.line(map.spot(from), map.spot(to), colours::kRed, 3.0);
    if (stops.size() <= 500) map.draw_dots(drawing, stops.size() <= 100 ? 2.4 : 1.5, colours::kInk);
    if (!a.order.empty()) StopMap::draw_start(drawing, map.spot(a.order.front()), 7.0);
    grid.tell(drawing, k,
              a.order.empty() ? a.way : fmt::format("{}: {}", a.way, told_length(stops, a.length)),
              m.best == nullptr ? "no tour" : distance(m, a));
  }
  return std::move(drawing).finish();
}

}  // namespace kiteknot
