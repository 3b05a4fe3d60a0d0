#include "report/drawing/plane.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/drawing/contours.hpp"

namespace kiteknot::report {
namespace {

constexpr double kFar = 1e7;  // beyond any window

// What stays of a polygon on the side a x + b y <= c.
std::vector<Spot> clipped(const std::vector<Spot>& corners, double a, double b, double c) {
  std::vector<Spot> out;
  for (std::size_t k = 0; k < corners.size(); ++k) {
    const Spot& p = corners[k];
    const Spot& q = corners[(k + 1) % corners.size()];
    const double up = a * p.x + b * p.y - c, uq = a * q.x + b * q.y - c;
    if (up <= 0.0) out.push_back(p);
    if ((up < 0.0 && uq > 0.0) || (up > 0.0 && uq < 0.0)) {
      const double t = up / (up - uq);
      out.push_back({p.x + t * (q.x - p.x), p.y + t * (q.y - p.y)});
    }
  }
  return out;
}

// The part of the line a x + b y = c inside the window.
std::optional<std::pair<Spot, Spot>> line_in(double a, double b, double c, const PlaneWindow& w) {
  std::vector<Spot> ends;
  const auto add = [&](double x, double y) {
    const double room_x = 1e-9 * (w.high_x - w.low_x), room_y = 1e-9 * (w.high_y - w.low_y);
    if (x < w.low_x - room_x || x > w.high_x + room_x || y < w.low_y - room_y ||
        y > w.high_y + room_y)
      return;
    for (const Spot& e : ends)
      if (std::abs(e.x - x) <= room_x && std::abs(e.y - y) <= room_y) return;
    ends.push_back({x, y});
  };
  if (b != 0.0)
    for (const double x : {w.low_x, w.high_x}) add(x, (c - a * x) / b);
  if (a != 0.0)
    for (const double y : {w.low_y, w.high_y}) add((c - b * y) / a, y);
  if (ends.size() < 2) return std::nullopt;
  return std::pair{ends[0], ends[1]};
}

// 1, 2 or 5 times a power of ten, so that about so many steps fill the width.
double step_of(double width, double many, bool whole) {
  const double rough = width / many;
  const double power = std::pow(10.0, std::floor(std::log10(rough)));
  double step = power;
  for (const double by : {2.0, 5.0, 10.0})
    if (step < rough) step = by * power;
  return whole ? std::max(1.0, step) : step;
}

// The multiples of a step from one end to the other.
std::vector<double> ticks(double low, double high, double step) {
  std::vector<double> out;
  const double first = std::ceil(low / step);
  constexpr double kMostTicks = 1000.0;
  if (!(std::abs(high / step - first) < kMostTicks)) return out;
  const int count = static_cast<int>(std::floor(high / step) - first) + 1;
  for (int k = 0; k < count; ++k) out.push_back((first + k) * step);
  return out;
}

// Words that stand somewhere along a line.
struct Along {
  std::string words;
  std::vector<Spot> line;
};

class PlaneDrawer {
 public:
  PlaneDrawer(Drawing& drawing, const Area& area, const PlaneScene& scene,
              const PlaneWindow& window, const PlaneLook& look, const Ground& ground)
      : d_(drawing),
        area_(area),
        s_(scene),
        w_(window),
        look_(look),
        g_(ground),
        labels_({area.left + 4.0, area.top + 4.0, area.width - 8.0, area.height - 8.0}) {}

  void draw() {
    region();
    d_.box(area_, "none", g_.faint);
    axes();
    listed_values();
    levels();
    rows();
    curves();
    dots();
    goal();
    marks();
    names();
  }

 private:
  [[nodiscard]] Spot spot(double x, double y) const {
    return {area_.left + (x - w_.low_x) / (w_.high_x - w_.low_x) * area_.width,
            area_.top + area_.height - (y - w_.low_y) / (w_.high_y - w_.low_y) * area_.height};
  }

