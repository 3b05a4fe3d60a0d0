#include "report/answers/decided.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/plans/plan_tables.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot::report {
namespace {

class Decided {
 public:
  Decided(const ModelData& model, const Plan& plan, const ShowOptions& what,
          const PageOptions& options)
      : m_(model), plan_(plan), what_(what), options_(options) {}

  void run(Page& page) {
    for (const auto& f : m_.families)
      if (what_.family.empty() || what_.family == f->name)
        f->index.tables.empty() ? singles_.push_back(f.get()) : family(*f);
    single_ones();
    page.table(rows_);
    for (const std::vector<Cells>& grid : grids_) {
      std::vector<std::size_t> right;
      for (std::size_t c = 1; c < grid[0].size(); ++c) right.push_back(c);
      page.gap();
      page.headed_table(grid, right);
    }
  }

 private:
  [[nodiscard]] const Rational& value(const Family& f, Index member) const {
    return plan_[f.first + member];
  }
  [[nodiscard]] std::size_t most_names() const {
    constexpr std::size_t kMostNames = 40;
    return what_.rows > 0 ? static_cast<std::size_t>(what_.rows) : kMostNames;
  }
  [[nodiscard]] static std::string told(std::string name, const Rational& x, bool binary) {
    return binary && x == Rational(1) ? name : name + " " + figure(x);
  }
  [[nodiscard]] static std::string number(std::size_t n) {
    return figure(Rational(static_cast<long long>(n)));
  }
  [[nodiscard]] std::string cut(Cells names) const {
    const std::size_t all = names.size(), most = most_names();
    if (all <= most) return listed(names, all + 1);
    names.resize(most);
    return fmt::format("{} and {} more", fmt::join(names, ", "), number(all - most));
  }

  void family(const Family& f) {
    std::vector<Index> chosen;
    for (Index i = 0; i < f.index.count; ++i)
      if (!value(f, i).is_zero()) chosen.push_back(i);
    const std::string count =
        number(chosen.size()) + " of " + number(static_cast<std::size_t>(f.index.count));
    if (of_a_tour(f)) return rows_.push_back({f.name, count, "the round trips below"});
    if (formats::key_columns(f).size() > 1 && chosen.size() > 1) {
      const bool pairs = f.index.tables[0].data().unordered_pairs;
      if (formats::fits_a_grid(f) && !pairs && grid(f))
        return rows_.push_back({f.name, count, "as below"});
      if (by_first_key(f, chosen, count)) return;
    }
    Cells names;
    for (const Index i : chosen) {
      names.push_back(told(told_keys(f.index.keys(i)), value(f, i), f.binary));
    }
    std::string text = cut(std::move(names));
    if (const std::string zeros = zeros_of(f, chosen.size()); !zeros.empty())
      text += (text.empty() ? "none of " : "; none of ") + zeros;
    rows_.push_back({f.name, count, text});
  }

  // Amounts that could be something and are nothing, where there are few.
  [[nodiscard]] std::string zeros_of(const Family& f, std::size_t chosen) const {
    constexpr std::size_t kMostZeros = 6;
    const std::size_t zeros = static_cast<std::size_t>(f.index.count) - chosen;
    if (f.binary || !f.integer || zeros == 0 || zeros > kMostZeros) return {};
    Cells names;
    for (Index i = 0; i < f.index.count; ++i)
      if (value(f, i).is_zero())
        names.push_back(fmt::format("{}", fmt::join(f.index.keys(i), ", ")));
    return listed(names, kMostZeros + 1);
  }

  // Its round trips are told in order.
  [[nodiscard]] bool of_a_tour(const Family& f) const {
    for (std::size_t r = 0; r < m_.rules.size(); ++r) {
      const RuleFamily& rule = *m_.rules[r];
      if (rule.is_tour() && !m_.rules_off.contains(static_cast<Index>(r)) &&
          rule.conditions[0].trips->legs.get() == &f &&
          read_trips(*rule.conditions[0].trips, m_.number_values(), plan_.values()).faults.empty())
        return true;
    }
    return false;
  }

