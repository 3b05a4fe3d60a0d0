// Families over an ordered table as steps over time.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/drawing/plan_pictures.hpp"
#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

constexpr std::size_t kMostPanels = 4;

}  // namespace

// One panel a family over the same ordered table, this one first.
std::string draw_steps(const PlanPicture& p) {
  const TableData& t = p.family.index.tables[0].data();
  std::vector<const Family*> families = {&p.family};
  for (const auto& f : p.m.families)
    if (f.get() != &p.family && f->index.tables.size() == 1 && &f->index.tables[0].data() == &t &&
        families.size() < kMostPanels)
      families.push_back(f.get());
  const Index periods = t.num_rows();
  const double height = (p.area.height - 26.0) / static_cast<double>(families.size());
  double left = p.area.left + 70.0;
  const double width = p.area.left + p.area.width - left;
  const double w = width / std::max<double>(1.0, periods);
  Drawing& d = p.drawing;
  for (std::size_t k = 0; k < families.size(); ++k) {
    const Family& f = *families[k];
    const double top = p.area.top + height * static_cast<double>(k) + 24.0,
                 bottom = top + height - 40.0;
    Rational low = 0, high = 0;
    for (Index i = 0; i < f.index.count; ++i) {
      low = std::min(low, p.plan[f.first + i]);
      high = std::max(high, p.plan[f.first + i]);
    }
    if (low == high) high = 1;
    const auto y = [&](const Rational& v) {
      return bottom - ((v - low) / (high - low)).to_double() * (bottom - top);
    };
    d.text({left, top - 8.0}, fitted(f.name, 14.0, width), 14.0, p.ground.ink, Drawing::Side::left,
           true);
    d.line({left, y(0)}, {left + width, y(0)}, p.ground.faint, 1.2);
    for (const Rational& v : {low, high})
      if (!v.is_zero())
        d.text({left - 8.0, y(v) + 4.5}, figure(v), 12.5, p.ground.soft, Drawing::Side::right);
    std::string path;
    for (Index i = 0; i < f.index.count; ++i) {
      const Index row = f.index.rows(i)[0].index();
      const Rational& v = p.plan[f.first + i];
      const double x = left + w * row;
      if (!v.is_zero())
        d.box({x + 1.0, std::min(y(v), y(0)), w - 2.0, std::abs(y(v) - y(0))}, p.ground.shade);
      path += fmt::format("{}{:.1f} {:.1f}H{:.1f}", path.empty() ? "M" : "L", x, y(v), x + w);
      const std::string words = figure(v);
      if (!f.binary && !v.is_zero() && width_of_words(words, 12.5) < w - 4.0)
        d.text({x + w / 2.0, std::abs(y(v) - y(0)) > 20.0 ? y(v) + 15.0 : y(v) - 4.0}, words, 12.5,
               p.ground.ink, Drawing::Side::middle);
    }
    d.shape(path, p.ground.first, 2.2);
  }
  double last = -1e9;  // where the name before ends
  for (Index r = 0; r < periods; ++r) {
    const std::string name = row_name(t, r);
    const double half = 0.5 * width_of_words(name, 12.5), x = left + w * (r + 0.5);
    if (x - half < last + 8.0 || x + half > p.area.left + p.area.width + 30.0) continue;
    d.text({x, p.area.top + p.area.height}, name, 12.5, p.ground.soft, Drawing::Side::middle);
    last = x + half;
  }
  return fmt::format(
      "As steps over {}, whose order counts{}", t.name,
      families.size() > 1 ? "; what is decided over the same rows stands below" : "");
}

}  // namespace kiteknot::report
