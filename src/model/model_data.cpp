#include "model/model_data.hpp"

#include <algorithm>

#include "base/at.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot {
const Family& ModelData::family_of(Index decision) const {
  if (decision < 0 || decision >= num_decisions)
    throw UsageError(fmt::format("model '{}' has {}, not one with number {}", title,
                                 counted(at(num_decisions), "decision"), decision));
  const auto it = std::upper_bound(families.begin(), families.end(), decision,
                                   [](Index d, const auto& f) { return d < f->first; });
  // Empty families share their first id with the next one; the owner is the last that starts at or
  // before.
  return **(it - 1);
}

std::string ModelData::decision_name(Index decision) const {
  const Family& f = family_of(decision);
  return full_name(f.name, f.index.keys(decision - f.first));
}

const RuleFamily& ModelData::rule_with(Index family, Index member) const {
  if (family < 0 || at(family) >= rules.size() || member < 0 ||
      member >= rules[at(family)]->index.count)
    throw UsageError(fmt::format("model '{}' has no row {} of a rule {}", title, member, family));
  return *rules[at(family)];
}

std::string ModelData::rule_name(Index family, Index member) const {
  const RuleFamily& rule = rule_with(family, member);
  return full_name(rule.name, rule.index.keys(member));
}

const Goal& ModelData::first_goal() const {
  if (goals.empty()) throw UsageError(fmt::format("model '{}' has no goal", title));
  return goals.front();
}

std::vector<std::string> ModelData::later_goals() const {
  std::vector<std::string> later;
  for (std::size_t k = 1; k < goals.size(); ++k) later.push_back(goals[k].name);
  return later;
}

std::string ModelData::placed(const std::string& of) const {
  const auto it = places.find(of);
  return it == places.end() ? of : it->second + ": " + of;
}

std::vector<Rational> ModelData::number_values() const {
  std::vector<Rational> values;
  for (std::size_t k = 0; k < numbers.size(); ++k) {
    const auto it = set_numbers.find(static_cast<Index>(k));
    if (it != set_numbers.end()) {
      values.push_back(it->second);
      continue;
    }
    try {
      values.push_back(evaluate(numbers[k].value, values));
    } catch (const UsageError& e) {
      throw UsageError(placed(numbers[k].name) + ": " + e.what());
    }
  }
  return values;
}

namespace {
Rational bound_of(const std::vector<Rational>& values,
                  const std::unordered_map<Index, Expression>& by_number, Index member,
                  const std::vector<Rational>& numbers) {
  const auto it = by_number.find(member);
  if (it == by_number.end()) return values.size() == 1 ? values[0] : values[at(member)];
  return evaluate(it->second, numbers);
}
}  // namespace

std::pair<Rational, Rational> ModelData::bounds_if_used(const Family& f, Index member,
                                                        const std::vector<Rational>& values) const {
  return {bound_of(f.lower, f.lower_by_number, member, values),
          bound_of(f.upper, f.upper_by_number, member, values)};
}
Rational ModelData::lower(const Family& f, Index member,
                          const std::vector<Rational>& values) const {
  if (!dropped_limits.empty())
    if (const auto it = dropped_limits.find(f.first + member);
        it != dropped_limits.end() && it->second.lower)
      return Rational::minus_infinity();
  if (!held.empty())
    if (const auto it = held.find(f.first + member); it != held.end()) return it->second;
  Rational low = bound_of(f.lower, f.lower_by_number, member, values);
  return f.or_zero && low.sign() > 0 ? Rational(0) : low;
}
Rational ModelData::upper(const Family& f, Index member,
                          const std::vector<Rational>& values) const {
  if (!dropped_limits.empty())
    if (const auto it = dropped_limits.find(f.first + member);
        it != dropped_limits.end() && it->second.upper)
      return Rational::infinity();
  if (!held.empty())
    if (const auto it = held.find(f.first + member); it != held.end()) return it->second;
  Rational high = bound_of(f.upper, f.upper_by_number, member, values);
  return f.or_zero && high.sign() < 0 ? Rational(0) : high;
}

bool ModelData::whole(const Family& f, Index member) const {
  if (!f.integer || dropped_limits.empty()) return f.integer;
  const auto it = dropped_limits.find(f.first + member);
  return it == dropped_limits.end() || !it->second.whole;
}