  // Rows and columns with nothing but zeros are left out. False: it is too wide, or too long.
  bool grid(const Family& f) {
    constexpr std::size_t kMostCells = 4000, kMostRows = 24;
    if (static_cast<std::size_t>(f.index.count) > kMostCells) return false;
    const formats::Grid g = formats::grid_of(f);
    const auto used = [&](std::size_t r, std::size_t c) {
      return g.at(r, c) >= 0 && !value(f, g.at(r, c)).is_zero();
    };
    std::vector<std::size_t> down, across;
    for (std::size_t r = 0; r < g.down.size(); ++r)
      for (std::size_t c = 0; c < g.across.size(); ++c)
        if (used(r, c)) {
          down.push_back(r);
          across.push_back(c);
        }
    for (std::vector<std::size_t>* places : {&down, &across}) {
      std::sort(places->begin(), places->end());
      places->erase(std::unique(places->begin(), places->end()), places->end());
    }
    if (down.size() < 2 || across.size() < 2) return false;
    const auto text = [&](std::size_t r, std::size_t c) -> std::string {
      if (g.at(r, c) < 0) return "";
      const Rational& x = value(f, g.at(r, c));
      return x.is_zero() ? "·" : figure(x);
    };
    const std::size_t most = what_.rows > 0 ? static_cast<std::size_t>(what_.rows) : kMostRows;
    for (const bool turned : {false, true}) {
      const std::vector<std::size_t>&rows = turned ? across : down,
            &columns = turned ? down : across;
      const Cells &row_names = turned ? g.across : g.down,
                  &column_names = turned ? g.down : g.across;
      std::vector<Cells> table{{f.name}};
      for (const std::size_t c : columns) table[0].push_back(column_names[c]);
      for (const std::size_t r : rows) {
        table.push_back({row_names[r]});
        for (const std::size_t c : columns)
          table.back().push_back(turned ? text(c, r) : text(r, c));
      }
      constexpr std::size_t kMostColumns = 30;
      const bool fits = options_.form != PageForm::text
                            ? table[0].size() <= kMostColumns
                            : width(table) <= static_cast<std::size_t>(options_.width);
      if (rows.size() > most || !fits) continue;
      grids_.push_back(std::move(table));
      return true;
    }
    return false;
  }

  [[nodiscard]] static std::size_t width(const std::vector<Cells>& table) {
    constexpr std::size_t kIndent = 2, kBetween = 3;
    std::size_t all = kIndent;
    for (std::size_t c = 0; c < table[0].size(); ++c) {
      std::size_t widest = 0;
      for (const Cells& row : table) widest = std::max(widest, shown_width(row[c]));
      all += widest + (c > 0 ? kBetween : 0);
    }
    return all;
  }

  // "Lantern Pier: Reed Meadow 12 and Mill Field 7", a row for each first key, "Mira: (Sat, late)"
  // where there are three. False: too many.
  bool by_first_key(const Family& f, const std::vector<Index>& chosen, const std::string& count) {
    constexpr std::size_t kMostRows = 24;
    std::vector<std::pair<std::string, Cells>> groups;
    for (const Index i : chosen) {
      const Cells keys = f.index.keys(i);
      const auto at = std::find_if(groups.begin(), groups.end(),
                                   [&](const auto& g) { return g.first == keys[0]; });
      Cells& names = at == groups.end() ? groups.emplace_back(keys[0], Cells{}).second : at->second;
      names.push_back(told(told_keys({keys.begin() + 1, keys.end()}), value(f, i), f.binary));
      if (what_.rows <= 0 && groups.size() > kMostRows) return false;
    }
    const std::size_t most = std::max<std::size_t>(most_names(), 1);
    for (std::size_t k = 0; k < groups.size() && k < most; ++k)
      rows_.push_back({k == 0 ? f.name : "", k == 0 ? count : "",
                       groups[k].first + ": " + cut(groups[k].second)});
    if (groups.size() > most)
      rows_.push_back({"", "", fmt::format("and of {} more", number(groups.size() - most))});
    return true;
  }

  // Under their own names; many of them as one list.
  void single_ones() {
    constexpr std::size_t kFew = 16;
    if (singles_.size() <= kFew) {
      for (const Family* f : singles_) {
        const Rational& x = value(*f, 0);
        const bool yes = x == Rational(1);
        rows_.push_back(
            {f->name, "", f->binary && (yes || x.is_zero()) ? (yes ? "yes" : "no") : figure(x)});
      }
      return;
    }
    Cells names;
    for (const Family* f : singles_)
      if (!value(*f, 0).is_zero()) names.push_back(told(f->name, value(*f, 0), f->binary));
    const std::string count = number(names.size()) + " of " + number(singles_.size());
    rows_.push_back({"not 0", count, cut(std::move(names))});
  }

  const ModelData& m_;
  const Plan& plan_;
  const ShowOptions& what_;
  const PageOptions& options_;
  std::vector<Cells> rows_;
  std::vector<std::vector<Cells>> grids_;
  std::vector<const Family*> singles_;
};

}  // namespace

void tell_decided(Page& page, const ModelData& model, const Plan& plan, const ShowOptions& what,
                  const PageOptions& options) {
  need_plan_of(model, plan);
  Decided(model, plan, what, options).run(page);
}

}  // namespace kiteknot::report
