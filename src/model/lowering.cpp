#include "model/lowering.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/rational_sum.hpp"
#include "mip/kinds/generated_rows.hpp"
#include "model/evaluation.hpp"
#include "model/lowering_builder.hpp"
#include "model/tours/tour_lowering.hpp"

namespace kiteknot {
namespace {

class Lowerer {
 public:
  Lowerer(const ModelData& model, bool drop_integrality, bool keep_limits,
          const Interrupt& interrupt)
      : model_(model), interrupt_(interrupt), builder_(model, out_.problem, drop_integrality) {
    if (keep_limits) builder_.limits = &out_.limits;
    out_.relaxed = drop_integrality;
  }

  Lowering run() {
    std::size_t notes = 1;  // never more than this: references stay valid
    for (const auto& f : model_.families) notes += !f->listed.empty() || f->or_zero;
    notes += model_.rules.size();
    out_.notes.reserve(notes);
    for (const auto& f : model_.families)
      for (Index i = 0; i < f->index.count; ++i) add_decision(*f, i);
    for (const auto& f : model_.families) restrict_values(*f);
    look_at_clock();
    for (std::size_t r = 0; r < model_.rules.size(); ++r)
      if (!model_.rules_off.contains(static_cast<Index>(r))) lower_family(static_cast<Index>(r));
    look_at_clock();
    lower_goal();
    for (std::size_t k = 1; k < model_.goals.size(); ++k)
      builder_.prepare(model_.goals[k].expression);
    for (const Expression& e : model_.kept_inside) builder_.prepare(e);
    builder_.settle();
    builder_.add_terms();
    if (!goal_costs_.empty()) {  // settling has added columns
      goal_costs_.resize(static_cast<std::size_t>(out_.problem.num_columns()));
      out_.problem.set_exact_costs(std::move(goal_costs_));
    }
    if (out_.relaxed) generators_.clear();  // linear rows only
    if (generators_.size() == 1)
      mip::set_generator(out_.problem, generators_[0]);
    else if (!generators_.empty())
      mip::set_generator(out_.problem, std::make_shared<JoinedGenerators>(std::move(generators_)));
    // Notes of rules that came out as plain rows tell nothing.
    std::erase_if(out_.notes, [](const LoweringNote& n) {
      return n.clauses + n.binaries + n.reals + n.conditional == 0 && n.how.empty() &&
             n.largest_bound.is_zero();
    });
    out_.made_for = std::move(builder_.made_for);
    return std::move(out_);
  }

 private:
  void look_at_clock() const {
    if (interrupt_.now()) throw LoweringStopped{};
  }

  void add_decision(const Family& f, Index member) {
    const Index j =
        builder_.add_column(model_.lower(f, member, builder_.numbers()),
                            model_.upper(f, member, builder_.numbers()), model_.whole(f, member));
    if (!f.listed.empty()) builder_.set_step(j, step_of(model_, f.first + member));
  }

  // Listed values by a binary each; nothing or at least some by one binary.
  void restrict_values(const Family& f) {
    if (f.listed.empty() && !f.or_zero) return;
    LoweringNote& note = out_.notes.emplace_back();
    note.of = f.name;
    builder_.note = &note;
    for (Index i = 0; i < f.index.count; ++i) {
      const LinearForm x = single(f.first + i);
      if (f.or_zero) {
        const auto [low, high] = model_.bounds_if_used(f, i, builder_.numbers());
        if (low.sign() <= 0 && high.sign() >= 0) continue;  // 0 is between them anyway
        const ColumnLiteral used = builder_.add_binary();
        builder_.guarded(x, low, high, {used});
        builder_.guarded(x, 0, 0, {!used});
        continue;
      }
      if (f.listed.size() < 2) continue;
      LinearForm one, value, all;
      for (const Rational& v : f.listed) {
        const ColumnLiteral y = builder_.add_binary();
        one = plus(one, single(y.column), 1);
        all.terms.push_back({v, y.column});
        if (!v.is_zero()) value = plus(value, single(y.column), v);
      }
      builder_.note_listed(f.first + i, std::move(all));
      (void)builder_.add_row(one, 1, 1, nullptr);
      (void)builder_.add_row(plus(x, value, -1), 0, 0, nullptr);
    }
  }

  void lower_family(Index family) {
    const RuleFamily& rules = *model_.rules[static_cast<std::size_t>(family)];
    LoweringNote& note = out_.notes.emplace_back();
    note.of = rules.name;
    note.place = model_.placed("rule " + rules.name);
    builder_.note = &note;
    for (Index i = 0; i < rules.index.count; ++i) {
      look_at_clock();
      try {
        lower_rule(family, i, rules);
      } catch (const UsageError& e) {
        const std::string place = model_.placed("rule " + rules.name);
        throw UsageError(fmt::format(
            "{}{}: {}", place, model_.rule_name(family, i).substr(rules.name.size()), e.what()));
      }
    }
    builder_.note = nullptr;
  }

