#include "report/drawing/trials_axes.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot::report {
namespace {

std::string tick_words(double seconds) {
  return seconds < 1e-3 ? fmt::format("{:.3g} ms", 1e3 * seconds) : duration(seconds);
}

}  // namespace

TimeAxis::TimeAxis(double first, double last, double left, double right)
    : first_(first), last_(std::max(last, 10.0 * first)), left_(left), right_(right) {}

double TimeAxis::at(double seconds) const {
  const double share = std::log(std::max(seconds, first_) / first_) / std::log(last_ / first_);
  return left_ + std::min(1.0, share) * (right_ - left_);
}

void TimeAxis::draw(Drawing& d, double y, const Ground& g) const {
  d.line({left_, y}, {right_, y}, g.soft, 1.0);
  const int last = static_cast<int>(std::floor(std::log10(last_) + 1e-9));
  for (int power = static_cast<int>(std::ceil(std::log10(first_) - 1e-9)); power <= last; ++power) {
    const double x = at(std::pow(10.0, power));
    d.line({x, y}, {x, y + 5.0}, g.soft, 1.0);
    d.text({x, y + 20.0}, tick_words(std::pow(10.0, power)), 13.0, g.soft, Drawing::Side::middle);
  }
}

DistanceAxis::DistanceAxis(double least, double most, double from, double to)
    : least_(std::pow(10.0, std::floor(std::log10(std::max(least, 1e-6))))),
      most_(std::pow(10.0, std::ceil(std::log10(std::max(most, 1e-3))))),
      from_(from),
      to_(to) {
  if (most_ <= least_) least_ = most_ / 10.0;
}

// A tenth of the axis is kept for "at the best", another for "no plan".
double DistanceAxis::at(double distance) const {
  constexpr double kEnds = 0.1, kNothing = 1e-9;
  double share = 0.0;
  if (std::isinf(distance))
    share = 1.0;
  else if (distance > kNothing)
    share =
        kEnds + (1.0 - 2.0 * kEnds) *
                    std::clamp(std::log(distance / least_) / std::log(most_ / least_), 0.0, 1.0);
  return from_ + share * (to_ - from_);
}

std::vector<DistanceAxis::Tick> DistanceAxis::ticks() const {
  std::vector<Tick> all = {{at(0.0), "best"}};
  for (double d = least_; d <= most_ * 1.001; d *= 10.0)
    all.push_back({at(d), fmt::format("{:.6g} %", 100.0 * d)});
  all.push_back({at(HUGE_VAL), "no plan"});
  return all;
}

void draw_lines(Drawing& d, std::vector<WayLine> lines, double right, double top, double bottom,
                const Ground& g) {
  constexpr double kApart = 16.0;
  std::ranges::stable_sort(lines, {}, [](const WayLine& l) { return l.spots.back().y; });
  std::vector<double> names;
  for (const WayLine& l : lines)
    names.push_back(std::max(l.spots.back().y, names.empty() ? top : names.back() + kApart));
  // What was pushed below the bottom pushes back.
  double limit = bottom;
  for (std::size_t k = names.size(); k-- > 0;) {
    names[k] = std::min(names[k], limit);
    limit = names[k] - kApart;
  }
  for (std::size_t k = 0; k < lines.size(); ++k) {
    const WayLine& l = lines[k];
    const char* colour = colours::of_number(l.number);
    std::vector<Spot> steps;
    for (const Spot& s : l.spots) {
      if (!steps.empty()) steps.push_back({s.x, steps.back().y});
      steps.push_back(s);
    }
    // There are eight colours: whoever comes round again is dashed, with a ring before the name.
    const bool again = l.number >= colours::kNumber;
    if (again)
      for (std::size_t s = 1; s < steps.size(); ++s) d.dashes(steps[s - 1], steps[s], colour, 2.2);
    else
      d.path(steps, false, colour, 2.2);
    d.line({right, l.spots.back().y}, {right + 12.0, names[k]}, colour, 1.0);
    d.text({right + 18.0, names[k] + 4.5}, l.name, 13.0, g.ink);
    if (again)
      d.dot({right + 12.0, names[k]}, 3.4, g.paper, colour);
    else
      d.dot({right + 12.0, names[k]}, 3.4, colour);
  }
}

void tell_left_out(Drawing& d, const std::string& why, const std::vector<std::string>& names,
                   double left, double right, const Ground& g) {
  if (names.empty()) return;
  d.text({left, 770.0}, fitted(why + ": " + listed(names, names.size()), 13.0, right - left), 13.0,
         g.soft);
}

std::pair<double, double> times_of(const Trials& trials) {
  double first = HUGE_VAL, last = 0.0;
  for (const Attempt& a : trials.attempts) {
    last = std::max(last, a.seconds);
    for (const auto& [seconds, value] : a.better)
      if (seconds > 0.0) first = std::min(first, seconds);
  }
  constexpr double kLeast = 1e-5;
  first = std::max(kLeast, std::min(first, last));
  return {first, std::max(last, 10.0 * first)};
}

}  // namespace kiteknot::report
