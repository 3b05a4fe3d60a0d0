#include "model/lowering.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/interval.hpp"

namespace kiteknot {
namespace {

const Rational kExactLimit(9007199254740992LL);  // 2^53: whole numbers up to here are exact doubles

// The factor that makes all figures whole and coprime, or 0 where the result would not fit a
// double.
Rational whole_scale(const std::vector<Expression::Term>& terms) {
  Rational denominators = 1, numerators = 0;
  for (const Expression::Term& t : terms) {
    denominators = Rational::lcm(denominators, t.coefficient.denominator());
    if (denominators > kExactLimit) return 0;
  }
  for (const Expression::Term& t : terms)
    numerators = Rational::gcd(numerators, (t.coefficient * denominators).abs());
  if (numerators.is_zero()) return 1;
  const Rational scale = denominators / numerators;
  for (const Expression::Term& t : terms)
    if ((t.coefficient * scale).abs() > kExactLimit) return 0;
  return scale;
}

// The nearest double on the side that cuts nothing off.
double outward(const Rational& limit, bool upper) {
  const double near = limit.to_double();
  if (!limit.is_finite() || std::isinf(near)) return near;
  const Rational back = Rational::exactly(near);
  if (back == limit || (upper ? back > limit : back < limit)) return near;
  return upper ? step_up(near) : step_down(near);
}

class Lowerer {
 public:
  Lowerer(const ModelData& model, bool drop_integrality) : model_(model), collector_(model) {
    out_.relaxed = drop_integrality;
  }

  Lowering run() {
    integer_.resize(static_cast<std::size_t>(model_.num_decisions));
    lower_goal_facts();
    for (const auto& f : model_.families)
      for (Index i = 0; i < f->index.count; ++i) lower_decision(*f, i);
    for (std::size_t r = 0; r < model_.rules.size(); ++r) {
      if (model_.rules_off.contains(static_cast<Index>(r))) continue;
      for (Index i = 0; i < model_.rules[r]->index.count; ++i) lower_rule(static_cast<Index>(r), i);
    }
    return std::move(out_);
  }

 private:
  void lower_goal_facts() {
    cost_.assign(static_cast<std::size_t>(model_.num_decisions), 0.0);
    for (const auto& f : model_.families)
      for (Index i = 0; i < f->index.count; ++i)
        integer_[static_cast<std::size_t>(f->first + i)] = f->integer && !out_.relaxed;
    if (model_.goals.empty()) {
      out_.problem.set_goal_facts(true, 1.0);
      return;
    }
    const Goal& goal = model_.goals[0];
    const LinearForm form = collector_.collect(goal.expression);
    out_.goal_sign = goal.sense == Sense::maximize ? -1 : 1;
    out_.goal_constant = form.constant;
    const Rational scale = whole_scale(form.terms);
    const bool exact = !scale.is_zero();
    out_.goal_scale = exact ? scale : Rational(1);
    bool whole = exact;
    for (const Expression::Term& t : form.terms) {
      cost_[static_cast<std::size_t>(t.decision)] =
          (t.coefficient * out_.goal_scale * out_.goal_sign).to_double();
      whole = whole && integer_[static_cast<std::size_t>(t.decision)];
    }
    out_.problem.set_goal_facts(exact, whole ? 1.0 : 0.0);
  }

  void lower_decision(const Family& f, Index member) {
    const Rational low = model_.lower(f, member, collector_.numbers());
    const Rational high = model_.upper(f, member, collector_.numbers());
    const auto id = static_cast<std::size_t>(f.first + member);
    const bool integer = integer_[id];
    out_.problem.add_column(outward(low, false), outward(high, true), integer, cost_[id]);
  }

  void lower_rule(Index family, Index member) {
    const Condition& c = model_.rules[static_cast<std::size_t>(family)]
                             ->conditions[static_cast<std::size_t>(member)];
    LinearRule rule;
    try {
      rule = linear_rule(collector_, c);
    } catch (const UsageError& e) {
      throw UsageError(fmt::format("rule {}: {}", model_.rule_name(family, member), e.what()));
    }
    LoweredRow record{family, member, 1, false, -1};
    if (rule.terms.empty() && (!rule.low.is_finite() || rule.low.sign() <= 0) &&
        (!rule.high.is_finite() || rule.high.sign() >= 0)) {
      record.always_holds = true;
      out_.rows.push_back(std::move(record));
      return;
    }
    const Rational scale = whole_scale(rule.terms);
    mip::Row row;
    row.exact = !scale.is_zero();
    record.scale = row.exact ? scale : Rational(1);
    row.entries.reserve(rule.terms.size());
    for (const Expression::Term& t : rule.terms) {
      row.entries.push_back({t.decision, (t.coefficient * record.scale).to_double()});
    }
    const auto limit = [&](const Rational& l, bool upper) {
      return l.is_finite() ? outward(l * record.scale, upper) : l.to_double();
    };
    row.lower = limit(rule.low, false);
    row.upper = limit(rule.high, true);
    if (row.lower > row.upper) {  // a range whose lower limit lies above the upper one
      row.entries.clear();
      row.lower = 1.0;
      row.upper = std::numeric_limits<double>::infinity();
    }
    record.problem_row = out_.problem.add_row(row);
    out_.rows.push_back(std::move(record));
  }

  const ModelData& model_;
  Collector collector_;
  Lowering out_;
  std::vector<char> integer_;
  std::vector<double> cost_;
};

}  // namespace

Rational Lowering::to_user(const Rational& goal) const {
  return goal / goal_scale * goal_sign + goal_constant;
}
double Lowering::to_user(double goal) const {
  if (std::isinf(goal)) return goal_sign * goal;
  return to_user(Rational::exactly(goal)).to_double();
}
Rational Lowering::to_problem(const Rational& goal) const {
  return (goal - goal_constant) * goal_sign * goal_scale;
}

Lowering lower(const ModelData& model, bool drop_integrality) {
  return Lowerer(model, drop_integrality).run();
}

}  // namespace kiteknot