  void lower_rule(Index family, Index member, const RuleFamily& rules) {
    const Condition& c = rules.conditions[static_cast<std::size_t>(member)];
    LoweredRow record{family, member, 1, false, true, -1, 0, 0, true};
    const mip::Problem& p = out_.problem;
    record.rows_from = p.num_rows();
    const Index columns = p.num_columns();
    const Index all_rows = p.num_rows_in_all();
    // Curves keep their ranges, also in a part that does not count.
    if (!rules.soft() && c.kind != Condition::Kind::compare) builder_.prepare(c);
    if (rules.soft()) {  // its violation stands in the goal
      record.linear = false;
    } else if (c.kind == Condition::Kind::tour) {
      record.linear = false;
      if (auto generator = lower_tour(model_, *c.trips, builder_))
        generators_.push_back(std::move(generator));
      builder_.note->how.emplace_back("what rules out loops is added where points break it");
    } else if (c.kind != Condition::Kind::compare) {
      record.linear = false;
      builder_.require(builder_.normal(c, true), {});
    } else {
      const LinearRule rule = builder_.rule(c);
      if (rule.terms.empty() && (!rule.low.is_finite() || rule.low.sign() <= 0) &&
          (!rule.high.is_finite() || rule.high.sign() >= 0)) {
        record.always_holds = true;
      } else {
        record.linear = is_linear(c);
        record.problem_row = builder_.add_row({0, rule.terms}, rule.low, rule.high, &record.scale);
      }
    }
    record.rows_to = p.num_rows();
    record.only_rows = !rules.soft() && !rules.is_tour() && p.num_columns() == columns &&
                       p.num_rows_in_all() - all_rows == p.num_rows() - record.rows_from;
    out_.rows.push_back(std::move(record));
  }

  void lower_goal() {
    if (model_.goals.empty()) {
      out_.problem.set_goal_facts(true, 1.0);
      return;
    }
    LoweringNote& note = out_.notes.emplace_back();
    note.of = model_.goals[0].name;
    note.place = model_.placed(note.of);
    builder_.note = &note;
    try {
      lower_first_goal();
    } catch (const UsageError& e) {
      throw UsageError(fmt::format("{}: {}", note.place, e.what()));
    }
  }

  void lower_first_goal() {
    out_.goal = builder_.form(model_.goal_with_charges(0));
    const bool maximize = model_.goals[0].sense == Sense::maximize;
    builder_.pull(out_.goal, !maximize);  // what is minimised is kept small
    out_.goal_sign = maximize ? -1 : 1;
    out_.goal_constant = out_.goal.constant;
    const Rational scale = whole_scale(out_.goal.terms);
    const bool exact = !scale.is_zero();
    out_.goal_scale = exact ? scale : Rational(1);
    Rational step = exact && !out_.relaxed ? builder_.step(out_.goal) * scale : Rational(0);
    if (const Rational parts = step.denominator(); parts > Rational(1)) {
      // Coefficients as multiples of the step's parts, where they still fit.
      const bool fit = std::all_of(
          out_.goal.terms.begin(), out_.goal.terms.end(),
          [&](const auto& t) { return (t.coefficient * scale * parts).abs() <= kExactLimit; });
      if (fit) out_.goal_scale *= parts;
      step = fit ? step * parts : Rational(0);
    }
    for (const Expression::Term& t : out_.goal.terms)
      out_.problem.set_cost(t.decision,
                            (t.coefficient * out_.goal_scale * out_.goal_sign).to_double());
    if (!exact) {
      std::vector<Rational> costs(static_cast<std::size_t>(out_.problem.num_columns()));
      for (const Expression::Term& t : out_.goal.terms)
        costs[static_cast<std::size_t>(t.decision)] =
            t.coefficient * out_.goal_scale * out_.goal_sign;
      goal_costs_ = std::move(costs);
    }
    out_.problem.set_goal_facts(exact, step <= kExactLimit ? step.to_double() : 0.0);
  }

  const ModelData& model_;
  const Interrupt& interrupt_;
  Lowering out_;
  Builder builder_;
  std::vector<std::shared_ptr<mip::RowGenerator>> generators_;
  std::vector<Rational> goal_costs_;  // where doubles cannot say them
};

}  // namespace

std::string Lowering::helps(Index column) const {
  const auto after = std::upper_bound(
      made_for.begin(), made_for.end(), column,
      [](Index j, const std::pair<Index, std::string>& run) { return j < run.first; });
  return after == made_for.begin() ? "" : std::prev(after)->second;
}

Rational Lowering::to_user(const Rational& value) const {
  return value / goal_scale * goal_sign + goal_constant;
}
double Lowering::to_user(double value) const {
  if (std::isinf(value)) return goal_sign * value;
  return to_user(Rational::exactly(value)).to_double();
}
Rational Lowering::to_problem(const Rational& value) const {
  return (value - goal_constant) * goal_sign * goal_scale;
}
Rational Lowering::goal_at(std::span<const Rational> columns) const {
  RationalSum sum;
  sum += goal.constant;
  for (const Expression::Term& t : goal.terms)
    sum += t.coefficient * columns[static_cast<std::size_t>(t.decision)];
  return sum.value();
}

Lowering lower(const ModelData& model, bool drop_integrality, bool keep_limits,
               const Interrupt& interrupt) {
  return Lowerer(model, drop_integrality, keep_limits, interrupt).run();
}

}  // namespace kiteknot