  // By the rows where they say it all; else by what holds at each point of a fine grid.
  void region() {
    if (s_.only_rows) {
      std::vector<Spot> corners = region_of(s_.rows, w_);
      for (Spot& c : corners) c = spot(c.x, c.y);
      if (corners.size() >= 2) d_.path(corners, true, g_.first, 1.0, g_.shade);
      return;
    }
    const int across = s_.cells, up = std::max(1, s_.cells * 5 / 8);
    const double width = (w_.high_x - w_.low_x) / across, height = (w_.high_y - w_.low_y) / up;
    for (int j = 0; j < up; ++j) {
      int from = -1;  // runs of cells are one box
      for (int i = 0; i <= across; ++i) {
        const bool in = i < across && s_.holds(Rational::exactly(w_.low_x + (i + 0.5) * width),
                                               Rational::exactly(w_.low_y + (j + 0.5) * height));
        if (in && from < 0) from = i;
        if (in || from < 0) continue;
        const Spot a = spot(w_.low_x + from * width, w_.low_y + (j + 1) * height),
                   b = spot(w_.low_x + i * width, w_.low_y + j * height);
        d_.box({a.x, a.y, b.x - a.x, b.y - a.y}, g_.shade);
        from = -1;
      }
    }
  }

  void axes() {
    const double size = look_.small ? 10.0 : 14.0;
    const double dx = step_of(w_.high_x - w_.low_x, look_.small ? 4.0 : 10.0, s_.x_whole);
    const double dy = step_of(w_.high_y - w_.low_y, look_.small ? 4.0 : 8.0, s_.y_whole);
    for (const double x : ticks(w_.low_x, w_.high_x, dx)) {
      const Spot at = spot(x, w_.low_y);
      d_.line({at.x, at.y}, {at.x, at.y + 4.0}, g_.soft, 1.0);
      d_.text({at.x, at.y + 6.0 + size}, figure(x), size, g_.soft, Drawing::Side::middle);
    }
    for (const double y : ticks(w_.low_y, w_.high_y, dy)) {
      const Spot at = spot(w_.low_x, y);
      d_.line({at.x - 4.0, at.y}, {at.x, at.y}, g_.soft, 1.0);
      d_.text({at.x - 7.0, at.y + 0.35 * size}, figure(y), size, g_.soft, Drawing::Side::right);
    }
  }

  void rows() {
    for (const PlaneRow& row : s_.rows) {
      for (const double c : {row.low, row.high}) {
        if (!std::isfinite(c)) continue;
        const auto ends = line_in(row.a, row.b, c, w_);
        if (!ends) continue;
        const Spot p = spot(ends->first.x, ends->first.y), q = spot(ends->second.x, ends->second.y);
        const bool added = row.kind == PlaneRow::Kind::added;
        const bool limit = row.kind == PlaneRow::Kind::limit;
        if (added)
          d_.dashes(p, q, g_.second, look_.small ? 2.0 : 2.5);
        else
          d_.line(p, q, limit ? g_.soft : g_.first, limit ? 1.2 : look_.small ? 1.4 : 2.0);
        labels_.keep_clear_of(p, q);
        if (look_.small ? added : !row.name.empty()) named_.push_back({row.name, p, q});
        if (row.low == row.high) break;
      }
    }
  }

  void listed_values() {
    for (const double x : s_.x_listed)
      if (x > w_.low_x && x < w_.high_x)
        d_.line(spot(x, w_.low_y), spot(x, w_.high_y), g_.faint, 1.0);
    for (const double y : s_.y_listed)
      if (y > w_.low_y && y < w_.high_y)
        d_.line(spot(w_.low_x, y), spot(w_.high_x, y), g_.faint, 1.0);
  }

  [[nodiscard]] std::vector<Spot> on_paper(std::vector<Spot> line) const {
    for (Spot& p : line) p = spot(p.x, p.y);
    return line;
  }

  // Edges of rules that are no sums.
  void curves() {
    for (const PlaneCurve& c : s_.curves) {
      const SeenOverGrid seen(w_, kGridAcross, kGridUp, c.room);
      bool named = look_.small;
      for (const std::vector<Spot>& line : seen.contour(0.0)) {
        const std::vector<Spot> drawn = on_paper(line);
        d_.path(drawn, false, g_.first, look_.small ? 1.4 : 2.0);
        keep_clear_of(drawn);
        if (!named) named_curves_.push_back({c.name, drawn});
        named = true;
      }
    }
  }

