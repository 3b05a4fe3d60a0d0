#include <algorithm>
#include <map>
#include <set>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "kiteknot/study.hpp"
#include "model/curve_uses.hpp"
#include "model/model_data.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot {
namespace {

class Reader {
 public:
  explicit Reader(const Model& model)
      : model_(model), m_(model.data()), collector_(m_), used_(at(m_.num_decisions), 0) {
    lower_.resize(used_.size());
    upper_.resize(used_.size());
    for (const auto& f : m_.families)
      for (Index i = 0; i < f->index.count; ++i) {
        lower_[at(f->first + i)] = m_.lower(*f, i, collector_.numbers());
        upper_[at(f->first + i)] = m_.upper(*f, i, collector_.numbers());
      }
  }

  std::vector<Remark> run() {
    look_at_rules();
    look_at_goal();
    std::vector<std::string> idle;
    for (Index d = 0; d < m_.num_decisions; ++d)
      if (!used_[at(d)]) idle.push_back(m_.decision_name(d));
    if (!idle.empty()) say(fmt::format("no rule and no goal uses {}", listed(idle, 6)));
    if (!of_far_sizes_.empty())
      say(fmt::format("figures of very different size stand in {}", listed(of_far_sizes_, 4)));
    look_at_curves();
    look_at_columns();
    return std::move(remarks_);
  }

 private:
  void say(std::string text) { remarks_.push_back({std::move(text)}); }

  // Rows by their range over the bounds: those that decide nothing, and those that cannot be met.
  void look_at_rules() {
    std::vector<std::string> always, never, of_no_row;
    for (std::size_t r = 0; r < m_.rules.size(); ++r) {
      if (m_.rules[r]->index.count == 0) of_no_row.push_back(m_.rules[r]->name);
      for (Index i = 0; i < m_.rules[r]->index.count; ++i) {
        const Condition& c = m_.rules[r]->conditions[at(i)];
        if (!is_linear(c)) {
          see(c);
          continue;
        }
        const LinearRule rule = linear_rule(collector_, c);
        for (const auto& t : rule.terms) used_[at(t.decision)] = 1;
        look_at_sizes(rule, r, i);
        if (m_.rules_off.contains(static_cast<Index>(r))) continue;
        const Rational low = reach(rule, false), high = reach(rule, true);
        if ((low.is_finite() && low > rule.high) || (high.is_finite() && high < rule.low))
          never.push_back(m_.rule_name(static_cast<Index>(r), i));
        else if (low >= rule.low && high <= rule.high)
          always.push_back(m_.rule_name(static_cast<Index>(r), i));
        else if (!m_.rules[r]->soft())
          look_at_choices(rule, low, high, m_.rule_name(static_cast<Index>(r), i));
      }
    }
    if (!never.empty()) say(fmt::format("no choice at all can meet {}", listed(never, 6)));
    if (!always.empty())
      say(fmt::format("every choice meets {}: nothing is ruled out there", listed(always, 6)));
    if (!of_no_row.empty())
      say(fmt::format("no row is left for {}, so nothing is asked there", listed(of_no_row, 6)));
    if (!settled_out_.empty())
      say(fmt::format("{} can never be taken: a rule is broken by that alone",
                      listed(settled_out_, 6)));
    if (!settled_in_.empty())
      say(fmt::format("{} always has to be taken: a rule cannot be met without",
                      listed(settled_in_, 6)));
  }

  // Yes-or-no decisions that one row settles by itself, the others at their best for it.
  void look_at_choices(const LinearRule& rule, const Rational& low, const Rational& high,
                       const std::string& name) {
    for (const auto& t : rule.terms) {
      if (lower_[at(t.decision)] != Rational(0) || upper_[at(t.decision)] != Rational(1) ||
          !m_.whole(t.decision) || t.coefficient.is_zero())
        continue;
      const bool up = t.coefficient.sign() > 0;
      const Rational size = t.coefficient.abs();
      // With the decision where it hurts, the row reaches no lower, or no higher, than this.
      const bool too_much = low.is_finite() && low + size > rule.high,
                 too_little = high.is_finite() && high - size < rule.low;
      if ((!too_much && !too_little) || !settled_.insert(t.decision).second) continue;
      const bool out = too_much ? up : !up;
      (out ? settled_out_ : settled_in_)
          .push_back(fmt::format("{} ({})", m_.decision_name(t.decision), name));
    }
  }

