// A model as free-form MPS, with a side table of names. What is written is the Problem as lowered:
// MPS knows rows and columns only. Figures are exact: a row in which some digits never end is
// multiplied until all are whole.

#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/outward.hpp"
#include "base/text.hpp"
#include "data/files.hpp"
#include "data/tables/csv.hpp"
#include "kiteknot/read.hpp"
#include "mip/kinds/indicator_rows.hpp"
#include "model/lowering.hpp"

namespace kiteknot {
namespace {

// Whether its digits end.
bool ends(const Rational& v) {
  return v.text().find('/') == std::string::npos;
}

// A text for a figure whose digits do not end, read back as no less (up) or no more: the shortest
// text of a double lies within half a step of it, so that of the next one is beyond.
std::string beyond(const Rational& v, bool up) {
  const double next = up ? HUGE_VAL : -HUGE_VAL;
  return fmt::format("{}", std::nextafter(outward(v, up), next));
}

// A row or limit in exact figures.
struct ExactRow {
  std::vector<std::pair<Index, Rational>> entries;
  Rational low = Rational::minus_infinity(), high = Rational::infinity();

  // Times what makes all figures whole, where some have no last digit.
  void make_whole() {
    Rational by = 1;
    bool all = (!low.is_finite() || ends(low)) && (!high.is_finite() || ends(high));
    const auto look = [&](const Rational& v) {
      if (v.is_finite()) by = Rational::lcm(by, v.denominator());
    };
    for (const auto& [j, v] : entries) {
      all = all && ends(v);
      look(v);
    }
    look(low);
    look(high);
    if (all) return;
    for (auto& [j, v] : entries) v *= by;
    if (low.is_finite()) low *= by;
    if (high.is_finite()) high *= by;
  }
  [[nodiscard]] char kind() const {
    if (low.is_finite() && low == high) return 'E';
    if (high.is_finite()) return 'L';
    return low.is_finite() ? 'G' : 'N';
  }
};

class MpsWriter {
 public:
  explicit MpsWriter(const Model& model) : m_(model.data()), lowered_(lower(m_)) {}

  MpsText run() {
    const mip::Problem& p = lowered_.problem;
    if (const Index conditional = mip::num_indicator_rows(p); conditional > 0)
      throw UsageError(fmt::format(
          "{} cannot be said in MPS: {} hold only under a condition, because some decision in them "
          "has no bound; give it one",
          m_.title, counted(at(conditional), "row")));
    for (std::size_t r = 0; r < m_.rules.size(); ++r)
      if (m_.rules[r]->is_tour() && !m_.rules_off.contains(static_cast<Index>(r)))
        throw UsageError(fmt::format(
            "{} cannot be said in MPS: {} asks for a tour, which is said by more rows than can be "
            "written; solve it as it is, or leave the rule out",
            m_.title, m_.rules[r]->name));
    if (!p.linear())
      throw UsageError(
          fmt::format("{} cannot be said in MPS: it has rules that are no rows", m_.title));
    if (m_.goals.size() > 1)
      throw UsageError(
          fmt::format("{} cannot be said in MPS: it has {} goals in order, and MPS has one",
                      m_.title, m_.goals.size()));
    for (Index i = 0; i < p.num_rows(); ++i) exact_rows_.push_back(exact_row(i));
    name_rows();
    for (Index j = 0; j < p.num_columns(); ++j) {
      const bool own = j < m_.num_decisions;
      columns_.push_back(
          fmt::format("{}{}", own ? "x" : "h", own ? j + 1 : j + 1 - m_.num_decisions));
      names_ += fmt::format("{},{}\n", columns_.back(),
                            data::csv_cell(own ? m_.decision_name(j) : "(made while lowering)"));
    }
    const std::string limits = bounds();  // some become rows
    std::string text = fmt::format(
        "* {}: written by kiteknot, names in the side table\nNAME model\n", one_line(m_.title));
    if (lowered_.goal_sign < 0) text += "OBJSENSE\n MAX\n";
    text += "ROWS\n N goal\n";
    for (std::size_t i = 0; i < rows_.size(); ++i)
      text += fmt::format(" {} {}\n", exact_rows_[i].kind(), rows_[i]);
    text += columns() + right_sides() + ranges() + limits + "ENDATA\n";
    return {std::move(text), "mps,name\n" + names_, std::move(notes_)};
  }