  // Where the goal has a round value, with that written on.
  void levels() {
    if (!s_.goal_at) return;
    const SeenOverGrid seen(w_, kGridAcross, kGridUp, s_.goal_at);
    const double low = seen.quantile(0.0), high = seen.quantile(0.9);
    if (!(low < high)) return;
    for (const double level : ticks(low, high, step_of(high - low, 9.0, false))) {
      bool told = look_.small;
      for (const std::vector<Spot>& line : seen.contour(level)) {
        const std::vector<Spot> drawn = on_paper(line);
        for (std::size_t k = 0; k + 1 < drawn.size(); ++k)
          d_.dashes(drawn[k], drawn[k + 1], g_.good, 1.2, true);
        if (!told && drawn.size() > 8) level_names_.push_back({brief_figure(level), drawn});
        told = told || drawn.size() > 8;
      }
    }
  }

  void keep_clear_of(const std::vector<Spot>& line) {
    constexpr std::size_t kStride = 4;
    for (std::size_t k = 0; k + kStride < line.size(); k += kStride)
      labels_.keep_clear_of(line[k], line[k + kStride]);
  }

  // Whole points, or where only one of both is whole its lines.
  void dots() {
    if (!s_.x_whole && !s_.y_whole) return;
    const double across = w_.high_x - w_.low_x, up = w_.high_y - w_.low_y;
    constexpr double kMost = 2500.0;
    if (s_.x_whole && s_.y_whole) {
      if ((across + 1.0) * (up + 1.0) > kMost) return;
      const double cell = std::min(area_.width / across, area_.height / up);
      const double radius = std::clamp(cell / 7.0, 1.5, look_.small ? 2.6 : 5.0);
      for (const double x : ticks(w_.low_x, w_.high_x, 1.0))
        for (const double y : ticks(w_.low_y, w_.high_y, 1.0)) {
          const bool in = s_.holds(Rational::exactly(x), Rational::exactly(y));
          d_.dot(spot(x, y), radius, in ? g_.ink : g_.paper, in ? nullptr : g_.soft);
          const Spot here = spot(x, y);
          if (in)
            labels_.keep_free({here.x - radius, here.y - radius, 2 * radius, 2 * radius});
          else
            labels_.keep_clear_of({here.x - radius, here.y}, {here.x + radius, here.y});
        }
      return;
    }
    constexpr double kMostLines = 80.0;
    if ((s_.x_whole ? across : up) > kMostLines) return;
    if (s_.x_whole)
      for (const double x : ticks(w_.low_x, w_.high_x, 1.0))
        d_.line(spot(x, w_.low_y), spot(x, w_.high_y), g_.faint, 1.0);
    else
      for (const double y : ticks(w_.low_y, w_.high_y, 1.0))
        d_.line(spot(w_.low_x, y), spot(w_.high_x, y), g_.faint, 1.0);
  }

