// A model read back before it is trusted.

#include <algorithm>
#include <map>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "model/lowering.hpp"
#include "report/forms/algebra.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

using report::Page;
Rational whole(std::size_t n) {
  return Rational(static_cast<long long>(n));
}

constexpr Index kSmallDecisions = 40, kSmallRows = 20;  // up to here the algebra is told in full
constexpr std::size_t kLongestAlgebra = 1200;           // characters of one rule

class ShowPage {
 public:
  ShowPage(const Model& model, const PageOptions& options, const ShowOptions& what)
      : model_(model), m_(model.data()), what_(what), page_(options), algebra_(m_) {}

  std::string run() {
    Index rule_rows = 0;
    for (std::size_t r = 0; r < m_.rules.size(); ++r)
      if (!m_.rules_off.contains(static_cast<Index>(r))) rule_rows += m_.rules[r]->index.count;
    small_ = m_.num_decisions <= kSmallDecisions && rule_rows <= kSmallRows;
    page_.title(m_.title, report::Tone::good);
    if (!what_.family.empty()) {
      need_family();
      decisions();
      rules();
      return page_.take();
    }
    opening(rule_rows);
    data();
    numbers();
    if (m_.num_decisions == 0) {
      scenarios();
      return page_.take();
    }
    decisions();
    curves();
    goals();
    rules();
    scenarios();
    how_solved();
    remarks();
    return page_.take();
  }

 private:
  [[nodiscard]] bool wanted(const std::string& name) const {
    return what_.family.empty() || what_.family == name;
  }

  void need_family() const {
    std::vector<std::string> known;
    for (const auto& f : m_.families) known.push_back(f->name);
    for (const auto& l : m_.lets) known.push_back(l->name);
    for (const auto& r : m_.rules) known.push_back(r->name);
    if (std::find(known.begin(), known.end(), what_.family) == known.end())
      throw UsageError(fmt::format("no family '{}' of decisions, expressions or rules{}",
                                   what_.family, nearest_hint(what_.family, known)));
  }

  // Of families, unless one is asked for by name: a page is read by a person.
  [[nodiscard]] bool full(std::size_t lines) const {
    constexpr std::size_t kMostFamilies = 30, kMostLines = 300;
    return what_.family.empty() && lines >= (what_.rows > 0 ? kMostLines : kMostFamilies);
  }
  void say_left_out(std::size_t families) {
    if (families > 0)
      page_.say(fmt::format("... and {} more; --family NAME shows one of them",
                            figure(Rational(static_cast<long long>(families)))),
                2);
  }

  // How many of `count` members are worked out.
  [[nodiscard]] Index shown(Index count) const {
    if (what_.rows > 0) return std::min<Index>(count, what_.rows);
    return small_ || !what_.family.empty() ? count : std::min<Index>(count, 1);
  }

  void opening(Index rule_rows) {
    if (m_.num_decisions == 0)
      return page_.say("Only data so far: nothing is decided, and no rule is stated.");
    std::size_t binary = 0, integer = 0, real = 0, listed_values = 0, nonzeros = 0;
    for (const auto& f : m_.families)
      (!f->listed.empty() ? listed_values
       : f->binary        ? binary
                          : (f->integer ? integer : real)) += at(f->index.count);
    std::vector<std::string> kinds;
    const bool one_kind = (binary > 0) + (integer > 0) + (real > 0) + (listed_values > 0) == 1;
    const auto tell = [&](std::size_t count, const char* what) {
      if (count == 0) return;
      kinds.push_back(one_kind ? fmt::format("{}{}", count > 1 ? "all " : "", what)
                               : fmt::format("{} {}", figure(whole(count)), what));
    };
    tell(binary, "yes or no");
    tell(integer, "in whole numbers");
    tell(real, "in any amount");
    tell(listed_values, "among listed values");
    const std::size_t families = m_.rules.size() - m_.rules_off.size();
    for (const auto& f : m_.rules)
      for (const Condition& c : f->conditions)
        nonzeros += c.body.terms().size() + c.low.terms().size() + c.high.terms().size();
    std::string rules = counted(at(rule_rows), "rule");
    if (families < at(rule_rows)) rules += fmt::format(" in {}", counted(families, "family"));
    if (!small_) rules += fmt::format(", with {} as stated", counted(nonzeros, "term"));
    page_.say(fmt::format("{} to take, {}; {}.", counted(at(m_.num_decisions), "decision"),
                          listed(kinds), rules));
    report::tell_besides(page_, "What kind of problem it is", [&] {
      if (const std::string kind = known_kind(model_); !kind.empty())
        page_.say(fmt::format("All of it is {}.", kind));
    });
  }