Expression ModelData::goal_with_charges(std::size_t goal) const {
  Expression sum = goals[goal].expression;
  if (goal > 0) return sum;
  const int sign = goals[0].sense == Sense::minimize ? 1 : -1;
  for (std::size_t r = 0; r < rules.size(); ++r) {
    if (!rules[r]->soft() || rules_off.contains(static_cast<Index>(r))) continue;
    for (std::size_t i = 0; i < rules[r]->conditions.size(); ++i)
      sum += rules[r]->prices[i] * violation_of(rules[r]->conditions[i]) * Expression(sign);
  }
  return sum;
}

bool is_linear(const Condition& c) {
  return c.kind == Condition::Kind::compare && c.body.is_linear() && c.low.is_linear() &&
         c.high.is_linear();
}

Collector::Collector(const ModelData& model, ColumnOf column_of)
    : column_of_(std::move(column_of)),
      numbers_(model.number_values()),
      value_(at(model.num_decisions)),
      listed_(at(model.num_decisions), 0) {}

void Collector::add(const Expression& e, const Rational& scale) {
  const bool plain = scale == Rational(1);
  const auto add_term = [&](const Rational& coefficient, Index d) {
    if (at(d) >= value_.size()) {
      value_.resize(at(d) + 1);
      listed_.resize(at(d) + 1, 0);
    }
    if (!listed_[at(d)]) {
      listed_[at(d)] = 1;
      list_.push_back(d);
    }
    value_[at(d)] += plain ? coefficient : coefficient * scale;
  };
  constant_ += plain ? e.constant() : e.constant() * scale;
  for (const Expression::Term& t : e.terms()) add_term(t.coefficient, t.decision);
  for (const Expression::FactoredTerm& t : e.factored()) {
    const Rational factor = evaluate(*t.factor, numbers_);
    if (t.decision >= 0)
      add_term(factor, t.decision);
    else
      constant_ += factor * scale;
  }
  for (const Expression::DerivedTerm& t : e.derived()) {
    if (!column_of_) throw UsageError("it is not a sum of decisions with figures");
    const Rational factor =
        t.factor ? evaluate(*t.factor, numbers_) * t.coefficient : t.coefficient;
    if (!factor.is_zero()) add_term(factor, column_of_(t.what));
  }
}

LinearForm Collector::take() {
  LinearForm form;
  form.constant = std::move(constant_);
  constant_ = 0;
  std::sort(list_.begin(), list_.end());
  form.terms.reserve(list_.size());
  for (const Index d : list_) {
    if (!value_[at(d)].is_zero()) form.terms.push_back({std::move(value_[at(d)]), d});
    value_[at(d)] = 0;
    listed_[at(d)] = 0;
  }
  list_.clear();
  return form;
}

LinearForm Collector::collect(const Expression& e) {
  add(e, 1);
  return take();
}

// Decisions of the limit move to the body's side, the body's constant to the limit's.
LinearRule linear_rule(Collector& collector, const Condition& c) {
  LinearRule rule;
  const Expression* moving = c.has_high && c.high.has_decisions()
                                 ? &c.high
                                 : (c.has_low && c.low.has_decisions() ? &c.low : nullptr);
  if (moving != nullptr && c.has_low &&
      c.has_high) {  // an equation, as compare() and within() see to
    const LinearForm difference =
        (collector.add(c.high, 1), collector.add(c.low, -1), collector.take());
    if (!difference.terms.empty())
      throw UsageError("a range rule may not have decisions in its limits; write it as two rules");
  }
  collector.add(c.body, 1);
  if (moving != nullptr) collector.add(*moving, -1);
  LinearForm form = collector.take();
  rule.terms = std::move(form.terms);
  const auto limit = [&](const Expression& e) {
    if (&e == moving) return -form.constant;
    const LinearForm own = collector.collect(e);
    const LinearForm base = moving != nullptr ? collector.collect(*moving) : LinearForm{};
    return own.constant - base.constant - form.constant;
  };
  if (c.kind != Condition::Kind::compare) throw UsageError("it is not a comparison");
  if (c.has_low) rule.low = limit(c.low);
  if (c.has_high) rule.high = limit(c.high);
  rule.moved = moving != nullptr ? Rational(0) : form.constant;
  return rule;
}

}  // namespace kiteknot