  // Lines of one value through the optima, and the way in which it gets better.
  void goal() {
    if (s_.goal_x == 0.0 && s_.goal_y == 0.0) return;
    const PlaneMark* through = nullptr;
    for (const PlaneMark& m : s_.marks)
      if (m.kind != PlaneMark::Kind::rounded &&
          (through == nullptr || m.kind == PlaneMark::Kind::relaxed))
        through = &m;
    if (through == nullptr) return;
    const double c = s_.goal_x * through->x + s_.goal_y * through->y;
    if (const auto ends = line_in(s_.goal_x, s_.goal_y, c, w_)) {
      const Spot p = spot(ends->first.x, ends->first.y), q = spot(ends->second.x, ends->second.y);
      d_.dashes(p, q, g_.good, look_.small ? 1.4 : 1.8, true);
      labels_.keep_clear_of(p, q);
    }
    // Upright on the line as it is drawn.
    const double sx = area_.width / (w_.high_x - w_.low_x),
                 sy = area_.height / (w_.high_y - w_.low_y);
    double dx = s_.goal_x / sx, dy = -s_.goal_y / sy;
    const double length = std::hypot(dx, dy), sign = s_.maximize ? 1.0 : -1.0;
    const double size = look_.small ? 22.0 : 46.0;
    dx *= sign * size / length;
    dy *= sign * size / length;
    // It starts where there is room: in the middle of the shorter half.
    const Spot from = arrow_start(dx, dy);
    const Spot to{from.x + dx, from.y + dy};
    d_.line(from, to, g_.good, look_.small ? 1.8 : 2.6);
    const double nx = dx / size, ny = dy / size, head = look_.small ? 5.0 : 9.0;
    d_.path({{to.x + nx * head, to.y + ny * head},
             {to.x - ny * head * 0.55, to.y + nx * head * 0.55},
             {to.x + ny * head * 0.55, to.y - nx * head * 0.55}},
            true, g_.good, 1.0, g_.good);
    labels_.keep_free({std::min(from.x, to.x) - 6.0, std::min(from.y, to.y) - 6.0,
                       std::abs(dx) + 12.0, std::abs(dy) + 12.0});
    if (!look_.small)
      labels_.place(d_, to, 12.0, s_.goal + (s_.maximize ? " rises" : " falls"), 14.0, true);
  }
  // A corner of the area that lies away from the marks.
  [[nodiscard]] Spot arrow_start(double dx, double dy) const {
    const double room = look_.small ? 14.0 : 40.0;
    Spot best{area_.left + area_.width - room - std::abs(dx), area_.top + room + std::abs(dy)};
    double most = -1.0;
    for (const double fx : {0.12, 0.5, 0.85})
      for (const double fy : {0.15, 0.5, 0.85}) {
        const Spot at{area_.left + fx * area_.width, area_.top + fy * area_.height};
        const Spot end{at.x + dx, at.y + dy};
        if (!Area{area_.left + 10, area_.top + 10, area_.width - 20, area_.height - 20}.holds(
                {end.x, end.y, 1.0, 1.0}))
          continue;
        double near = 1e9;
        for (const PlaneMark& m : s_.marks) {
          const Spot p = spot(m.x, m.y);
          near = std::min(near, std::hypot(p.x - at.x, p.y - at.y));
        }
        const bool outside =
            !s_.holds || !s_.holds(Rational::exactly(w_.low_x + fx * (w_.high_x - w_.low_x)),
                                   Rational::exactly(w_.high_y - fy * (w_.high_y - w_.low_y)));
        if (outside) near *= 1.5;
        if (near > most) {
          most = near;
          best = at;
        }
      }
    return best;
  }

  void marks() {
    const double r = look_.small ? 4.0 : 7.5;
    for (const PlaneMark& m : s_.marks) {
      const Spot at = spot(m.x, m.y);
      labels_.keep_mark(at, r);
      switch (m.kind) {
        case PlaneMark::Kind::whole:
          d_.dot(at, r, g_.good, g_.ink);
          break;
        case PlaneMark::Kind::relaxed:
          d_.path({{at.x, at.y - r}, {at.x + r, at.y}, {at.x, at.y + r}, {at.x - r, at.y}}, true,
                  g_.ink, 1.5, g_.second);
          break;
        case PlaneMark::Kind::rounded:
          d_.line({at.x - 0.7 * r, at.y - 0.7 * r}, {at.x + 0.7 * r, at.y + 0.7 * r}, g_.bad, 2.2);
          d_.line({at.x - 0.7 * r, at.y + 0.7 * r}, {at.x + 0.7 * r, at.y - 0.7 * r}, g_.bad, 2.2);
          break;
      }
    }
    const double size = look_.small ? 10.5 : 14.0;
    for (const PlaneMark& m : s_.marks)
      labels_.place(d_, spot(m.x, m.y), r, m.words, size, true,
                    m.kind == PlaneMark::Kind::whole && !look_.small);
  }

