#include "workbench/statement.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "mip/kinds/indicator_rows.hpp"
#include "model/lowering.hpp"
#include "model/model_data.hpp"

namespace kiteknot::workbench {
namespace {

using Column = Tableau::Column;

void need_size(std::size_t columns, std::size_t rows) {
  if (columns > at(kMostTableauColumns) || rows > at(kMostTableauRows))
    throw UsageError(fmt::format(
        "a tableau takes at most {} decisions and {} rules, and this model has {} and {}; 'show' "
        "reads it back, 'solve --relaxed' tells its relaxation and prices",
        kMostTableauColumns, kMostTableauRows, columns, rows));
}

std::vector<std::pair<Column, Rational>> in_order(const std::vector<Expression::Term>& terms) {
  std::vector<std::pair<Column, Rational>> out;
  for (const Expression::Term& t : terms) out.emplace_back(t.decision, t.coefficient);
  std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  return out;
}

class Stating {
 public:
  Stating(const Model& model, const TableauOptions& options)
      : m_(model.data()), options_(options), collector_(m_) {}

  Statement run() {
    need_size(at(m_.num_decisions), 0);
    decisions();
    out_.num_decisions = static_cast<std::int32_t>(out_.columns.size());
    if (out_.columns.empty()) throw UsageError("the model has no decisions");
    if (!options_.as_sums) need_sums();
    if (options_.as_sums && !all_sums()) {
      lowered();
    } else {
      rules();
      goal();
    }
    if (options_.limits_as_rows) limits();
    need_size(out_.columns.size(), out_.rows.size());
    return std::move(out_);
  }

 private:
  void decisions() {
    const std::vector<Rational>& numbers = collector_.numbers();
    for (const auto& f : m_.families)
      for (Index i = 0; i < f->index.count; ++i) {
        TableauColumn c;
        c.name = m_.decision_name(f->first + i);
        c.low = m_.lower(*f, i, numbers);
        c.high = m_.upper(*f, i, numbers);
        if (m_.whole(*f, i)) {
          c.step = 1;
          if (c.low.is_finite()) c.low = c.low.ceil();
          if (c.high.is_finite()) c.high = c.high.floor();
        }
        out_.columns.push_back(std::move(c));
      }
  }

  // What stands in the way of sums, in words; empty: nothing does.
  [[nodiscard]] std::string no_sum() const {
    for (const auto& f : m_.families) {
      if (!f->listed.empty()) return fmt::format("{} takes listed values", f->name);
      if (f->or_zero) return fmt::format("{} is nothing or at least something", f->name);
    }
    for (std::size_t r = 0; r < m_.rules.size(); ++r) {
      if (m_.rules_off.contains(static_cast<Index>(r))) continue;
      const RuleFamily& rules = *m_.rules[r];
      if (rules.is_tour()) return fmt::format("rule {} asks for a round trip", rules.name);
      if (rules.soft()) return fmt::format("rule {} may be missed at a price", rules.name);
      for (const Condition& c : rules.conditions) {
        if (c.kind != Condition::Kind::compare)
          return fmt::format("rule {} is a condition", rules.name);
        if (!c.body.is_linear() || !c.low.is_linear() || !c.high.is_linear())
          return fmt::format("rule {} has a term that is no sum", rules.name);
      }
    }
    if (!m_.goals.empty() && !m_.goal_with_charges(0).is_linear())
      return fmt::format("the goal {} has a term that is no sum", m_.goals[0].name);
    return {};
  }
  [[nodiscard]] bool all_sums() const { return no_sum().empty(); }

  void need_sums() const {
    const std::string why = no_sum();
    if (why.empty()) return;
    if (why.find("round trip") != std::string::npos)
      throw UsageError("a tableau holds sums only, and " + why +
                       ", which would take more rows than anybody can write");
    throw UsageError(
        "a tableau holds sums only, and " + why +
        "; asked for as sums (--as-sums), it is taken in the form that the solver makes "
        "of it");
  }

  void rules() {
    Index row = 0;
    for (std::size_t r = 0; r < m_.rules.size(); ++r) {
      if (m_.rules_off.contains(static_cast<Index>(r))) continue;
      const RuleFamily& rules = *m_.rules[r];
      for (Index i = 0; i < rules.index.count; ++i, ++row)
        rule(m_.rule_name(static_cast<Index>(r), i), row, rules.conditions[at(i)]);
    }
  }

  void rule(const std::string& name, Index row, const Condition& condition) {
    const LinearRule linear = linear_rule(collector_, condition);
    StatedSum sum;
    sum.row.name = name;
    sum.row.rule = row;
    sum.row.terms = in_order(linear.terms);
    sum.low = linear.low;
    sum.high = linear.high;
    add(std::move(sum));
  }

  void add(StatedSum sum) {
    if (!sum.low.is_finite() && !sum.high.is_finite()) return;
    // A rule without decisions that does not hold stays: its room shows that there is no plan.
    if (sum.row.terms.empty() && sum.low.sign() <= 0 && sum.high.sign() >= 0) return;
    out_.rows.push_back(std::move(sum));
  }

