#include "report/drawing/contours.hpp"

#include <algorithm>
#include <cmath>
#include <deque>
#include <unordered_map>

namespace kiteknot::report {

SeenOverGrid::SeenOverGrid(const PlaneWindow& window, int across, int up,
                           const std::function<double(double, double)>& value)
    : window_(window), across_(across), up_(up) {
  for (int j = 0; j <= up; ++j)
    for (int i = 0; i <= across; ++i)
      value_.push_back(value(window.low_x + (window.high_x - window.low_x) * i / across,
                             window.low_y + (window.high_y - window.low_y) * j / up));
}

double SeenOverGrid::quantile(double part) const {
  std::vector<double> known;
  for (const double v : value_)
    if (std::isfinite(v)) known.push_back(v);
  if (known.empty()) return std::nan("");
  const auto place = static_cast<std::ptrdiff_t>(part * static_cast<double>(known.size() - 1));
  std::nth_element(known.begin(), known.begin() + place, known.end());
  return known[static_cast<std::size_t>(place)];
}

// Edges are numbered by the corner at their lower left end: 2 k along, 2 k + 1 upward.
std::vector<std::vector<Spot>> SeenOverGrid::contour(double level) const {
  std::unordered_map<int, Spot> crossing;
  std::unordered_map<int, std::vector<int>> next;
  const auto cross = [&](int i, int j, bool upward) {
    const int edge = 2 * (j * (across_ + 1) + i) + (upward ? 1 : 0);
    const double a = at(i, j), b = upward ? at(i, j + 1) : at(i + 1, j);
    const double t = a == b ? 0.5 : std::clamp((level - a) / (b - a), 0.0, 1.0);
    const double x = i + (upward ? 0.0 : t), y = j + (upward ? t : 0.0);
    crossing[edge] = {window_.low_x + (window_.high_x - window_.low_x) * x / across_,
                      window_.low_y + (window_.high_y - window_.low_y) * y / up_};
    return edge;
  };
  const auto join = [&](int a, int b) {
    next[a].push_back(b);
    next[b].push_back(a);
  };
  for (int j = 0; j < up_; ++j)
    for (int i = 0; i < across_; ++i) {
      const double corner[] = {at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)};
      if (!std::ranges::all_of(corner, [](double v) { return std::isfinite(v); })) continue;
      bool above[4];
      for (int c = 0; c < 4; ++c) above[c] = corner[c] >= level;
      std::vector<int> edges;
      if (above[0] != above[1]) edges.push_back(cross(i, j, false));
      if (above[1] != above[2]) edges.push_back(cross(i + 1, j, true));
      if (above[2] != above[3]) edges.push_back(cross(i, j + 1, false));
      if (above[3] != above[0]) edges.push_back(cross(i, j, true));
      if (edges.size() == 2) join(edges[0], edges[1]);
      if (edges.size() != 4) continue;
      // A saddle: its middle says which corners belong together.
      const bool middle = (corner[0] + corner[1] + corner[2] + corner[3]) / 4.0 >= level;
      const bool first = middle == above[0];
      join(edges[0], edges[first ? 1 : 3]);
      join(edges[2], edges[first ? 3 : 1]);
    }
  std::vector<std::vector<Spot>> lines;
  std::unordered_map<int, bool> used;
  std::vector<int> order;
  for (const auto& [edge, joined] : next) order.push_back(edge);
  std::ranges::sort(order);
  for (const int begin : order) {
    if (used[begin]) continue;
    std::deque<int> way{begin};
    used[begin] = true;
    for (const bool front : {true, false})
      for (bool on = true; on;) {
        on = false;
        for (const int n : next[front ? way.front() : way.back()]) {
          if (used[n]) continue;
          used[n] = true;
          if (front)
            way.push_front(n);
          else
            way.push_back(n);
          on = true;
          break;
        }
      }
    std::vector<Spot> line;
    for (const int edge : way) line.push_back(crossing[edge]);
    const bool closed = way.size() > 2 &&
                        std::ranges::find(next[way.front()], way.back()) != next[way.front()].end();
    if (closed) line.push_back(line.front());
    if (line.size() > 1) lines.push_back(std::move(line));
  }
  return lines;
}

}  // namespace kiteknot::report
