// MPS, fixed and free form. The goal is the first N row; OBJSENSE, RANGES, all usual bound kinds
// and integer markers are read. A file is tried in free form first, where fields are words; if that
// fails, in fixed form, where names stand in given columns and may hold spaces.

#include <algorithm>
#include <set>
#include <unordered_map>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/read.hpp"
#include "model/internals.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

struct MpsColumn {
  std::string name;
  bool integer = false;
  Rational low = 0, high = Rational::infinity();
  bool has_low = false, has_bound = false;
  int line = 0;
  bool or_zero = false;
  bool low_said = false, high_said = false;
};

struct MpsRow {
  std::string name;
  char kind = 'N';
  Rational right;
  std::optional<Rational> range;
  std::vector<std::pair<Index, Rational>> entries;
  bool has_right = false, has_range = false;
  Index last_column = -1;  // that has a line in it
};

// From here on a limit is none.
const Rational kEndless = *Rational::parse("1e30");

using NamesInText = std::unordered_map<std::string_view, Index>;  // of the text, which stays
using Fields = std::vector<std::string_view>;

class MpsReader {
 public:
  MpsReader(std::string_view text, const std::string& file, bool fixed)
      : text_(text), file_(file), fixed_(fixed) {}

  Reading<Model> run() {
    std::size_t at = text_.starts_with("\xEF\xBB\xBF") ? 3 : 0;  // a byte order mark
    while (at < text_.size() && !ended_ && !notes_.full()) {
      std::size_t end = text_.find('\n', at);
      if (end == std::string_view::npos) end = text_.size();
      std::string_view line = text_.substr(at, end - at);
      at = end + 1;
      ++line_;
      if (!line.empty() && line.back() == '\r') line.remove_suffix(1);
      if (line.find_first_not_of(" \t") == std::string_view::npos || line[0] == '*') continue;
      if (line[0] != ' ' && line[0] != '\t') {
        section(line);
      } else {
        split(line);
        data(fields_);
      }
    }
    if (!notes_.has_errors()) {
      if (line_ == 0)
        complain("the file is empty");
      else if (!ended_)
        complain("the file ends without ENDATA");
      else if (columns_.empty())
        complain("the file has no columns");
    }
    if (notes_.has_errors()) return notes_;
    if (endless_ > 0)
      warn(endless_line_,
           fmt::format("{} read as no limit (the first is '{}')",
                       counted(endless_, "figure") + (endless_ == 1 ? " is" : " are"),
                       endless_first_));
    return build();
  }

 private:
  void complain(std::string message) { notes_.error({file_, line_, 0, std::move(message), false}); }
  void warn(int line, std::string message) {
    notes_.warn({file_, line, 0, std::move(message), true});
  }

  static void words(std::string_view line, Fields& out) {
    out.clear();
    const auto blank = [](char c) { return c == ' ' || c == '\t'; };
    for (std::size_t at = 0; at < line.size();) {
      while (at < line.size() && blank(line[at])) ++at;
      const std::size_t begin = at;
      while (at < line.size() && !blank(line[at])) ++at;
      if (at > begin) out.push_back(line.substr(begin, at - begin));
    }
  }

  // Fixed form: fields start in columns 2, 5, 15, 25, 40 and 50 (counted from 1).
  void split(std::string_view line) {
    if (!fixed_ || section_ == "OBJSENSE") return words(line, fields_);
    static constexpr std::pair<std::size_t, std::size_t> kFields[] = {{1, 3},   {4, 12},  {14, 22},
                                                                      {24, 36}, {39, 47}, {49, 61}};
    fields_.clear();
    const bool has_kind = section_ == "ROWS" || section_ == "BOUNDS";
    for (const auto& [begin, end] : kFields) {
      if (begin == 1 && !has_kind) continue;
      if (begin >= line.size()) break;
      std::string_view field = line.substr(begin, end - begin);
      field.remove_suffix(field.size() - (field.find_last_not_of(" \t") + 1));
      field.remove_prefix(std::min(field.find_first_not_of(" \t"), field.size()));
      fields_.push_back(field);
    }
    while (!fields_.empty() && fields_.back().empty()) fields_.pop_back();
  }