  // Every table once, each column in words.
  void data() {
    std::vector<const TableData*> tables;
    std::map<const TableData*, std::vector<std::string>> used_by;
    const auto see = [&](const IndexSet& index, const std::string& name) {
      for (const Table& t : index.tables) {
        if (!used_by.contains(&t.data())) tables.push_back(&t.data());
        auto& names = used_by[&t.data()];
        if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
      }
    };
    for (const Table& t : m_.data_tables) tables.push_back(&t.data());
    for (const auto& f : m_.families) see(f->index, f->name);
    for (const auto& l : m_.lets) see(l->index, l->name);
    for (const auto& r : m_.rules) see(r->index, r->name);
    if (tables.empty()) return;
    page_.heading("Data");
    std::vector<std::vector<std::string>> rows;
    for (const TableData* t : tables) {
      std::vector<std::string> keys, parts;
      for (const Index c : t->key) keys.push_back(t->columns[at(c)]);
      for (Index c = 0; c < static_cast<Index>(t->columns.size()); ++c)
        if (std::find(t->key.begin(), t->key.end(), c) == t->key.end() && !is_blank(*t, c))
          parts.push_back(column(*t, c) + used_in(*t, t->columns[at(c)]));
      for (const auto& [name, values] : t->computed) {
        if (values.empty()) continue;
        const auto [least, most] = std::minmax_element(values.begin(), values.end());
        parts.push_back(fmt::format("{} (computed): {}{}", name, report::range_of(*least, *most),
                                    used_in(*t, name)));
      }
      const std::string by = fmt::format("{} by {}", counted(at(t->num_rows()), "row"),
                                         fmt::format("{}", fmt::join(keys, ", ")));
      if (parts.empty()) parts.push_back("");
      for (std::size_t k = 0; k < parts.size(); ++k)
        rows.push_back({k == 0 ? t->name : "", k == 0 ? by : "", parts[k]});
    }
    page_.table(rows);
  }

  // A column without a heading and without a cell, as spreadsheets leave them.
  static bool is_blank(const TableData& t, Index c) {
    if (!t.columns[at(c)].empty()) return false;
    for (Index r = 0; r < t.num_rows(); ++r)
      if (!t.cell(r, c).empty()) return false;
    return true;
  }

  // ", in rule crew and cost": a weight and a value that changed places are seen here.
  [[nodiscard]] std::string used_in(const TableData& t, const std::string& name) const {
    if (!m_.uses_noted || m_.num_decisions == 0) return "";
    const auto table = m_.column_uses.find(t.name);
    if (table == m_.column_uses.end() || !table->second.contains(name)) return ", not used";
    return ", in " + listed(table->second.at(name), 6);
  }

  static std::string column(const TableData& t, Index c) {
    const std::string& name = t.columns[at(c)];
    if (const auto reference = t.tables.find(c); reference != t.tables.end())
      return fmt::format("{}: names a row of {}", name, reference->second->name);
    Diagnostics wrong;
    std::vector<Rational> values = *t.figures_given(c, wrong).figures;
    std::size_t empty = 0;
    for (std::size_t r = values.size(); r-- > 0;)
      if (t.is_empty(static_cast<Index>(r), c)) {
        values.erase(values.begin() + static_cast<std::ptrdiff_t>(r));
        ++empty;
      }
    if (!wrong.has_errors() && !values.empty()) {
      const auto [least, most] = std::minmax_element(values.begin(), values.end());
      return fmt::format("{}: {}{}{}", name, report::range_of(*least, *most),
                         t.with_comma(c) ? " (decimal comma)" : "",
                         empty > 0 ? fmt::format(", {} empty", empty) : "");
    }
    std::vector<std::string> texts;
    for (Index r = 0; r < t.num_rows() && texts.size() <= 5; ++r) {
      std::string text(t.cell(r, c));
      if (std::find(texts.begin(), texts.end(), text) == texts.end())
        texts.push_back(std::move(text));
    }
    return texts.size() <= 5 ? fmt::format("{}: {}", name, listed(texts))
                             : fmt::format("{}: texts", name);
  }

  void numbers() {
    if (m_.numbers.empty()) return;
    page_.heading("Numbers that can be set");
    std::vector<std::vector<std::string>> rows;
    const std::vector<Rational> values = m_.number_values();
    for (std::size_t k = 0; k < values.size(); ++k)
      rows.push_back({m_.numbers[k].name, figure(values[k])});
    page_.table(rows);
  }

