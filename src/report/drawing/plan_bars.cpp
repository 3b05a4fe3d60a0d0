// Families as bars against their data, and over an ordered table as steps.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/drawing/plan_pictures.hpp"
#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

constexpr std::size_t kMostBars = 32, kMostColumns = 3, kMostPanels = 4;

// A column of figures beside the decisions.
struct Data {
  std::string name;
  std::vector<Rational> values;  // by members
};

// Columns of figures of the family's table; those that the model reads before others.
std::vector<Data> data_of(const PlanPicture& p) {
  std::vector<Data> out;
  if (p.family.index.tables.size() != 1) return out;
  const Table& table = p.family.index.tables[0];
  const TableData& t = table.data();
  const auto uses = p.m.column_uses.find(t.name);
  const auto used = [&](const std::string& column) {
    return uses != p.m.column_uses.end() && uses->second.contains(column);
  };
  std::vector<std::string> names = t.all_columns();
  std::stable_partition(names.begin(), names.end(), used);
  for (const std::string& name : names) {
    if (out.size() >= kMostColumns || name == "x" || name == "y") continue;
    Data data{name, {}};
    const Index c = t.column(name);
    const auto made = t.computed.find(name);
    for (Index i = 0; i < p.family.index.count; ++i) {
      const Index row = p.family.index.rows(i)[0].index();
      const std::optional<Rational> v = made != t.computed.end()
                                            ? std::optional(made->second[at(row)])
                                        : c >= 0 ? t.figure(row, c)
                                                 : std::nullopt;
      if (!v || !v->is_finite() || v->sign() < 0) break;
      data.values.push_back(*v);
    }
    if (data.values.size() == at(p.family.index.count)) out.push_back(std::move(data));
  }
  return out;
}

std::string member_name(const PlanPicture& p, Index i) {
  const std::vector<std::string> keys = p.family.index.keys(i);
  return keys.empty() ? p.family.name : visible(fmt::format("{}", fmt::join(keys, ", ")));
}

// What is drawn of many: first what is not 0.
std::vector<Index> members(const PlanPicture& p) {
  std::vector<Index> out;
  for (Index i = 0; i < p.family.index.count; ++i) out.push_back(i);
  if (out.size() <= kMostBars) return out;
  std::stable_partition(out.begin(), out.end(), [&](Index i) { return !p.value(i).is_zero(); });
  out.resize(kMostBars);
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace

// One row a member; one group of bars a column of data, or the values themselves.
std::string draw_bars(const PlanPicture& p) {
  const std::vector<Index> rows = members(p);
  std::vector<Data> data = p.family.binary ? data_of(p) : std::vector<Data>{};
  const bool own = data.empty();
  if (own) {
    Data values{p.family.name, {}};
    for (Index i = 0; i < p.family.index.count; ++i) values.values.push_back(p.value(i).abs());
    data.push_back(std::move(values));
  }
  double names = 60.0;
  for (const Index i : rows)
    names = std::max(names, std::min(260.0, width_of_words(member_name(p, i), 13.5)));
  const double head = 26.0,
               h = std::min(46.0, (p.area.height - head) / static_cast<double>(rows.size()));
  const double group = (p.area.width - names - 20.0) / static_cast<double>(data.size());
  const double size = std::min(13.5, 0.72 * h);
  Drawing& d = p.drawing;
  const std::vector<Rational> numbers = p.m.number_values();
  for (std::size_t g = 0; g < data.size(); ++g) {
    const double left = p.area.left + names + 20.0 + group * static_cast<double>(g);
    d.text({left, p.area.top + 12.0}, fitted(data[g].name, 13.5, group - 10.0), 13.5, p.ground.ink,
           Drawing::Side::left, true);
    Rational most = 0;
    std::vector<Rational> limits(at(p.family.index.count), Rational(-1));
    for (const Index i : rows) {
      most = std::max(most, data[g].values[at(i)]);
      if (!own || p.family.binary) continue;
      const Rational high = p.m.upper(p.family, i, numbers);
      if (high.is_finite() && high.sign() > 0) limits[at(i)] = high;
    }
    // Limits far beyond the values would make these too short to see.
    for (const Index i : rows)
      if (limits[at(i)] > most * Rational(3)) limits[at(i)] = -1;
    for (const Index i : rows) most = std::max(most, limits[at(i)]);
    if (most.is_zero()) most = 1;
    const double room = group - 26.0 - width_of_words(figure(most), size);
    for (std::size_t k = 0; k < rows.size(); ++k) {
      const Index i = rows[k];
      const double top = p.area.top + head + static_cast<double>(k) * h;
      const double width = (data[g].values[at(i)] / most).to_double() * room;
      const bool taken = !p.value(i).is_zero();
      if (limits[at(i)].sign() > 0)
        d.box({left, top + 0.16 * h, (limits[at(i)] / most).to_double() * room, 0.68 * h}, "none",
              p.ground.soft);
      if (width > 0.0)
        d.box({left, top + 0.16 * h, width, 0.68 * h}, taken ? p.ground.first : p.ground.paper,
              taken ? p.ground.first : p.ground.soft);
      const double words = left + std::max(width, limits[at(i)].sign() > 0
                                                      ? (limits[at(i)] / most).to_double() * room
                                                      : 0.0);
      d.text({words + 7.0, top + 0.5 * h + 0.35 * size},
             figure(own ? p.value(i) : data[g].values[at(i)]), size,
             taken ? p.ground.ink : p.ground.soft);
    }
  }
  for (std::size_t k = 0; k < rows.size(); ++k) {
    const bool taken = !p.value(rows[k]).is_zero();
    d.text({p.area.left + names + 6.0,
            p.area.top + head + (static_cast<double>(k) + 0.5) * h + 0.35 * size},
           fitted(member_name(p, rows[k]), size, names), size, taken ? p.ground.ink : p.ground.soft,
           Drawing::Side::right, taken);
  }
  const std::string more =
      static_cast<std::size_t>(p.family.index.count) > rows.size()
          ? fmt::format("; {} of {} are shown", rows.size(), p.family.index.count)
          : "";
  if (!own) return "As bars of its data: full ones are taken, hollow ones are left out" + more;
  return (p.family.binary ? "As bars: 1 is taken"
                          : "As bars of its values; frames are limits, where these are near") +
         more;
}

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