  void section(std::string_view line) {
    Fields w;
    words(line, w);
    section_ = w[0];
    static const std::vector<std::string> kSections = {"NAME", "OBJSENSE", "ROWS",   "COLUMNS",
                                                       "RHS",  "RANGES",   "BOUNDS", "ENDATA"};
    if (section_ == "NAME")
      title_ = line.size() > 4
                   ? line.substr(std::min(line.find_first_not_of(" \t", 4), line.size()))
                   : "";
    else if (section_ == "ENDATA")
      ended_ = true;
    else if (section_ == "OBJSENSE" && w.size() > 1)
      sense(w[1]);
    else if (std::find(kSections.begin(), kSections.end(), section_) == kSections.end())
      complain(fmt::format("no section '{}' is read here{}", section_,
                           nearest_hint(section_, kSections)));
  }

  void sense(std::string_view word) {
    if (word == "MAX" || word == "MAXIMIZE" || word == "MAXIMISE")
      maximize_ = true;
    else if (word != "MIN" && word != "MINIMIZE" && word != "MINIMISE")
      complain(fmt::format("OBJSENSE is MAX or MIN, not '{}'", word));
  }

  void data(const Fields& f) {
    if (f.empty()) return;
    if (section_ == "OBJSENSE")
      sense(f[0]);
    else if (section_ == "ROWS")
      row(f);
    else if (section_ == "COLUMNS")
      column(f);
    else if (section_ == "RHS" || section_ == "RANGES")
      right_sides(f);
    else if (section_ == "BOUNDS")
      bound(f);
    else
      complain("a data line stands outside of any section");
  }

  void row(const Fields& f) {
    if (f.size() != 2 || f[0].size() != 1 ||
        std::string("NLGEnlge").find(f[0][0]) == std::string::npos)
      return complain("a row is N, L, G or E and a name");
    const char kind = static_cast<char>(std::toupper(static_cast<unsigned char>(f[0][0])));
    if (!row_of_.emplace(f[1], static_cast<Index>(rows_.size())).second)
      return complain(fmt::format("row '{}' is there twice", f[1]));
    rows_.push_back({std::string(f[1]), kind, 0, std::nullopt, {}});
    if (kind == 'N' && goal_ < 0) goal_ = static_cast<Index>(rows_.size()) - 1;
  }

  std::optional<Rational> figure_of(std::string_view text) {
    std::optional<Rational> value;
    if (text.find_first_of("Dd") == std::string_view::npos) {
      value = Rational::parse(text);
    } else {
      std::string plain(text);
      for (char& c : plain)
        if (c == 'D' || c == 'd') c = 'e';
      value = Rational::parse(plain);
    }
    if (!value) complain(fmt::format("'{}' is not a finite figure", text));
    return value;
  }

  // The same of a limit, where words and 1e30 or more mean that there is none.
  std::optional<Rational> limit_of(std::string_view text) {
    std::string word;
    for (const char c : text)
      word += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    const bool minus = word.starts_with('-');
    if (minus || word.starts_with('+')) word.erase(0, 1);
    std::optional<Rational> value;
    if (word != "inf" && word != "infinity") {
      value = figure_of(text);
      if (!value || value->abs() < kEndless) return value;
    }
    if (endless_++ == 0) {
      endless_first_ = text;
      endless_line_ = line_;
    }
    return minus ? Rational::minus_infinity() : Rational::infinity();
  }

  // Whether a line belongs to the set that is read: the first one of its section.
  bool of_first_set(std::string_view set) {
    const auto [it, fresh] = first_set_.emplace(section_, std::string(set));
    if (it->second == set) return true;
    if (told_sets_.insert(fmt::format("{} {}", section_, set)).second)
      warn(line_, fmt::format("the set '{}' of {} is not read: the first one, '{}', is", set,
                              section_, it->second));
    return false;
  }