 private:
  static std::string one_line(std::string text) {
    for (char& c : text)
      if (static_cast<unsigned char>(c) < ' ') c = ' ';
    return text;
  }

  void name_rows() {
    rows_.assign(static_cast<std::size_t>(lowered_.problem.num_rows()), "");
    for (const LoweredRow& row : lowered_.rows) {
      if (row.problem_row < 0) continue;
      rows_[static_cast<std::size_t>(row.problem_row)] = fmt::format("r{}", row.problem_row + 1);
      names_ += fmt::format("r{},{}\n", row.problem_row + 1,
                            data::csv_cell(m_.rule_name(row.family, row.member)));
    }
    for (std::size_t i = 0; i < rows_.size(); ++i)
      if (rows_[i].empty()) {
        rows_[i] = fmt::format("r{}", i + 1);
        names_ += fmt::format("r{},(made while lowering)\n", i + 1);
      }
  }

  // The model's own numbers where doubles cannot say them.
  [[nodiscard]] ExactRow exact_row(Index i) const {
    const mip::Problem& p = lowered_.problem;
    const mip::RowView row = p.row(i);
    const lp::Exact* known = p.known_row(i);
    const auto side = [](double v) {
      return std::isfinite(v) ? Rational::exactly(v)
             : v > 0.0        ? Rational::infinity()
                              : Rational::minus_infinity();
    };
    ExactRow out;
    out.low = known != nullptr ? known->low : side(row.lower);
    out.high = known != nullptr ? known->high : side(row.upper);
    for (std::size_t k = 0; k < row.index.size(); ++k)
      out.entries.emplace_back(row.index[k], known != nullptr ? known->entry(k, row.value[k])
                                                              : Rational::exactly(row.value[k]));
    out.make_whole();
    return out;
  }

  [[nodiscard]] std::string columns() {
    const mip::Problem& p = lowered_.problem;
    std::vector<std::vector<std::pair<std::size_t, const Rational*>>> entries(
        static_cast<std::size_t>(p.num_columns()));
    for (std::size_t i = 0; i < exact_rows_.size(); ++i)
      for (const auto& [j, v] : exact_rows_[i].entries) entries[at(j)].emplace_back(i, &v);
    std::string text = "COLUMNS\n";
    bool whole = false;
    int marker = 0;
    std::vector<Rational> cost(static_cast<std::size_t>(p.num_columns()));
    for (const Expression::Term& t : lowered_.goal.terms) cost[at(t.decision)] = t.coefficient;
    for (Index j = 0; j < p.num_columns(); ++j) {
      if (p.integer(j) != whole) {
        whole = !whole;
        text += fmt::format(" M{} 'MARKER' '{}'\n", ++marker, whole ? "INTORG" : "INTEND");
      }
      const std::string& name = columns_[at(j)];
      if (!cost[at(j)].is_zero() || entries[at(j)].empty())
        text += fmt::format(" {} goal {}\n", name, in_goal(cost[at(j)]));
      for (const auto& [i, v] : entries[at(j)])
        text += fmt::format(" {} {} {}\n", name, rows_[i], v->text());
    }
    if (whole) text += fmt::format(" M{} 'MARKER' 'INTEND'\n", ++marker);
    return text;
  }

  // The goal cannot be multiplied: its value is what is asked for.
  std::string in_goal(const Rational& v) {
    if (ends(v)) return v.text();
    if (++rounded_in_goal_ == 1) notes_.emplace_back();
    notes_.back() = fmt::format(
        "{} of the goal, such as {}, {} no last digit and {} rounded: the best value may come out "
        "otherwise in the last digits",
        counted(rounded_in_goal_, "figure"), v.text(), rounded_in_goal_ == 1 ? "has" : "have",
        rounded_in_goal_ == 1 ? "is" : "are");
    return fmt::format("{}", v.to_double());
  }

