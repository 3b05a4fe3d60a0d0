// What takes turns, over time: a lane for each machine, a bar from where a task begins to where the
// next one may.

#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "report/drawing/machine_lanes.hpp"
#include "report/drawing/plan_pictures.hpp"

namespace kiteknot::report {
namespace {

// A step of 1, 2 or 5 times a power of ten, with so many of them at most.
double tick_step(double range, int most) {
  double step = std::pow(10.0, std::floor(std::log10(range / most)));
  for (const double by : {1.0, 2.0, 5.0, 10.0})
    if (range / (step * by) <= most) return step * by;
  return 10.0 * step;
}

}  // namespace

std::string draw_times(const PlanPicture& p, const std::vector<Lane>& lanes) {
  constexpr double kNames = 150.0, kTallest = 120.0, kText = 13.5, kStripe = 5.0;
  Drawing& d = p.drawing;
  double first = 0.0, last = 0.0;
  bool any = false;
  std::map<std::string, std::size_t> number;  // of labels, for colours
  for (const Lane& lane : lanes)
    for (const Lane::Task& task : lane.tasks) {
      const double begin = p.value(task.member).to_double(), end = begin + task.takes;
      first = any ? std::min(first, begin) : begin;
      last = any ? std::max(last, end) : end;
      any = true;
      number.emplace(task.label, number.size());
    }
  const double range = std::max(last - first, 1e-9);
  const double left = p.area.left + kNames, width = p.area.width - kNames;
  const auto x = [&](double time) { return left + (time - first) / range * width; };
  const double row = std::min(kTallest, (p.area.height - 30.0) / static_cast<double>(lanes.size()));
  const double top = p.area.top + 6.0, bottom = top + row * static_cast<double>(lanes.size());
  constexpr int kMostTicks = 12;
  const double step = tick_step(range, kMostTicks);
  for (double t = std::ceil(first / step) * step; t <= last + 1e-9 * range; t += step) {
    d.line({x(t), top}, {x(t), bottom + 4.0}, p.ground.faint, 1.0);
    d.text({x(t), bottom + 20.0}, brief_figure(t == 0.0 ? 0.0 : t), kText, p.ground.soft,
           Drawing::Side::middle);
  }
  for (std::size_t k = 0; k < lanes.size(); ++k) {
    const Lane& lane = lanes[k];
    const double y = top + row * static_cast<double>(k), height = 0.76 * row;
    const double text_size = std::min(kText, 0.8 * row), base = y + 0.5 * row + 0.36 * text_size;
    d.text({left - 12.0, base},
           fitted(lane.name.empty() ? fmt::format("{}", k + 1) : lane.name, 1.1 * text_size,
                  kNames - 16.0),
           1.1 * text_size, p.ground.ink, Drawing::Side::right, true);
    for (const Lane::Task& task : lane.tasks) {
      const double begin = p.value(task.member).to_double();
      const Area bar{x(begin), y + 0.12 * row, std::max(1.0, x(begin + task.takes) - x(begin)),
                     height};
      d.box(bar, p.ground.shade, p.ground.soft);
      d.box({bar.left, bar.top, std::min(kStripe, bar.width), bar.height},
            colours::of_number(number[task.label]));
      const double room = bar.width - kStripe - 6.0;
      const std::string words = fitted(task.label, text_size, room);
      if (room > text_size && !words.empty())
        d.text({bar.left + kStripe + 4.0, base}, words, text_size, p.ground.ink);
    }
  }
  return fmt::format(
      "Over time, one thing at a time in each row; a bar ends where the next one may "
      "begin. From {} to {}",
      brief_figure(first), brief_figure(last));
}

}  // namespace kiteknot::report