  // Whether it is said for the first time.
  bool once(bool& said, const std::string& what) {
    if (said) complain(what + " is there twice");
    return !std::exchange(said, true);
  }

  Index find_row(std::string_view name) {
    const auto it = row_of_.find(name);
    if (it != row_of_.end()) return it->second;
    std::vector<std::string> known;
    for (std::size_t k = 0; k < std::min<std::size_t>(rows_.size(), 2000); ++k)
      known.push_back(rows_[k].name);
    complain(fmt::format("there is no row '{}'{}", name, nearest_hint(name, known)));
    return -1;
  }

  void column(const Fields& f) {
    const auto marker = std::find(f.begin(), f.end(), "'MARKER'");
    if (marker != f.end()) {
      const std::string_view what = f.back();
      if (what == "'INTORG'")
        in_integers_ = true;
      else if (what == "'INTEND'")
        in_integers_ = false;
      else
        complain(fmt::format("a marker is 'INTORG' or 'INTEND', not {}", what));
      return;
    }
    if (f.size() != 3 && f.size() != 5)
      return complain("a column line has a column, then one or two pairs of row and figure");
    if (columns_.empty() || columns_.back().name != f[0]) {
      if (!column_of_.emplace(f[0], static_cast<Index>(columns_.size())).second)
        return complain(fmt::format("the lines of column '{}' do not stand together", f[0]));
      columns_.push_back(
          {std::string(f[0]), in_integers_, 0, Rational::infinity(), false, false, line_});
    }
    const auto column = static_cast<Index>(columns_.size()) - 1;
    for (std::size_t k = 1; k + 1 < f.size(); k += 2) {
      const Index r = find_row(f[k]);
      const std::optional<Rational> value = figure_of(f[k + 1]);
      if (r < 0 || !value) continue;
      MpsRow& row = rows_[static_cast<std::size_t>(r)];
      auto& entries = row.entries;
      if (std::exchange(row.last_column, column) == column) {
        complain(fmt::format("column '{}' has two entries in row '{}'", f[0], f[k]));
        continue;
      }
      if (!value->is_zero()) entries.emplace_back(column, *value);
    }
  }

  void right_sides(const Fields& f) {
    const std::size_t first = f.size() % 2;  // an odd count starts with the name of the set
    if (f.size() < 2) return complain("a line has a row and a figure");
    if (!of_first_set(first == 1 ? f[0] : "")) return;
    for (std::size_t k = first; k + 1 < f.size(); k += 2) {
      const Index r = find_row(f[k]);
      const std::optional<Rational> value = limit_of(f[k + 1]);
      if (r < 0 || !value) continue;
      MpsRow& row = rows_[static_cast<std::size_t>(r)];
      const bool right = section_ == "RHS";
      if (!once(right ? row.has_right : row.has_range,
                fmt::format("the {} of row '{}'", right ? "right side" : "range", row.name)))
        continue;
      const bool open = row.kind == 'L'   ? *value == Rational::infinity()
                        : row.kind == 'G' ? *value == Rational::minus_infinity()
                                          : false;
      if (right && !value->is_finite() && !open)
        complain(
            fmt::format("'{}' as the right side of row '{}' leaves nothing", f[k + 1], row.name));
      else if (right)
        row.right = *value;
      else if (row.kind == 'N')
        complain(fmt::format("row '{}' is free and has no range", row.name));
      else
        row.range = *value;
    }
  }

