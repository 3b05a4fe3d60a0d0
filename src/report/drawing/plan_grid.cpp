// Families of two keys as a grid: rows by one key, columns by the other.

#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/drawing/plan_pictures.hpp"
#include "report/forms/page.hpp"

namespace kiteknot::report {

std::string row_name(const TableData& table, Index row) {
  return visible(fmt::format("{}", fmt::join(table.keys_of(row), ", ")));
}

namespace {

constexpr double kLeastNamed = 9.0;  // pixels of a row or column that still has a name
constexpr double kWidestCell = 150.0, kHighestCell = 64.0;

double widest_name(const TableData& t, double size, double most) {
  double widest = 0.0;
  for (Index r = 0; r < t.num_rows(); ++r)
    widest = std::max(widest, width_of_words(row_name(t, r), size));
  return std::min(widest, most);
}

}  // namespace

std::string draw_grid(const PlanPicture& p) {
  const std::optional<Ends> ends = ends_of(p.family);
  if (!ends) return {};
  // The longer side goes down the page.
  const bool turned = ends->from->num_rows() < ends->to->num_rows() && ends->to->num_rows() > 14;
  const TableData& down = turned ? *ends->to : *ends->from;
  const TableData& across = turned ? *ends->from : *ends->to;
  const double names = widest_name(down, 13.0, 240.0) + 12.0;
  const double width = (p.area.width - names) / std::max<double>(1.0, across.num_rows());
  // All names of columns lie, or all of them stand.
  const double widest = widest_name(across, 13.0, 150.0);
  const bool upright = widest > std::min(width, kWidestCell) - 6.0;
  const double heads = upright ? widest + 10.0 : 26.0;
  const double height = (p.area.height - heads) / std::max<double>(1.0, down.num_rows());
  const double w = std::min(width, kWidestCell), h = std::min(height, kHighestCell);
  const double left = p.area.left + names, top = p.area.top + heads;
  Drawing& d = p.drawing;
  const double row_size = std::min(13.0, h * 0.8), column_size = std::min(13.0, w * 0.8);
  for (Index r = 0; r < down.num_rows() && h >= kLeastNamed; ++r)
    d.text({left - 8.0, top + (r + 0.5) * h + 0.35 * row_size},
           fitted(row_name(down, r), row_size, names - 10.0), row_size, p.ground.ink,
           Drawing::Side::right);
  for (Index c = 0; c < across.num_rows() && w >= kLeastNamed; ++c) {
    const std::string name = row_name(across, c);
    if (!upright)
      d.text({left + (c + 0.5) * w, top - 8.0}, name, column_size, p.ground.ink,
             Drawing::Side::middle);
    else
      d.text_upward({left + (c + 0.5) * w + 0.35 * column_size, top - 7.0},
                    fitted(name, column_size, heads - 8.0), column_size, p.ground.ink);
  }
  Rational most = 0;
  std::size_t some = 0;
  for (Index i = 0; i < p.family.index.count; ++i) {
    most = std::max(most, p.value(i).abs());
    some += !p.value(i).is_zero();
  }
  const double gap = std::min({2.0, w * 0.08, h * 0.08});
  for (Index i = 0; i < p.family.index.count; ++i) {
    auto [r, c] = ends->rows[at(i)];
    if (turned) std::swap(r, c);
    const Area cell{left + c * w + gap, top + r * h + gap, w - 2.0 * gap, h - 2.0 * gap};
    const Rational& v = p.value(i);
    if (v.is_zero()) {
      d.box(cell, p.ground.paper, p.ground.faint, std::min(1.0, gap));
      continue;
    }
    // A part of the cell as the value is of the largest, so that it can be told without colour.
    const double part = most.is_zero() ? 1.0 : std::max(0.15, (v.abs() / most).to_double());
    d.box(cell, p.ground.shade, p.ground.first, std::min(1.0, gap));
    d.box({cell.left, cell.top + (1.0 - part) * cell.height, cell.width, part * cell.height},
          p.family.binary ? p.ground.first : p.ground.second);
    const std::string words = figure(v);
    const double size =
        std::min({13.0, h * 0.5, 0.85 * w / std::max(1.0, width_of_words(words, 1.0))});
    if (!p.family.binary && size >= 7.0)
      d.text_over({cell.left + cell.width / 2.0, cell.top + cell.height / 2.0 + 0.35 * size}, words,
                  size, p.ground.ink, Drawing::Side::middle, true);
  }
  const bool gaps = static_cast<double>(p.family.index.count) <
                    static_cast<double>(down.num_rows()) * across.num_rows();
  return fmt::format("As a grid, by two keys: {} of {} {}{}", some, p.family.index.count,
                     p.family.binary ? "are taken" : "are not 0",
                     gaps ? "; where there is no cell, there is nothing to decide" : "");
}

}  // namespace kiteknot::report