  void see(const Expression& e) {
    for (const auto& t : e.terms()) used_[at(t.decision)] = 1;
    for (const auto& t : e.factored())
      if (t.decision >= 0) used_[at(t.decision)] = 1;
    for (const auto& t : e.derived()) {
      for (const Expression& arg : t.what->args) see(arg);
      see(t.what->condition);
    }
  }
  void see(const Condition& c) {
    for (const Expression* e : {&c.body, &c.low, &c.high}) see(*e);
    for (const Condition& part : c.parts) see(part);
    if (c.kind == Condition::Kind::tour) see(*c.trips);
  }
  void see(const TourRule& rule) {
    for (std::size_t k = 0; k < rule.ends.size(); ++k) used_[at(rule.legs->first) + k] = 1;
    for (const Index d : rule.visit)
      if (d >= 0) used_[at(d)] = 1;
  }

  // Coefficients of one rule that are more than a million times apart: a unit was perhaps mixed up.
  void look_at_sizes(const LinearRule& rule, std::size_t r, Index i) {
    if (rule.terms.size() < 2) return;
    const auto [least, most] = std::minmax_element(
        rule.terms.begin(), rule.terms.end(),
        [](const auto& a, const auto& b) { return a.coefficient.abs() < b.coefficient.abs(); });
    if (most->coefficient.abs() > least->coefficient.abs() * Rational(1'000'000))
      of_far_sizes_.push_back(fmt::format("{} ({} against {})",
                                          m_.rule_name(static_cast<Index>(r), i),
                                          figure(least->coefficient), figure(most->coefficient)));
  }

  void look_at_curves() {
    const std::vector<Rational> numbers = m_.number_values();
    for (const auto& c : m_.curves) {
      const std::vector<CurvePiece> pieces = CurvesNow::made(*c, numbers);
      const auto same = [&](const CurvePiece& p) {
        return p.from == p.to || p.slope == pieces.back().slope;
      };
      bool jumps = false;
      for (std::size_t k = 0; k + 1 < pieces.size(); ++k)
        jumps = jumps || pieces[k].at(pieces[k].to) != pieces[k + 1].value;
      if (!jumps && pieces.size() > 1 && std::all_of(pieces.begin(), pieces.end(), same) &&
          pieces.front().from != pieces.front().to)
        say(fmt::format("the pieces of {} neither rise nor fall against each other: one would do",
                        c->name));
    }
    // Curves that hold back what the decisions' own limits would allow.
    CurvesNow curves;
    std::map<std::string, std::pair<Rational, Rational>> held;  // by curve: its end, the reach
    each_curve_use(m_, [&](const Derived& use) {
      const Rational& to = curves.pieces(*use.curve, numbers).back().to;
      const Rational most = reach_of(m_, use.args[0]).second;
      if (!to.is_finite() || most <= to) return;
      const auto it = held.emplace(use.curve->name, std::pair(to, most)).first;
      it->second.second = std::max(it->second.second, most);
    });
    for (const auto& [name, ends] : held)
      say(
          fmt::format("{} is stated to {} and used of what could be {}: its end is a limit like a "
                      "rule",
                      name, figure(ends.first),
                      ends.second.is_finite() ? "up to " + figure(ends.second) : "without end"));
  }

  void look_at_columns() {
    if (!m_.uses_noted) return;
    std::set<const TableData*> tables;
    const auto see_tables = [&](const IndexSet& index) {
      for (const Table& t : index.tables) tables.insert(&t.data());
    };
    for (const auto& f : m_.families) see_tables(f->index);
    for (const auto& r : m_.rules) see_tables(r->index);
    std::vector<std::string> unused;
    for (const TableData* t : tables)
      for (std::size_t c = 0; c < t->columns.size(); ++c) {
        if (std::find(t->key.begin(), t->key.end(), static_cast<Index>(c)) != t->key.end())
          continue;
        const auto table = m_.column_uses.find(t->name);
        if (table == m_.column_uses.end() || !table->second.contains(t->columns[c]))
          unused.push_back(t->name + "." + t->columns[c]);
      }
    for (const TableData* t : tables) look_for_totals(*t);
    std::sort(unused.begin(), unused.end());
    if (!unused.empty()) say(fmt::format("nothing reads {}", listed(unused, 8)));
  }