  [[nodiscard]] std::string right_sides() {
    std::string text = "RHS\n";
    if (!lowered_.goal_constant.is_zero())  // the constant of the goal, with its sign turned
      text += fmt::format(" rhs goal {}\n", in_goal(-lowered_.goal_constant));
    for (std::size_t i = 0; i < exact_rows_.size(); ++i) {
      const ExactRow& row = exact_rows_[i];
      const Rational& side = row.kind() == 'G' ? row.low : row.high;
      if (row.kind() != 'N' && !side.is_zero())
        text += fmt::format(" rhs {} {}\n", rows_[i], side.text());
    }
    return text;
  }

  [[nodiscard]] std::string ranges() const {
    std::string text;
    for (std::size_t i = 0; i < exact_rows_.size(); ++i) {
      const ExactRow& row = exact_rows_[i];
      if (row.kind() == 'L' && row.low.is_finite())
        text += fmt::format(" rng {} {}\n", rows_[i], (row.high - row.low).text());
    }
    return text.empty() ? text : "RANGES\n" + text;
  }

  [[nodiscard]] std::string bounds() {
    std::string text = "BOUNDS\n";
    const mip::Problem& p = lowered_.problem;
    for (Index j = 0; j < p.num_columns(); ++j) {
      const std::string& name = columns_[at(j)];
      const auto known = p.known_bounds().find(j);
      const auto bound = [&](double v, bool upper) {
        if (known != p.known_bounds().end()) return upper ? known->second.high : known->second.low;
        return std::isfinite(v) ? Rational::exactly(v)
               : upper          ? Rational::infinity()
                                : Rational::minus_infinity();
      };
      Rational low = bound(p.lower(j), false), high = bound(p.upper(j), true);
      if (p.integer(j)) {
        if (low.is_finite()) low = low.ceil();
        if (high.is_finite()) high = high.floor();
      }
      if (low.is_finite() && low == high && ends(low)) {
        text += fmt::format(" FX bnd {} {}\n", name, low.text());
        continue;
      }
      if (!low.is_finite() && !high.is_finite()) {
        text += fmt::format(" FR bnd {}\n", name);
        continue;
      }
      text += !low.is_finite() ? fmt::format(" MI bnd {}\n", name)
                               : fmt::format(" LO bnd {} {}\n", name, limit(j, low, false));
      text += !high.is_finite() ? fmt::format(" PL bnd {}\n", name)
                                : fmt::format(" UP bnd {} {}\n", name, limit(j, high, true));
    }
    return text;
  }

  // A limit without a last digit stands rounded outward, and as it is in a row of whole figures.
  std::string limit(Index j, const Rational& v, bool upper) {
    if (ends(v)) return v.text();
    ExactRow row;
    row.entries.emplace_back(j, 1);
    (upper ? row.high : row.low) = v;
    row.make_whole();
    exact_rows_.push_back(std::move(row));
    rows_.push_back(fmt::format("b{}", ++limits_as_rows_));
    names_ += fmt::format("{},\"(the limit {} of {})\"\n", rows_.back(), v.text(), columns_[at(j)]);
    return beyond(v, upper);
  }

  const ModelData& m_;
  Lowering lowered_;
  std::vector<std::string> rows_, columns_;
  std::string names_;
  std::vector<ExactRow> exact_rows_;
  std::vector<std::string> notes_;
  std::size_t rounded_in_goal_ = 0;
  int limits_as_rows_ = 0;
};

}  // namespace

MpsText mps_text(const Model& model) {
  return MpsWriter(model).run();
}

std::vector<std::string> write_mps(const std::string& path, const Model& model) {
  MpsText text = mps_text(model);
  data::write_file(path + ".names.csv", text.names);
  data::write_file(path, text.problem);
  return std::move(text.notes);
}

}  // namespace kiteknot