  std::string kind_of(const Family& f) const {
    if (f.binary) return "yes or no";
    if (!f.listed.empty()) {
      std::vector<std::string> values;
      for (const Rational& v : f.listed) values.push_back(figure(v));
      return fmt::format("one of {}", fmt::join(values, ", "));
    }
    std::string kind = f.integer ? "whole numbers" : "any amount";
    if (f.or_zero) kind = "0, or " + kind;
    if (f.index.count == 0) return kind;
    auto [low, high] = m_.bounds_if_used(f, 0, algebra_.collector().numbers());
    bool same = true;
    Rational least_high = high;
    for (Index i = 1; i < f.index.count; ++i) {
      const auto [l, h] = m_.bounds_if_used(f, i, algebra_.collector().numbers());
      same = same && l == low && h == high;
      low = std::min(low, l);
      least_high = std::min(least_high, h);
      high = std::max(high, h);
    }
    if (same) return fmt::format("{} from {} to {}", kind, figure(low), figure(high));
    return fmt::format("{} from {} to between {} and {}", kind, figure(low), figure(least_high),
                       figure(high));
  }

  void decisions() {
    std::vector<std::vector<std::string>> rows;
    std::size_t left_out = 0;
    for (const auto& f : m_.families) {
      if (!wanted(f->name)) continue;
      if (full(rows.size())) {
        ++left_out;
        continue;
      }
      std::vector<std::string> tables;
      for (const Table& t : f->index.tables) tables.push_back(t.name());
      rows.push_back({f->name,
                      tables.empty()
                          ? "one"
                          : fmt::format("{}, one for each of {}",
                                        figure(Rational(static_cast<long long>(f->index.count))),
                                        fmt::join(tables, " x ")),
                      kind_of(*f)});
    }
    if (!rows.empty()) page_.heading("Decisions");
    page_.table(rows);
    say_left_out(left_out);
    rows.clear();
    left_out = 0;
    for (const auto& l : m_.lets) {
      if (!wanted(l->name)) continue;
      if (full(rows.size())) {
        ++left_out;
        continue;
      }
      const Index most = what_.rows > 0 || !what_.family.empty() ? shown(l->index.count) : 1;
      for (Index i = 0; i < std::min(most, l->index.count); ++i) {
        std::string count = l->index.tables.empty() ? "one" : figure(whole(at(l->index.count)));
        rows.push_back(
            {i == 0 ? l->name : "", i == 0 ? std::move(count) : "",
             worked(l->name, l->index, i, algebra_.text(l->values[at(i)]), l->index.count)});
      }
    }
    if (rows.empty()) return;
    page_.heading("Named expressions");
    page_.table(rows);
    say_left_out(left_out);
  }

  static std::string cut(std::string text) {
    if (text.size() <= kLongestAlgebra) return text;
    const std::size_t end = text.rfind(' ', kLongestAlgebra);
    return text.substr(0, end) + " ...";
  }

  // "capacity[North Mole]: ..." for the first row of several, the bare algebra for a single one.
  static std::string worked(const std::string& name, const IndexSet& index, Index member,
                            const std::string& text, Index count) {
    if (count == 1 && index.tables.empty()) return cut(text);
    return fmt::format("{}: {}", full_name(name, index.keys(member)), cut(text));
  }

  void curves() {
    if (m_.curves.empty()) return;
    page_.heading("Curves");
    std::vector<std::vector<std::string>> rows;
    const std::vector<Rational> numbers = m_.number_values();
    for (const auto& c : m_.curves) {
      std::vector<std::string> ends;
      const std::vector<CurvePiece> pieces = CurvesNow::made(*c, numbers);
      for (const CurvePiece& p : pieces) {
        if (p.from == p.to) continue;
        if (ends.size() == 6) {
          ends.push_back("...");
          break;
        }
        ends.push_back(fmt::format("{}({}) = {}{}", c->name, figure(p.from), figure(p.value),
                                   p.owns_from ? "" : " from just above"));
      }
      const CurvePiece& last = pieces.back();
      ends.push_back(
          last.to.is_finite()
              ? fmt::format("{}({}) = {}", c->name, figure(last.to), figure(last.at(last.to)))
              : fmt::format("then {} more for each", figure(last.slope)));
      const std::size_t named = c->stated.find(c->name);
      const std::string stated =
          named == std::string::npos ? "" : c->stated.substr(named + c->name.size() + 1);
      const std::string values = fmt::format("{}", fmt::join(ends, ", "));
      const bool by_points = stated.starts_with("through") && !c->made;
      rows.push_back({c->name, stated.empty() ? values
                               : by_points    ? stated
                                              : stated + "; " + values});
    }
    page_.table(rows);
  }

  void goals() {
    page_.heading(m_.goals.size() > 1 ? "Goals, in this order" : "Goal");
    if (m_.goals.empty()) {
      page_.say("none: any plan that meets the rules will do", 2);
      return;
    }
    std::vector<std::vector<std::string>> rows;
    for (std::size_t k = 0; k < m_.goals.size(); ++k) {
      const Goal& g = m_.goals[k];
      std::string text = !small_ && g.expression.is_linear()
                             ? algebra_.by_family(algebra_.collector().collect(g.expression).terms)
                             : algebra_.text(g.expression);
      if (!g.yields.is_zero())
        text += fmt::format("; later goals may take {} of it", percent(g.yields.to_double()));
      rows.push_back({std::string(word(g.sense)), g.name, cut(text)});
      if (!g.stated.empty() && !small_) rows.push_back({"", "", "stated: " + g.stated});
    }
    page_.table(rows);
  }