  // A last row that has the sums of the others is counted like one of them.
  void look_for_totals(const TableData& t) {
    const Index last = t.num_rows() - 1;
    if (last < 2 || t.key.empty() || t.tables.contains(t.key[0])) return;
    std::size_t sums = 0, figures = 0;
    for (std::size_t c = 0; c < t.columns.size(); ++c) {
      const auto column = static_cast<Index>(c);
      if (t.tables.contains(column) || std::find(t.key.begin(), t.key.end(), column) != t.key.end())
        continue;
      Rational sum = 0;
      bool all = true;
      for (Index r = 0; r < last && all; ++r) {
        const std::optional<Rational> v = t.figure(r, column);
        all = v && v->is_finite();
        if (all) sum += *v;
      }
      const std::optional<Rational> total = all ? t.figure(last, column) : std::nullopt;
      if (!total) continue;
      ++figures;
      sums += *total == sum && !sum.is_zero() ? 1 : 0;
    }
    std::string name(t.cell(last, t.key[0]));
    for (char& c : name)
      if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
    const bool named = name.starts_with("total") || name.starts_with("sum") || name == "all";
    if (sums > 0 && sums == figures && (named || sums > 1))
      say(
          fmt::format("the last row of {}, '{}', has the sums of the others and counts like one of "
                      "them; a line of totals does not belong in a table",
                      t.name, t.cell(last, t.key[0])));
  }

  // The least or greatest value of a rule's left side over the bounds.
  Rational reach(const LinearRule& rule, bool greatest) const {
    Rational sum = 0;
    for (const auto& t : rule.terms) {
      const Rational& end =
          (t.coefficient.sign() > 0) == greatest ? upper_[at(t.decision)] : lower_[at(t.decision)];
      if (!end.is_finite()) return greatest ? Rational::infinity() : Rational::minus_infinity();
      sum += t.coefficient * end;
    }
    return sum;
  }

  void look_at_goal() {
    if (m_.goals.empty())
      return say("the model has no goal; any plan that meets the rules is as good as another");
    for (const Goal& g : m_.goals) see(g.expression);
    const Goal& goal = m_.first_goal();
    if (!goal.expression.is_linear()) return;
    const LinearForm form = collector_.collect(goal.expression);
    for (const auto& t : form.terms) used_[at(t.decision)] = 1;
    if (form.terms.empty())
      return say(fmt::format("{} does not depend on any decision", goal.name));
    const int sign = goal.sense == Sense::maximize ? 1 : -1;
    const bool zero_is_best = std::all_of(form.terms.begin(), form.terms.end(), [&](const auto& t) {
      const Rational& end =
          t.coefficient.sign() * sign > 0 ? upper_[at(t.decision)] : lower_[at(t.decision)];
      return end.is_zero();
    });
    if (!zero_is_best) return;
    const PlanReport nothing = check(model_, Plan(model_));
    if (nothing.feasible)
      say(
          fmt::format("with everything at 0, {} is {}, the best it could ever be, and all rules "
                      "hold: is a rule missing?",
                      goal.name, figure(*nothing.goal)));
  }

  const Model& model_;
  const ModelData& m_;
  Collector collector_;
  std::vector<char> used_;
  std::vector<Rational> lower_, upper_;
  std::vector<Remark> remarks_;
  std::set<Index> settled_;                            // decisions told already
  std::vector<std::string> settled_out_, settled_in_;  // "run[tea tent] (crew)"
  std::vector<std::string> of_far_sizes_;
};

}  // namespace

std::vector<Remark> worth_a_look(const Model& model) {
  return Reader(model).run();
}

}  // namespace kiteknot