  // The names of lines beside their ends, or wherever along them there is room.
  void names() {
    const double size = look_.small ? 10.5 : 13.5;
    for (const Named& n : named_) {
      for (const double t : {0.98, 0.02, 0.9, 0.1, 0.75, 0.25, 0.5, 0.6, 0.4}) {
        const Spot at{n.from.x + t * (n.to.x - n.from.x), n.from.y + t * (n.to.y - n.from.y)};
        if (labels_.place(d_, at, 4.0, n.name, size, t == 0.4)) break;
      }
    }
    for (const Along& n : named_curves_) along(n, size, true);
    for (const Along& n : level_names_) along(n, 12.0, false);
  }

  void along(const Along& n, double size, bool whatever) {
    for (const double t : {0.06, 0.94, 0.2, 0.8, 0.35, 0.65, 0.5}) {
      const auto k = static_cast<std::size_t>(t * static_cast<double>(n.line.size() - 1));
      if (labels_.place(d_, n.line[k], 4.0, n.words, size, whatever && t == 0.5)) break;
    }
  }

  static constexpr int kGridAcross = 128, kGridUp = 80;
  struct Named {
    std::string name;
    Spot from, to;
  };
  Drawing& d_;
  Area area_;
  const PlaneScene& s_;
  const PlaneWindow& w_;
  const PlaneLook& look_;
  const Ground& g_;
  Labels labels_;
  std::vector<Named> named_;
  std::vector<Along> named_curves_, level_names_;
};

}  // namespace

std::vector<Spot> region_of(const std::vector<PlaneRow>& rows, const PlaneWindow& w) {
  std::vector<Spot> corners = {
      {w.low_x, w.low_y}, {w.high_x, w.low_y}, {w.high_x, w.high_y}, {w.low_x, w.high_y}};
  for (const PlaneRow& row : rows) {
    // An equation keeps a sliver that can be seen.
    const double sliver = row.low == row.high ? 1e-9 * (1.0 + std::abs(row.high)) : 0.0;
    if (std::isfinite(row.high)) corners = clipped(corners, row.a, row.b, row.high + sliver);
    if (std::isfinite(row.low)) corners = clipped(corners, -row.a, -row.b, sliver - row.low);
  }
  return corners;
}

PlaneWindow window_of(const PlaneScene& scene) {
  std::vector<double> x, y;
  const auto add = [&](const Spot& p) {
    if (std::abs(p.x) >= kFar / 2 || std::abs(p.y) >= kFar / 2) return;
    x.push_back(p.x);
    y.push_back(p.y);
  };
  for (const Spot& corner : region_of(scene.rows, {-kFar, kFar, -kFar, kFar})) add(corner);
  for (const PlaneMark& m : scene.marks) add({m.x, m.y});
  // Where rows cross the axes, if that is not far beyond what is there.
  const auto crossing = [&](std::vector<double>& along, double coefficient, double limit) {
    if (coefficient == 0.0 || !std::isfinite(limit)) return;
    const double at = limit / coefficient;
    const double most = along.empty() ? 0.0 : *std::max_element(along.begin(), along.end());
    if (at > most && at < 1.6 * std::max(most, 1.0)) along.push_back(at);
  };
  for (const PlaneRow& row : scene.rows) {
    if (row.kind != PlaneRow::Kind::rule) continue;
    crossing(x, row.a, row.high);
    crossing(y, row.b, row.high);
  }
  for (std::vector<double>* v : {&x, &y})
    if (v->empty()) *v = {0.0, 10.0};
  const auto around = [](std::vector<double>& v, double& low, double& high) {
    const auto [a, b] = std::minmax_element(v.begin(), v.end());
    // One value, or an equation's sliver around it, stands in the middle of some room.
    const bool some = *b - *a > 1e-6 * (1.0 + std::abs(*b));
    const double room = some ? std::max(0.12 * (*b - *a), 0.4) : std::max(3.0, 0.3 * std::abs(*b));
    low = *a - room;
    high = *b + room;
  };
  PlaneWindow w;
  around(x, w.low_x, w.high_x);
  around(y, w.low_y, w.high_y);
  return w;
}

void draw_plane(Drawing& drawing, const Area& area, const PlaneScene& scene,
                const PlaneWindow& window, const PlaneLook& look, const Ground& ground) {
  PlaneDrawer(drawing, area, scene, window, look, ground).draw();
}

}  // namespace kiteknot::report
