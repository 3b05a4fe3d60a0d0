#include "report/drawing/search_lines.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace kiteknot::report {

SearchLines search_lines(const std::vector<Progress>& progress, double seconds) {
  SearchLines lines;
  if (!std::isfinite(seconds)) seconds = 0.0;  // of an answer that was put together by hand
  const auto add = [&](std::vector<LinePoint>& line, double time,
                       const std::optional<double>& value, const std::string& found_by) {
    if (!value || !std::isfinite(*value) || !std::isfinite(time) ||
        (!line.empty() && line.back().value == *value))
      return;
    line.push_back({time, *value, found_by});
    lines.low = std::min(lines.low, *value);
    lines.high = std::max(lines.high, *value);
    if (time > 0.0) lines.first = std::min(lines.first, time);
  };
  for (const Progress& p : progress) {
    add(lines.plans, p.seconds, p.best, p.found_by);
    add(lines.bounds, p.seconds, p.bound, "");
  }
  lines.first = std::min(lines.first, seconds);
  lines.end = seconds;
  return lines;
}

std::string step_path(const std::vector<LinePoint>& line, double end, const Scale& x,
                      const Scale& y) {
  std::string d;
  for (std::size_t k = 0; k < line.size(); ++k) {
    d += k == 0 ? fmt::format("M{:.1f} {:.1f}", x(line[k].time), y(line[k].value))
                : fmt::format("H{:.1f}V{:.1f}", x(line[k].time), y(line[k].value));
  }
  return d + fmt::format("H{:.1f}", x(end));
}

std::string open_path(const SearchLines& lines, const Scale& x, const Scale& y) {
  const double from = std::max(lines.plans[0].time, lines.bounds[0].time);
  const auto since = [&](const std::vector<LinePoint>& line) {
    std::vector<LinePoint> out;
    for (const LinePoint& p : line) {
      if (p.time <= from) out.clear();
      out.push_back({std::max(p.time, from), p.value, ""});
    }
    return out;
  };
  const std::vector<LinePoint> bounds = since(lines.bounds);
  std::string d = step_path(since(lines.plans), lines.end, x, y);
  for (std::size_t k = bounds.size(); k-- > 0;)
    d += fmt::format("V{:.1f}H{:.1f}", y(bounds[k].value), x(bounds[k].time));
  return d + "Z";
}

}  // namespace kiteknot::report
