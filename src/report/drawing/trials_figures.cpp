// Three views of a comparison: value over time, distances at the end, and how many cases are near
// the best after which time.

#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/draw.hpp"
#include "report/drawing/plane_scene.hpp"
#include "report/drawing/trials_axes.hpp"

namespace kiteknot {
namespace {

using report::Drawing;
using report::Spot;
using report::WayLine;

constexpr double kLeft = 130.0, kRight = 1050.0, kTop = 100.0, kBottom = 700.0;

void need_something(const Trials& t) {
  if (std::ranges::none_of(t.attempts, [](const Attempt& a) { return a.found; }))
    throw UsageError("there is nothing to draw: no way found a plan");
}

std::size_t number_of(const Trials& t, const std::string& way) {
  return static_cast<std::size_t>(std::ranges::find(t.ways, way) - t.ways.begin());
}

std::string cases_in_words(const Trials& t) {
  return t.cases.size() == 1 ? t.cases[0].title : counted(t.cases.size(), "case");
}

// The value that an attempt had at a time; none before its first plan.
std::optional<double> value_at(const Attempt& a, double seconds) {
  std::optional<double> value;
  for (const auto& [when, v] : a.better)
    if (when <= seconds) value = v;
  return value;
}

double share_of(double value, const TrialCaseAnswer& c) {
  constexpr double kLeast = 1e-10;
  return c.best ? std::abs(value - c.best->to_double()) /
                      std::max(std::abs(c.best->to_double()), kLeast)
                : 0.0;
}

// One case: values as they are, with the bound.
std::string values_over_time(const Trials& t, const report::Ground& g) {
  const TrialCaseAnswer& c = t.cases[0];
  Drawing d = report::sheet(t.cases[0].title,
                            fmt::format("{} over time; each step of the axis is ten times the last",
                                        c.goal.empty() ? "Plans" : "Best " + c.goal),
                            g);
  const auto [first, last] = report::times_of(t);
  const report::TimeAxis time(first, last, kLeft, kRight);
  // The scale ends where most plans are not far below it: early ones may be anything.
  std::vector<double> ends, all;
  for (const Attempt& a : t.attempts) {
    if (!a.better.empty() && a.found) ends.push_back(a.better.back().second);
    for (const auto& [when, v] : a.better) all.push_back(v);
  }
  double low = *std::ranges::min_element(ends), high = *std::ranges::max_element(ends);
  const bool up = c.sense == Sense::minimize;  // early plans lie above
  if (c.bound) {
    low = std::min(low, *c.bound);
    high = std::max(high, *c.bound);
  }
  const double room = std::max({0.6 * (high - low), 0.02 * std::abs(high), 1e-9});
  const double far = up ? high + room : low - room;
  std::size_t beyond = 0;
  for (const double v : all) {
    if (up ? v > far : v < far) {
      ++beyond;
      continue;
    }
    low = std::min(low, v);
    high = std::max(high, v);
  }
  if (!(low < high)) high = low + std::max(1.0, 0.05 * std::abs(low));
  const double margin = 0.06 * (high - low);
  const auto y = [&](double v) {
    return kBottom - (std::clamp(v, low - margin, high + margin) - low + margin) /
                         (high - low + 2.0 * margin) * (kBottom - kTop);
  };
  d.line({kLeft, kTop}, {kLeft, kBottom}, g.soft, 1.0);
  for (const double v : {low, 0.5 * (low + high), high})
    d.text({kLeft - 8.0, y(v) + 4.5}, report::brief_figure(v), 13.0, g.soft, Drawing::Side::right);
  time.draw(d, kBottom, g);
  if (c.bound) {
    d.dashes({kLeft, y(*c.bound)}, {kRight, y(*c.bound)}, g.ink, 1.4);
    d.text({kLeft + 6.0, y(*c.bound) + (up ? 16.0 : -7.0)},
           fmt::format("nothing {} {} can exist", up ? "below" : "above", figure(*c.bound)), 13.0,
           g.ink);
  }
  std::vector<WayLine> lines;
  for (const std::string& way : t.ways) {
    const auto a = std::ranges::find_if(
        t.attempts, [&](const Attempt& x) { return x.way == way && x.found && !x.better.empty(); });
    if (a == t.attempts.end()) continue;
    WayLine l{way, {}, number_of(t, way)};
    for (const auto& [when, v] : a->better) l.spots.push_back({time.at(when), y(v)});
    l.spots.push_back({kRight, l.spots.back().y});
    lines.push_back(std::move(l));
  }
  report::draw_lines(d, std::move(lines), kRight, kTop, kBottom - 4.0, g);
  if (beyond > 0)
    d.text(
        {kRight, kTop - 6.0},
        fmt::format("the scale is cut: {} beyond it",
                    beyond == 1 ? "1 early plan lies" : fmt::format("{} early plans lie", beyond)),
        13.0, g.soft, Drawing::Side::right);
  if (t.runs > 1) d.text({kLeft, 770.0}, "Of ways that draw lots the first run.", 13.0, g.soft);
  return std::move(d).finish();
}

// The distance in the middle of all cases, as time goes on.
std::string distances_over_time(const Trials& t, const report::Ground& g) {
  Drawing d = report::sheet(fmt::format("{} over time", cases_in_words(t)),
                            "Distance from the best in the middle of all cases; steps of both axes "
                            "are ten times the last",
                            g);
  const auto [first, last] = report::times_of(t);
  const report::TimeAxis time(first, last, kLeft, kRight);
  double least = 1.0, most = 1e-3;
  for (const Attempt& a : t.attempts)
    if (const auto x = distance(t, a); x && std::isfinite(*x) && *x > 1e-9) {
      least = std::min(least, *x);
      most = std::max(most, *x);
    }
  const report::DistanceAxis axis(least, most, kBottom - 6.0, kTop);
  for (const auto& tick : axis.ticks()) {
    d.line({kLeft, tick.at}, {kRight, tick.at}, g.faint, 1.0);
    d.text({kLeft - 8.0, tick.at + 4.5}, tick.words, 13.0, g.soft, Drawing::Side::right);
  }
  time.draw(d, kBottom, g);
  std::vector<WayLine> lines;
  std::vector<std::string> without;
  for (const std::string& way : t.ways) {
    std::vector<const Attempt*> mine;
    std::vector<double> times;
    for (const Attempt& a : t.attempts) {
      if (a.way != way || a.run > 1 || a.refused || !distance(t, a)) continue;
      mine.push_back(&a);
      if (a.found)
        for (const auto& [when, v] : a.better) times.push_back(when);
    }
    if (mine.empty()) continue;
    std::ranges::sort(times);
    WayLine l{way, {{kLeft, axis.at(HUGE_VAL)}}, number_of(t, way)};
    constexpr std::size_t kMost = 400;
    const std::size_t stride = std::max<std::size_t>(1, times.size() / kMost);
    for (std::size_t k = 0; k < times.size(); k += stride) {
      const double now = times[std::min(k + stride - 1, times.size() - 1)];
      std::vector<double> there;
      for (const Attempt* a : mine) {
        const auto c = std::ranges::find(t.cases, a->of, &TrialCaseAnswer::name);
        const auto v = a->found ? value_at(*a, now) : std::nullopt;
        there.push_back(v ? share_of(*v, *c) : HUGE_VAL);
      }
      std::ranges::nth_element(there,
                               there.begin() + static_cast<std::ptrdiff_t>(there.size() / 2));
      l.spots.push_back({time.at(now), axis.at(there[there.size() / 2])});
    }
    l.spots.push_back({kRight, l.spots.back().y});
    if (l.spots.back().y <= kTop)
      without.push_back(way);
    else
      lines.push_back(std::move(l));
  }
  report::draw_lines(d, std::move(lines), kRight, kTop, kBottom - 4.0, g);
  report::tell_left_out(d, "no plan on most cases", without, kLeft, 1240.0, g);
  return std::move(d).finish();
}

}  // namespace

std::string trials_time_figure(const Trials& t, const DrawOptions& options) {
  need_something(t);
  const report::Ground& g = report::ground(options.dark);
  return t.cases.size() == 1 ? values_over_time(t, g) : distances_over_time(t, g);
}

std::string trials_distance_figure(const Trials& t, const DrawOptions& options) {
  need_something(t);
  const report::Ground& g = report::ground(options.dark);
  Drawing d = report::sheet(
      fmt::format("{}: how far from the best", cases_in_words(t)),
      t.runs > 1 ? "One dot for each case and run, a bar in the middle of them"
                 : "One dot for each case, a bar in the middle of them; nearest first",
      g);
  std::map<std::string, std::vector<double>> dots;
  double least = 1.0, most = 1e-3;
  for (const Attempt& a : t.attempts)
    if (const auto x = distance(t, a)) {
      dots[a.way].push_back(*x);
      if (std::isfinite(*x) && *x > 1e-9) {
        least = std::min(least, *x);
        most = std::max(most, *x);
      }
    }
  std::vector<WayStanding> order = standings(t);
  std::erase_if(order, [&](const WayStanding& s) { return !dots.contains(s.way); });
  std::ranges::stable_sort(order, [](const WayStanding& a, const WayStanding& b) {
    return a.without != b.without ? a.without < b.without : a.mean < b.mean;
  });
  constexpr double kNames = 230.0, kEnd = 1230.0;
  const report::DistanceAxis axis(least, most, kNames + 30.0, kEnd - 40.0);
  const double height = std::min(70.0, (kBottom - kTop) / static_cast<double>(order.size()));
  const double bottom = kTop + height * static_cast<double>(order.size());
  for (const auto& tick : axis.ticks()) {
    d.line({tick.at, kTop}, {tick.at, bottom}, g.faint, 1.0);
    d.text({tick.at, bottom + 20.0}, tick.words, 13.0, g.soft, Drawing::Side::middle);
  }
  for (std::size_t k = 0; k < order.size(); ++k) {
    const double y = kTop + height * (static_cast<double>(k) + 0.5);
    const char* colour = order[k].way == "exact" ? g.second : g.first;
    d.text({kNames, y + 4.5}, report::fitted(order[k].way, 13.5, 200.0), 13.5, g.ink,
           Drawing::Side::right);
    std::vector<double>& all = dots[order[k].way];
    std::ranges::sort(all);
    const double middle = axis.at(all[all.size() / 2]);
    d.line({middle, y - 0.42 * height}, {middle, y + 0.42 * height}, g.ink, 2.0);
    // Dots on one spot stand above each other, as far as the row goes.
    std::map<int, int> taken;
    const double step = std::min(5.0, 0.7 * height / 6.0);
    for (const double x : all) {
      const double px = axis.at(x);
      const int there = taken[static_cast<int>(px / 6.0)]++;
      const double up = (there % 2 == 0 ? 1.0 : -1.0) * step * static_cast<double>((there + 1) / 2);
      d.dot({px, y + std::clamp(up, -0.4 * height, 0.4 * height)}, 3.2, colour, g.paper);
    }
  }
  return std::move(d).finish();
}

// Dolan and More 2002, "Benchmarking optimization software with performance profiles", with time in
// place of ratios to the fastest.
std::string trials_share_figure(const Trials& t, double within, const DrawOptions& options) {
  need_something(t);
  if (!(within >= 0.0) || !std::isfinite(within))
    throw UsageError("near the best is a share from 0 up");
  const report::Ground& g = report::ground(options.dark);
  Drawing d = report::sheet(
      fmt::format("{}: how many are near the best", cases_in_words(t)),
      fmt::format("Share of cases {} after which time; the time axis in steps of ten",
                  within == 0.0 ? "at the best" : "within " + percent(within) + " of the best"),
      g);
  const auto [first, last] = report::times_of(t);
  const report::TimeAxis time(first, last, kLeft, kRight);
  const auto y = [](double share) { return kBottom - 6.0 - share * (kBottom - 6.0 - kTop); };
  for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
    d.line({kLeft, y(share)}, {kRight, y(share)}, g.faint, 1.0);
    d.text({kLeft - 8.0, y(share) + 4.5}, fmt::format("{:.0f} %", 100.0 * share), 13.0, g.soft,
           Drawing::Side::right);
  }
  time.draw(d, kBottom, g);
  std::vector<WayLine> lines;
  std::vector<std::string> never;
  for (const std::string& way : t.ways) {
    std::vector<double> times;
    double all = 0.0;
    for (const Attempt& a : t.attempts) {
      if (a.way != way || a.refused || !distance(t, a)) continue;
      all += 1.0;
      if (const auto when = seconds_within(t, a, within)) times.push_back(*when);
    }
    if (all == 0.0) continue;
    if (times.empty()) {
      never.push_back(way);
      continue;
    }
    std::ranges::sort(times);
    WayLine l{way, {{kLeft, y(0.0)}}, number_of(t, way)};
    for (std::size_t k = 0; k < times.size(); ++k)
      l.spots.push_back({time.at(times[k]), y(static_cast<double>(k + 1) / all)});
    l.spots.push_back({kRight, l.spots.back().y});
    lines.push_back(std::move(l));
  }
  report::draw_lines(d, std::move(lines), kRight, kTop, kBottom - 4.0, g);
  report::tell_left_out(d, "as near on no case", never, kLeft, 1240.0, g);
  return std::move(d).finish();
}

}  // namespace kiteknot
