// A model as free-form MPS, with a side table of names. What is written is the Problem as lowered:
// MPS knows rows and columns only. Figures are the model's exact decimals wherever they end.

#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "formats/files.hpp"
#include "formats/tables/csv.hpp"
#include "kiteknot/read.hpp"
#include "model/lowering.hpp"

namespace kiteknot {
namespace {

// The shortest text that reads back as the same double.
std::string exact(double v) {
  return fmt::format("{}", v);
}

class MpsWriter {
 public:
  explicit MpsWriter(const Model& model) : m_(model.data()), lowered_(lower(m_)) {}

  MpsText run() {
    const mip::Problem& p = lowered_.problem;
    if (p.num_conditional_rows() > 0)
      throw UsageError(fmt::format(
          "{} cannot be said in MPS: {} hold only under a condition, because some decision in them "
          "has no bound; give it one",
          m_.title, counted(at(p.num_conditional_rows()), "row")));
    for (std::size_t r = 0; r < m_.rules.size(); ++r)
      if (m_.rules[r]->is_tour() && !m_.rules_off.contains(static_cast<Index>(r)))
        throw UsageError(fmt::format(
            "{} cannot be said in MPS: {} asks for a tour, which is said by more rows than can be "
            "written; solve it as it is, or leave the rule out",
            m_.title, m_.rules[r]->name));
    if (!p.ordered_sets().empty() || p.generator() != nullptr)
      throw UsageError(
          fmt::format("{} cannot be said in MPS: it has rules that are no rows", m_.title));
    if (m_.goals.size() > 1)
      throw UsageError(
          fmt::format("{} cannot be said in MPS: it has {} goals in order, and MPS has one",
                      m_.title, m_.goals.size()));
    name_rows();
    for (Index j = 0; j < p.num_columns(); ++j) {
      const bool own = j < m_.num_decisions;
      columns_.push_back(
          fmt::format("{}{}", own ? "x" : "h", own ? j + 1 : j + 1 - m_.num_decisions));
      names_ += fmt::format("{},{}\n", columns_.back(),
                            formats::csv_cell(own ? m_.decision_name(j) : "(made while lowering)"));
    }
    std::string text = fmt::format(
        "* {}: written by kiteknot, names in the side table\nNAME model\n", one_line(m_.title));
    if (lowered_.goal_sign < 0) text += "OBJSENSE\n MAX\n";
    text += "ROWS\n N goal\n";
    for (Index i = 0; i < p.num_rows(); ++i)
      text += fmt::format(" {} {}\n", kind(i), rows_[static_cast<std::size_t>(i)]);
    text += columns() + right_sides() + ranges() + bounds() + "ENDATA\n";
    return {std::move(text), "mps,name\n" + names_};
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
                            formats::csv_cell(m_.rule_name(row.family, row.member)));
    }
    for (std::size_t i = 0; i < rows_.size(); ++i)
      if (rows_[i].empty()) {
        rows_[i] = fmt::format("r{}", i + 1);
        names_ += fmt::format("r{},(made while lowering)\n", i + 1);
      }
  }

  [[nodiscard]] char kind(Index i) const {
    const double low = lowered_.problem.row_lower(i), high = lowered_.problem.row_upper(i);
    if (low == high) return 'E';
    if (std::isfinite(high)) return 'L';
    return std::isfinite(low) ? 'G' : 'N';
  }

  [[nodiscard]] std::string columns() const {
    const mip::Problem& p = lowered_.problem;
    std::string text = "COLUMNS\n";
    bool whole = false;
    int marker = 0;
    std::vector<Rational> cost(static_cast<std::size_t>(p.num_columns()));
    for (const Expression::Term& t : lowered_.goal.terms)
      cost[static_cast<std::size_t>(t.decision)] = t.coefficient;
    for (Index j = 0; j < p.num_columns(); ++j) {
      const auto at = static_cast<std::size_t>(j);
      if (p.integer(j) != whole) {
        whole = !whole;
        text += fmt::format(" M{} 'MARKER' '{}'\n", ++marker, whole ? "INTORG" : "INTEND");
      }
      bool any = !cost[at].is_zero();
      if (any) text += fmt::format(" {} goal {}\n", columns_[at], decimal(cost[at]));
      for (std::size_t e = 0; e < p.columns().index(j).size(); ++e) {
        any = true;
        text += fmt::format(" {} {} {}\n", columns_[at],
                            rows_[static_cast<std::size_t>(p.columns().index(j)[e])],
                            exact(p.columns().value(j)[e]));
      }
      if (!any) text += fmt::format(" {} goal 0\n", columns_[at]);
    }
    if (whole) text += fmt::format(" M{} 'MARKER' 'INTEND'\n", ++marker);
    return text;
  }

  static std::string decimal(const Rational& v) {
    const std::string text = v.text();
    return text.find('/') == std::string::npos ? text : exact(v.to_double());
  }

  [[nodiscard]] std::string right_sides() const {
    std::string text = "RHS\n";
    if (!lowered_.goal_constant.is_zero())  // the constant of the goal, with its sign turned
      text += fmt::format(" rhs goal {}\n", decimal(-lowered_.goal_constant));
    for (Index i = 0; i < lowered_.problem.num_rows(); ++i) {
      const char k = kind(i);
      const double side = k == 'G' ? lowered_.problem.row_lower(i) : lowered_.problem.row_upper(i);
      if (k != 'N' && side != 0.0)
        text += fmt::format(" rhs {} {}\n", rows_[static_cast<std::size_t>(i)], exact(side));
    }
    return text;
  }

  [[nodiscard]] std::string ranges() const {
    std::string text;
    for (Index i = 0; i < lowered_.problem.num_rows(); ++i) {
      const double low = lowered_.problem.row_lower(i), high = lowered_.problem.row_upper(i);
      if (kind(i) == 'L' && std::isfinite(low))
        text += fmt::format(" rng {} {}\n", rows_[static_cast<std::size_t>(i)], exact(high - low));
    }
    return text.empty() ? text : "RANGES\n" + text;
  }

  [[nodiscard]] std::string bounds() const {
    std::string text = "BOUNDS\n";
    const mip::Problem& p = lowered_.problem;
    for (Index j = 0; j < p.num_columns(); ++j) {
      const std::string& name = columns_[static_cast<std::size_t>(j)];
      const double low = p.lower(j), high = p.upper(j);
      if (low == high) {
        text += fmt::format(" FX bnd {} {}\n", name, exact(low));
        continue;
      }
      if (std::isinf(low) && std::isinf(high)) {
        text += fmt::format(" FR bnd {}\n", name);
        continue;
      }
      text += std::isinf(low) ? fmt::format(" MI bnd {}\n", name)
                              : fmt::format(" LO bnd {} {}\n", name, exact(low));
      text += std::isinf(high) ? fmt::format(" PL bnd {}\n", name)
                               : fmt::format(" UP bnd {} {}\n", name, exact(high));
    }
    return text;
  }

  const ModelData& m_;
  Lowering lowered_;
  std::vector<std::string> rows_, columns_;
  std::string names_;
};

}  // namespace

MpsText mps_text(const Model& model) {
  return MpsWriter(model).run();
}

void write_mps(const std::string& path, const Model& model) {
  const MpsText text = mps_text(model);
  formats::write_file(path + ".names.csv", text.names);
  formats::write_file(path, text.problem);
}

}  // namespace kiteknot