  void bound(const Fields& f) {
    static const std::vector<std::string> kKinds = {"LO", "UP", "FX", "FR", "MI", "PL",
                                                    "BV", "LI", "UI", "SC", "SI"};
    const std::string_view kind = f[0];
    if (std::find(kKinds.begin(), kKinds.end(), kind) == kKinds.end())
      return complain(fmt::format("no bound kind '{}'{}", kind, nearest_hint(kind, kKinds)));
    const bool valued = kind != "FR" && kind != "MI" && kind != "PL" && kind != "BV";
    // With or without the name of the set in front of the column.
    std::size_t name = 2;
    if (f.size() == (valued ? 3U : 2U) ||
        (!valued && f.size() == 3 && !column_of_.contains(f[2]) && column_of_.contains(f[1])))
      name = 1;
    if (f.size() < name + (valued ? 2 : 1))
      return complain(
          fmt::format("a bound {} needs a column{}", kind, valued ? " and a figure" : ""));
    const auto it = column_of_.find(f[name]);
    if (it == column_of_.end()) {
      std::vector<std::string> known;
      for (std::size_t k = 0; k < std::min<std::size_t>(columns_.size(), 2000); ++k)
        known.push_back(columns_[k].name);
      return complain(
          fmt::format("there is no column '{}'{}", f[name], nearest_hint(f[name], known)));
    }
    if (!of_first_set(name == 2 ? f[1] : "")) return;
    MpsColumn& c = columns_[static_cast<std::size_t>(it->second)];
    Rational value = 0;
    if (valued) {
      const std::optional<Rational> read = limit_of(f[name + 1]);
      if (!read) return;
      value = *read;
    }
    const bool lower = kind != "UP" && kind != "UI" && kind != "PL" && kind != "SC" && kind != "SI";
    const bool upper = kind != "LO" && kind != "LI" && kind != "MI";
    if (!value.is_finite() && (kind == "FX" || (value.sign() > 0) != upper || (lower && upper)))
      return complain(fmt::format("a bound {} of '{}' leaves nothing", kind, f[name + 1]));
    if ((lower && !once(c.low_said, fmt::format("the lower bound of column '{}'", c.name))) ||
        (upper && !once(c.high_said, fmt::format("the upper bound of column '{}'", c.name))))
      return;
    c.has_bound = true;
    if (kind == "LI" || kind == "UI" || kind == "BV") c.integer = true;
    if (kind == "LO" || kind == "LI") {
      c.low = value;
      c.has_low = true;
    } else if (kind == "UP" || kind == "UI") {
      c.high = value;
      if (value.sign() < 0 && !c.has_low) {
        c.low = Rational::minus_infinity();
        warn(line_,
             fmt::format(
                 "column '{}' has a negative upper bound and no lower one; its lower bound is -inf",
                 c.name));
      }
    } else if (kind == "FX") {
      c.low = c.high = value;
      c.has_low = true;
    } else if (kind == "FR") {
      c.low = Rational::minus_infinity();
      c.high = Rational::infinity();
    } else if (kind == "MI") {
      c.low = Rational::minus_infinity();
      c.has_low = true;
    } else if (kind == "PL") {
      c.high = Rational::infinity();
    } else if (kind == "SC" || kind == "SI") {  // 0, or between the lower bound and this one
      c.high = value.is_zero() ? Rational::infinity() : value;  // SC with inf: no upper end
      c.integer = c.integer || kind == "SI";
      c.or_zero = true;
    } else {  // BV
      c.low = 0;
      c.high = 1;
      c.has_low = true;
    }
  }

  Reading<Model> build() {
    Model model(title_.empty() ? "A model without a name" : title_);
    ModelData& data = *Internals::of(model);
    data.names_are_columns = true;
    data.names.change().families.reserve(columns_.size());
    data.names.change().rules.reserve(rows_.size());
    data.families.reserve(columns_.size());
    data.rules.reserve(rows_.size());
    add_columns(model);
    if (notes_.has_errors()) return notes_;
    column_of_.clear();
    add_rows(model);
    return {std::move(model), std::move(notes_)};
  }

