#include "report/drawing/drawing.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <string_view>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/forms/page_writer.hpp"

namespace kiteknot::report {

const char* colours::of_number(std::size_t number) {
  static constexpr std::array<const char*, kNumber> kCords = {
      "#2f6f8f", "#c2553a", "#5d7f3b", "#8a5a83", "#b98a1f", "#3f8f7d", "#74503a", "#5560a0"};
  return kCords[number % kCords.size()];
}

const Ground& ground(bool dark) {
  static constexpr Ground kLight = {"#fbfaf5", "#23303a", "#5b6770", "#d9d5c7", "#e3ecef",
                                    "#1f5a7a", "#d98a3d", "#4d7a2e", "#b3402a"};
  static constexpr Ground kDark = {"#182127", "#ece7d9", "#a9b1b3", "#3f4c54", "#26404d",
                                   "#8fcbe6", "#c9772c", "#a7cc7d", "#ee9378"};
  return dark ? kDark : kLight;
}

Drawing::Drawing(double width, double height) : Drawing(width, height, ground(false)) {
  ink_ = colours::kInk;
}

Drawing::Drawing(double width, double height, const Ground& ground)
    : text_(fmt::format("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:g}\" "
                        "height=\"{1:g}\" viewBox=\"0 0 {0:g} {1:g}\" font-family=\"DejaVu Sans, "
                        "sans-serif\">\n<rect width=\"{0:g}\" height=\"{1:g}\" fill=\"{2}\"/>\n",
                        width, height, ground.paper)),
      ink_(ground.ink),
      paper_(ground.paper) {}

void Drawing::dashes(Spot from, Spot to, const char* colour, double width, bool dots) {
  text_ += fmt::format(
      "<line x1=\"{:.1f}\" y1=\"{:.1f}\" x2=\"{:.1f}\" y2=\"{:.1f}\" stroke=\"{}\" "
      "stroke-width=\"{:g}\" stroke-dasharray=\"{}\"/>\n",
      from.x, from.y, to.x, to.y, colour, width, dots ? "2 4" : "7 5");
}

void Drawing::box(const Area& area, const char* fill, const char* edge, double width) {
  text_ +=
      fmt::format("<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"{:.1f}\" fill=\"{}\"",
                  area.left, area.top, area.width, area.height, fill);
  if (edge != nullptr) text_ += fmt::format(" stroke=\"{}\" stroke-width=\"{:g}\"", edge, width);
  text_ += "/>\n";
}

void Drawing::text_upward(Spot at, const std::string& words, double size, const char* colour) {
  text_ += fmt::format(
      "<text x=\"{0:.1f}\" y=\"{1:.1f}\" font-size=\"{2:g}\" fill=\"{3}\" "
      "transform=\"rotate(-90 {0:.1f} {1:.1f})\">{4}</text>\n",
      at.x, at.y, size, colour, for_html(words));
}

void Drawing::line(Spot from, Spot to, const char* colour, double width) {
  text_ += fmt::format(
      "<line x1=\"{:.1f}\" y1=\"{:.1f}\" x2=\"{:.1f}\" y2=\"{:.1f}\" stroke=\"{}\" "
      "stroke-width=\"{:g}\" stroke-linecap=\"round\"/>\n",
      from.x, from.y, to.x, to.y, colour, width);
}

void Drawing::path(const std::vector<Spot>& spots, bool closed, const char* colour, double width,
                   const char* fill) {
  if (spots.empty()) return;
  text_ += "<path d=\"";
  for (std::size_t k = 0; k < spots.size(); ++k)
    text_ += fmt::format("{}{:.1f} {:.1f}", k == 0 ? "M" : " L", spots[k].x, spots[k].y);
  text_ += fmt::format(
      "{}\" fill=\"{}\" stroke=\"{}\" stroke-width=\"{:g}\" stroke-linejoin=\"round\"/>\n",
      closed ? " Z" : "", fill, colour, width);
}

void Drawing::text_over(Spot at, const std::string& words, double size, const char* colour,
                        Side side, bool bold) {
  const std::size_t from = text_.size();
  text(at, words, size, colour, side, bold);
  constexpr std::string_view kTag = "<text ";
  text_.insert(text_.find(kTag, from) + kTag.size(),
               fmt::format("paint-order=\"stroke\" stroke=\"{}\" stroke-width=\"3.5\" "
                           "stroke-linejoin=\"round\" ",
                           paper_));
}

void Drawing::shape(const std::string& data, const char* colour, double width, const char* fill) {
  text_ += fmt::format(
      "<path d=\"{}\" fill=\"{}\" stroke=\"{}\" stroke-width=\"{:g}\" "
      "stroke-linejoin=\"round\"/>\n",
      data, fill, colour, width);
}

void Drawing::dot(Spot at, double radius, const char* fill, const char* edge) {
  text_ += fmt::format("<circle cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"{:g}\" fill=\"{}\"", at.x, at.y,
                       radius, fill);
  if (edge != nullptr) text_ += fmt::format(" stroke=\"{}\" stroke-width=\"1.5\"", edge);
  text_ += "/>\n";
}

void Drawing::text(Spot at, const std::string& words, double size, const char* colour, Side side,
                   bool bold) {
  static constexpr std::array<const char*, 3> kAnchors = {"start", "middle", "end"};
  text_ += fmt::format(
      "<text x=\"{:.1f}\" y=\"{:.1f}\" font-size=\"{:g}\" fill=\"{}\" text-anchor=\"{}\"{}>{}"
      "</text>\n",
      at.x, at.y, size, colour, kAnchors[static_cast<std::size_t>(side)],
      bold ? " font-weight=\"bold\"" : "", for_html(words));
}

std::string Drawing::finish() && {
  text_ += "</svg>\n";
  return std::move(text_);
}

double width_of_words(const std::string& words, double size) {
  double letters = 0.0;  // in sizes; a little more than most letters take
  for (const char c : words) {
    if ((static_cast<unsigned char>(c) & 0xC0U) == 0x80U) continue;
    constexpr std::string_view kNarrow = "ijlftr.,:;'|!()[] -I1";
    const bool wide = std::string_view("mwMW@%").find(c) != std::string_view::npos;
    letters += wide                                        ? 0.98
               : kNarrow.find(c) != std::string_view::npos ? 0.40
               : c >= 'A' && c <= 'Z'                      ? 0.70
                                                           : 0.63;
  }
  return size * letters;
}

std::string brief_figure(double value) {
  if (value == 0.0) return "0";
  if (!std::isfinite(value)) return figure(value);
  constexpr int kDigits = 6;
  const int before = 1 + static_cast<int>(std::floor(std::log10(std::abs(value))));
  const auto brief =
      Rational::parse(fmt::format("{:.{}f}", value, std::clamp(kDigits - before, 0, kDigits)));
  return brief ? figure(*brief) : figure(value);
}

std::string fitted(const std::string& words, double size, double width) {
  if (width_of_words(words, size) <= width) return words;
  std::string out;
  for (std::size_t at = 0; at < words.size();) {
    std::size_t next = at + 1;
    while (next < words.size() && (static_cast<unsigned char>(words[next]) & 0xC0U) == 0x80U)
      ++next;
    const std::string longer = out + words.substr(at, next - at);
    if (width_of_words(longer + "...", size) > width) break;
    out = longer;
    at = next;
  }
  while (!out.empty() && out.back() == ' ') out.pop_back();
  return out + "...";
}

MapFrame::MapFrame(const std::vector<double>& x, const std::vector<double>& y, double stretch,
                   const Area& area)
    : stretch_(stretch) {
  if (x.empty()) return;
  const auto [x0, x1] = std::ranges::minmax(x);
  const auto [y0, y1] = std::ranges::minmax(y);
  low_x_ = x0 * stretch;
  low_y_ = y0;
  const double across = (x1 - x0) * stretch, up = y1 - y0;
  scale_ = std::min(across > 0.0 ? area.width / across : area.width,
                    up > 0.0 ? area.height / up : area.height);
  left_ = area.left + (area.width - across * scale_) / 2.0;
  bottom_ = area.top + area.height - (area.height - up * scale_) / 2.0;
}

// How many lines go through the box.
int Labels::crossings(const Area& box) const {
  int count = 0;
  for (const auto& [p, q] : lines_) {
    // Liang and Barsky 1984, "A new concept and method for line clipping".
    double from = 0.0, to = 1.0;
    const double dx = q.x - p.x, dy = q.y - p.y;
    bool inside = true;
    for (const auto& [along, room] : {std::pair{-dx, p.x - box.left},
                                      {dx, box.left + box.width - p.x},
                                      {-dy, p.y - box.top},
                                      {dy, box.top + box.height - p.y}}) {
      if (along == 0.0) {
        inside = inside && room >= 0.0;
      } else if (along < 0.0) {
        from = std::max(from, room / along);
      } else {
        to = std::min(to, room / along);
      }
    }
    if (inside && from < to) ++count;
  }
  return count;
}

// How many other marks are as near as their own.
int Labels::others_near(const Area& box, Spot own) const {
  constexpr double kNear = 11.0;
  const Area wide{box.left - kNear, box.top - kNear, box.width + 2.0 * kNear,
                  box.height + 2.0 * kNear};
  return static_cast<int>(std::count_if(marks_.begin(), marks_.end(), [&](const Spot& mark) {
    return (mark.x != own.x || mark.y != own.y) && wide.meets({mark.x, mark.y, 0.01, 0.01});
  }));
}

namespace {

// The left end of the base line of words beside a spot.
struct Beside {
  double x, y;
};
std::array<Beside, 8> ways_beside(Spot at, double away, double width, double size) {
  const double up = 0.8 * size, near = 0.7 * away;  // nearer across the corners
  return {{{at.x + away, at.y + 0.35 * size},
           {at.x - away - width, at.y + 0.35 * size},
           {at.x - width / 2.0, at.y - away},
           {at.x - width / 2.0, at.y + away + up},
           {at.x + near, at.y - near},
           {at.x - near - width, at.y - near},
           {at.x + near, at.y + near + up},
           {at.x - near - width, at.y + near + up}}};
}

}  // namespace

bool Labels::place(Drawing& drawing, Spot at, double radius, const std::string& words, double size,
                   bool whatever_it_crosses, bool bold) {
  constexpr double kBold = 1.08, kSecond = 9.0;  // further away, where nothing nearer is free
  const double width = width_of_words(words, size) * (bold ? kBold : 1.0), gap = radius + 3.0;
  int least = whatever_it_crosses ? 100'000 : 2;
  std::optional<Beside> best;
  Area best_box;
  for (const double more : {0.0, kSecond})
    for (const Beside& way : ways_beside(at, gap + more, width, size)) {
      const Area box{way.x - 1.0, way.y - 0.8 * size, width + 2.0, size};
      if (!area_.holds(box) ||
          std::any_of(taken_.begin(), taken_.end(), [&](const Area& t) { return t.meets(box); }))
        continue;
      constexpr int kCrossing = 3;  // is worse than another mark nearby
      const int count = kCrossing * crossings(box) + others_near(box, at) + (more > 0.0 ? 1 : 0);
      if (count >= least) continue;
      least = count;
      best = way;
      best_box = box;
    }
  if (!best) return false;
  taken_.push_back(best_box);
  drawing.text_over({best->x, best->y}, words, size, drawing.ink(), Drawing::Side::left, bold);
  return true;
}

}  // namespace kiteknot::report