  void rules() {
    std::vector<std::vector<std::string>> rows;
    std::size_t left_out = 0;
    for (std::size_t r = 0; r < m_.rules.size(); ++r) {
      const RuleFamily& f = *m_.rules[r];
      if (!wanted(f.name)) continue;
      if (full(rows.size())) {
        ++left_out;
        continue;
      }
      const bool off = m_.rules_off.contains(static_cast<Index>(r));
      const std::string count =
          off ? "switched off"
              : (f.index.tables.empty() ? ""
                                        : figure(Rational(static_cast<long long>(f.index.count))));
      for (Index i = 0; i < shown(f.index.count); ++i) {
        const Condition& c = f.conditions[at(i)];
        std::string text = algebra_.short_text(c, kLongestAlgebra);
        if (f.soft())
          text += fmt::format(", or pay {} for each by which it is missed",
                              algebra_.text(f.prices[at(i)]));
        rows.push_back({i == 0 ? f.name : "", i == 0 ? count : "",
                        worked(f.name, f.index, i, text, f.index.count)});
      }
      if (!small_ && !f.stated.empty()) rows.push_back({"", "", "stated: " + f.stated});
      if (f.index.count == 0) rows.push_back({f.name, "none", "its tables leave no row"});
    }
    if (rows.empty() && !what_.family.empty()) return;
    if (rows.empty()) rows.push_back({"none", ""});
    page_.heading("Rules");
    page_.table(rows);
    say_left_out(left_out);
  }

  void scenarios() {
    if (m_.scenarios.empty()) return;
    page_.heading("Scenarios");
    std::vector<std::vector<std::string>> rows;
    for (const auto& [name, stated] : m_.scenarios) {
      // scenario "NAME" [like "OTHER"]: changes
      const std::string head = fmt::format("scenario \"{}\"", name);
      std::string rest = stated.starts_with(head) ? stated.substr(head.size()) : stated;
      if (rest.starts_with(":")) rest.erase(0, 1);
      rest.erase(0, std::min(rest.find_first_not_of(' '), rest.size()));
      rows.push_back({name, rest});
    }
    page_.table(rows);
  }

  // What logic, curves and other terms became, and the sizes before and after.
  void how_solved() {
    Lowering l;
    try {
      l = lower(m_);
    } catch (const UsageError& e) {  // the rest of the page helps to see why
      page_.heading("How it is solved");
      page_.say(fmt::format("Not at all yet: {}.", e.what()), 2);
      return;
    }
    const auto extra = at(l.problem.num_columns() - m_.num_decisions);
    if (l.notes.empty() && extra == 0) return;
    page_.heading("How it is solved");
    std::vector<std::vector<std::string>> rows;
    for (const LoweringNote& n : l.notes) {
      std::vector<std::string> parts;
      const auto tell = [&](Index count, const std::string& what) {
        if (count > 0) parts.push_back(counted(at(count), what));
      };
      tell(n.clauses, "clause");
      tell(n.rows, "row");
      tell(n.conditional, "row under a condition");
      tell(n.binaries, "further yes-or-no");
      tell(n.reals, "further amount");
      std::string text = listed(parts);
      if (!n.largest_bound.is_zero())
        text += fmt::format("; bounds from the data, up to {}", figure(n.largest_bound));
      for (const std::string& how : n.how) text += "; " + how;
      if (n.closed_side)
        text += "; where a comparison of amounts must fail, its edge counts as both";
      rows.push_back({n.of, text});
    }
    page_.table(rows);
    page_.say(
        fmt::format("In all {} and {} for {} and {} as stated.",
                    counted(at(l.problem.num_columns()), "column"),
                    counted(at(l.problem.num_rows_in_all()), "row"),
                    counted(at(m_.num_decisions), "decision"), counted(l.rows.size(), "rule")),
        2);
  }

  void remarks() {
    const std::vector<Remark> found = worth_a_look(model_);
    if (found.empty()) return;
    page_.heading("Worth a look");
    for (const Remark& r : found) page_.table({{"-", r.text}});
  }

  const Model& model_;
  const ModelData& m_;
  ShowOptions what_;
  Page page_;
  mutable report::Algebra algebra_;
  bool small_ = true;
};

}  // namespace

std::string show_page(const Model& model, const PageOptions& options, const ShowOptions& what) {
  return ShowPage(model, options, what).run();
}

}  // namespace kiteknot