  void add_columns(Model& model) {
    std::size_t unbounded = 0;
    std::string first_unbounded;
    int first_line = 0;
    for (const MpsColumn& c : columns_) {
      if (c.integer && !c.has_bound && unbounded++ == 0) {
        first_unbounded = c.name;
        first_line = c.line;
      }
      if (c.low > c.high) {
        notes_.error({file_, c.line, 0,
                      fmt::format("the bounds of column '{}' leave nothing: {} .. {}", c.name,
                                  figure(c.low), figure(c.high)),
                      false});
        continue;
      }
      const bool binary = !c.or_zero && c.integer && c.low == Rational(0) && c.high == Rational(1);
      Limits limits{0, 0, c.low.is_finite(), c.high.is_finite(), c.or_zero};
      if (limits.has_low) limits.low = c.low;
      if (limits.has_high) limits.high = c.high;
      if (binary)
        (void)model.binary(c.name);
      else
        (void)model.decide(c.name, {}, c.integer, [&](std::span<const Row>) { return limits; });
    }
    if (notes_.has_errors()) return;
    if (unbounded > 0)
      warn(first_line,
           fmt::format(
               "{} between markers without a bound and {} 0 .. inf (the first is '{}')",
               counted(unbounded, "integer column") + (unbounded == 1 ? " stands" : " stand"),
               unbounded == 1 ? "gets" : "get", first_unbounded));
  }

  void add_rows(Model& model) {
    const Tag& tag = model.data().tag;
    for (std::size_t r = 0; r < rows_.size(); ++r) {
      const MpsRow& row = rows_[r];
      Expression body;
      for (const auto& [c, v] : row.entries) body.add(v, c, tag);
      if (static_cast<Index>(r) == goal_) {
        body.add(-row.right);
        model.add_goal(row.name, maximize_ ? Sense::maximize : Sense::minimize, body);
        continue;
      }
      if (row.kind == 'N') {
        warn(0, fmt::format("row '{}' is free; only the first free row is the goal, this one is "
                            "kept as an expression",
                            row.name));
        (void)model.let(row.name, body);
        continue;
      }
      Rational low = row.kind == 'L' ? Rational::minus_infinity() : row.right;
      Rational high = row.kind == 'G' ? Rational::infinity() : row.right;
      if (row.range) {
        if (row.kind == 'L')
          low = row.range->is_finite() ? row.right - row.range->abs() : Rational::minus_infinity();
        else if (row.kind == 'G')
          high = row.range->is_finite() ? row.right + row.range->abs() : Rational::infinity();
        else {
          Rational& end = row.range->sign() < 0 ? low : high;
          end = row.range->is_finite() ? end + *row.range : *row.range;
        }
      }
      Condition c;
      c.body = std::move(body);
      c.has_low = low.is_finite();
      c.has_high = high.is_finite();
      if (c.has_low) c.low = low;
      if (c.has_high) c.high = high;
      model.rule(row.name, std::move(c));
    }
  }

  std::string_view text_;
  const std::string& file_;
  bool fixed_;
  Diagnostics notes_;
  int line_ = 0;
  bool ended_ = false, maximize_ = false, in_integers_ = false;
  std::string section_, title_;
  std::vector<MpsRow> rows_;
  std::vector<MpsColumn> columns_;
  NamesInText row_of_, column_of_;
  Fields fields_;                                           // of the line at hand
  std::unordered_map<std::string, std::string> first_set_;  // by section
  std::set<std::string> told_sets_;
  std::size_t endless_ = 0;  // figures that mean no limit
  std::string endless_first_;
  int endless_line_ = 0;
  Index goal_ = -1;
};

}  // namespace

Reading<Model> parse_mps(const std::string& text, const std::string& file) {
  Reading<Model> free = MpsReader(text, file, false).run();
  if (free.ok()) return free;
  Reading<Model> fixed = MpsReader(text, file, true).run();
  return fixed.ok() ? fixed : free;
}

}  // namespace kiteknot
