// Families as bars against their data, or of their values.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/drawing/plan_pictures.hpp"
#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

constexpr std::size_t kMostBars = 32, kMostColumns = 4;

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

// One row of the picture.
struct Bar {
  std::string name;
  Rational value, limit = -1;  // below 0: none, or too far away
  Index member = 0;
};

// The members of the family; of a single decision all single ones of the model.
std::vector<Bar> bars_of(const PlanPicture& p) {
  const std::vector<Rational> numbers = p.m.number_values();
  std::vector<Bar> bars;
  const auto add = [&](const Family& f, Index i) {
    const std::vector<std::string> keys = f.index.keys(i);
    Bar bar{keys.empty() ? f.name : visible(fmt::format("{}", fmt::join(keys, ", "))),
            p.plan[f.first + i], -1, i};
    const Rational high = f.binary ? Rational::infinity() : p.m.upper(f, i, numbers);
    if (high.is_finite() && high.sign() > 0) bar.limit = high;
    bars.push_back(std::move(bar));
  };
  if (!p.family.index.tables.empty()) {
    for (Index i = 0; i < p.family.index.count; ++i) add(p.family, i);
    return bars;
  }
  for (const auto& f : p.m.families)
    if (f->index.tables.empty()) add(*f, 0);
  return bars;
}

class BarDrawer {
 public:
  explicit BarDrawer(const PlanPicture& p)
      : p_(p), d_(p.drawing), bars_(bars_of(p)), all_(bars_.size()) {
    if (bars_.size() > kMostBars) {  // what is not 0 comes before what is
      std::stable_partition(bars_.begin(), bars_.end(),
                            [](const Bar& b) { return !b.value.is_zero(); });
      bars_.resize(kMostBars);
      std::sort(bars_.begin(), bars_.end(),
                [](const Bar& a, const Bar& b) { return a.member < b.member; });
    }
    data_ = data_of(p);
    own_ = !p.family.binary || data_.empty();
    if (own_ && data_.size() >= kMostColumns) data_.resize(kMostColumns - 1);
    for (const Bar& b : bars_)
      names_ = std::max(names_, std::min(260.0, width_of_words(b.name, 13.5)));
    height_ = std::min(120.0, (p.area.height - kHead) / static_cast<double>(bars_.size()));
    size_ = std::min(13.5, 0.72 * height_);
  }

  std::string draw() {
    const std::size_t groups = data_.size() + (own_ ? 1 : 0);
    const double width = (p_.area.width - names_ - 20.0) / static_cast<double>(groups);
    double left = p_.area.left + names_ + 20.0;
    if (own_) {
      values(left, width);
      left += width;
    }
    for (const Data& column : data_) {
      data(column, left, width);
      left += width;
    }
    for (std::size_t k = 0; k < bars_.size(); ++k)
      d_.text({p_.area.left + names_ + 6.0, top(k) + 0.5 * height_ + 0.35 * size_},
              fitted(bars_[k].name, size_, names_), size_, ink(k), Drawing::Side::right, taken(k));
    return told();
  }

 private:
  static constexpr double kHead = 26.0;
  [[nodiscard]] double top(std::size_t k) const {
    return p_.area.top + kHead + static_cast<double>(k) * height_;
  }
  [[nodiscard]] bool taken(std::size_t k) const { return !bars_[k].value.is_zero(); }
  [[nodiscard]] const char* ink(std::size_t k) const {
    return taken(k) ? p_.ground.ink : p_.ground.soft;
  }

  void heading(const std::string& words, double left, double width) {
    d_.text({left, p_.area.top + 12.0}, fitted(words, 13.5, width - 10.0), 13.5, p_.ground.ink,
            Drawing::Side::left, true);
  }
  void bar(std::size_t k, double left, double width, double frame, const std::string& words) {
    const double y = top(k) + 0.16 * height_, h = 0.68 * height_;
    if (frame > 0.0) d_.box({left, y, frame, h}, "none", p_.ground.soft);
    if (width > 0.0)
      d_.box({left, y, width, h}, taken(k) ? p_.ground.first : p_.ground.paper,
             taken(k) ? p_.ground.first : p_.ground.soft);
    d_.text({left + std::max(width, frame) + 7.0, top(k) + 0.5 * height_ + 0.35 * size_}, words,
            size_, ink(k));
  }

  void data(const Data& data, double left, double width) {
    heading(data.name, left, width);
    Rational most = 0;
    for (const Bar& b : bars_) most = std::max(most, data.values[at(b.member)]);
    if (most.is_zero()) most = 1;
    const double room = width - 26.0 - width_of_words(figure(most), size_);
    for (std::size_t k = 0; k < bars_.size(); ++k) {
      const Rational& v = data.values[at(bars_[k].member)];
      bar(k, left, (v / most).to_double() * room, 0.0, figure(v));
    }
  }

  void values(double left, double width) {
    if (!p_.family.index.tables.empty()) heading(p_.family.name, left, width);
    Rational most = 0;
    for (const Bar& b : bars_) most = std::max(most, b.value.abs());
    // Limits far beyond the values would make these too short to see.
    for (Bar& b : bars_)
      if (b.limit > most * Rational(3)) b.limit = -1;
    for (const Bar& b : bars_) most = std::max(most, b.limit);
    if (most.is_zero()) most = 1;
    double words = 0.0;
    for (const Bar& b : bars_) words = std::max(words, width_of_words(figure(b.value), size_));
    const double room = width - 26.0 - words;
    for (std::size_t k = 0; k < bars_.size(); ++k) {
      const Bar& b = bars_[k];
      bar(k, left, (b.value.abs() / most).to_double() * room,
          b.limit.sign() > 0 ? (b.limit / most).to_double() * room : 0.0, figure(b.value));
    }
  }

  [[nodiscard]] std::string told() const {
    const std::string more =
        all_ > bars_.size() ? fmt::format("; {} of {} are shown", bars_.size(), all_) : "";
    if (!own_) return "As bars of its data: full ones are taken, hollow ones are left out" + more;
    const bool framed =
        std::any_of(bars_.begin(), bars_.end(), [](const Bar& b) { return b.limit.sign() > 0; });
    if (p_.family.binary && !p_.family.index.tables.empty()) return "As bars: 1 is taken" + more;
    return std::string("As bars of ") +
           (p_.family.index.tables.empty() ? "all single decisions" : "its values") +
           (framed ? "; frames are limits, where these are near" : "") +
           (data_.empty() ? "" : "; its data beside them") + more;
  }

  const PlanPicture& p_;
  Drawing& d_;
  std::vector<Bar> bars_;
  std::size_t all_;
  std::vector<Data> data_;
  bool own_ = false;  // the values have bars of their own
  double names_ = 60.0, height_ = 0.0, size_ = 0.0;
};

}  // namespace

std::string draw_bars(const PlanPicture& p) {
  return BarDrawer(p).draw();
}

}  // namespace kiteknot::report