  void goal() {
    out_.goal.assign(out_.columns.size(), Rational());
    out_.goal_name = m_.goals.empty() ? "the goal" : m_.goals[0].name;
    if (m_.goals.empty()) return;
    out_.maximize = m_.goals[0].sense == Sense::maximize;
    const LinearForm form = collector_.collect(m_.goal_with_charges(0));
    out_.goal_constant = form.constant;
    for (const Expression::Term& t : form.terms) out_.goal[at(t.decision)] = t.coefficient;
  }

  // The problem that the solver makes of the model, where that is all rows.
  void lowered() {
    const Lowering lowering = lower(m_, false, true);
    const mip::Problem& p = lowering.problem;
    if (!p.complete())
      throw UsageError(
          "a tableau holds sums only, and a round trip would take more rows than "
          "anybody can write");
    if (mip::num_indicator_rows(p) > 0)
      throw UsageError(
          "a condition of this model has no form as a sum, for want of a limit: give the "
          "decisions in it finite limits");
    if (!p.linear())
      throw UsageError("a product, power or root of decisions in this model has no form as sums");
    need_size(at(p.num_columns()), at(p.num_rows()));
    for (Index j = m_.num_decisions; j < p.num_columns(); ++j) helper(lowering, j);
    for (const LoweredRow& r : lowering.rows) {
      const std::string name = m_.rule_name(r.family, r.member);
      for (Index i = r.rows_from; i < r.rows_to; ++i)
        problem_row(
            lowering, i,
            r.rows_to - r.rows_from == 1 ? name : fmt::format("{} ({})", name, i - r.rows_from + 1),
            r.rows_to - r.rows_from == 1 ? r.scale : Rational(1));
    }
    Index further = 0;
    for (Index i = 0; i < p.num_rows(); ++i)
      if (!told_.contains(i)) problem_row(lowering, i, fmt::format("further {}", ++further), 1);
    out_.goal_name = m_.goals.empty() ? "the goal" : m_.goals[0].name;
    out_.maximize = m_.goals.empty() || m_.goals[0].sense == Sense::maximize;
    out_.goal.assign(out_.columns.size(), Rational());
    out_.goal_constant = lowering.goal.constant;
    for (const Expression::Term& t : lowering.goal.terms) out_.goal[at(t.decision)] = t.coefficient;
  }

  void helper(const Lowering& lowering, Index j) {
    const mip::Problem& p = lowering.problem;
    TableauColumn c;
    c.name = fmt::format("helper {}", j - m_.num_decisions + 1);
    if (const std::string of = lowering.helps(j); !of.empty()) c.name += " of " + of;
    c.kind = TableauColumn::Kind::helper;
    c.low = Rational::exactly(p.lower(j));
    c.high = Rational::exactly(p.upper(j));
    if (const auto known = p.known_bounds().find(j); known != p.known_bounds().end()) {
      c.low = known->second.low;
      c.high = known->second.high;
    }
    if (p.integer(j)) c.step = 1;
    out_.columns.push_back(std::move(c));
  }

  void problem_row(const Lowering& lowering, Index i, const std::string& name,
                   const Rational& scale) {
    told_.insert(i);
    const mip::Problem& p = lowering.problem;
    StatedSum sum;
    sum.row.name = name;
    const lp::Exact* known = p.known_row(i);
    const mip::RowView row = p.row(i);
    for (std::size_t k = 0; k < row.index.size(); ++k)
      sum.row.terms.emplace_back(
          row.index[k],
          (known != nullptr ? known->entry(k, row.value[k]) : Rational::exactly(row.value[k])) /
              scale);
    std::sort(sum.row.terms.begin(), sum.row.terms.end(),
              [](const auto& a, const auto& b) { return a.first < b.first; });
    const auto& [low, high] = lowering.limits[at(i)];
    sum.low = low.is_finite() ? low / scale : low;
    sum.high = high.is_finite() ? high / scale : high;
    add(std::move(sum));
  }

  // Limits as rules: a greatest value, and a least one above 0. A column needs something to stand
  // at, so that a least value below 0 stays with it, and so does a greatest without a least.
  void limits() {
    for (std::size_t j = 0; j < out_.columns.size(); ++j) {
      TableauColumn& c = out_.columns[j];
      if (!c.low.is_finite()) continue;
      StatedSum sum;
      sum.row.from = TableauRow::From::limit;
      sum.row.terms = {{static_cast<Column>(j), 1}};
      if (c.low.sign() > 0) {
        sum.row.name = fmt::format("{} >= {}", c.name, fraction(c.low));
        sum.low = c.low;
        out_.rows.push_back(sum);
        c.low = 0;
      }
      if (!c.high.is_finite()) continue;
      sum.low = Rational::minus_infinity();
      sum.high = c.high;
      sum.row.name = fmt::format("{} <= {}", c.name, fraction(c.high));
      out_.rows.push_back(std::move(sum));
      c.high = Rational::infinity();
    }
  }

  const ModelData& m_;
  TableauOptions options_;
  Collector collector_;
  Statement out_;
  std::set<Index> told_;  // rows of the lowered problem
};

}  // namespace

Statement state(const Model& model, const TableauOptions& options) {
  return Stating(model, options).run();
}

}  // namespace kiteknot::workbench
