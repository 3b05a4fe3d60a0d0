// The check of a plan as stated: every rule in exact rationals, decimals by their meaning.

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "base/tolerances.hpp"
#include "kiteknot/plan.hpp"
#include "kiteknot/result.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

// Value and sum of |terms| of an expression under a plan.
struct Sum {
  Rational value, size;
};

Sum evaluate(const Expression& e, const Plan& plan, const std::vector<Rational>& numbers,
             bool with_size) {
  Sum sum{e.constant(), e.constant().abs()};
  const auto add = [&](const Rational& term) {
    sum.value += term;
    if (with_size) sum.size += term.abs();
  };
  for (const Expression::Term& t : e.terms())
    if (!plan[t.decision].is_zero()) add(t.coefficient * plan[t.decision]);
  for (const Expression::FactoredTerm& t : e.factored()) {
    const Rational factor = evaluate(*t.factor, numbers);
    add(t.decision >= 0 ? factor * plan[t.decision] : factor);
  }
  return sum;
}

class Checker {
 public:
  Checker(const ModelData& model, const Plan& plan, bool relaxed)
      : model_(model),
        plan_(plan),
        numbers_(model.number_values()),
        stated_tolerance_(Rational(kStatedTolerance)),
        relaxed_(relaxed),
        any_real_(relaxed) {
    for (const auto& f : model.families) any_real_ = any_real_ || !f->integer;
  }

  PlanReport run() {
    for (const auto& f : model_.families)
      for (Index i = 0; i < f->index.count; ++i) check_decision(*f, i);
    for (std::size_t r = 0; r < model_.rules.size(); ++r) {
      if (model_.rules_off.contains(static_cast<Index>(r))) continue;
      for (Index i = 0; i < model_.rules[r]->index.count; ++i) check_rule(static_cast<Index>(r), i);
    }
    if (!model_.goals.empty())
      report_.goal = evaluate(model_.goals[0].expression, plan_, numbers_, false).value;
    return std::move(report_);
  }

 private:
  // An amount outside a limit: judged against the tolerance that reals have, and remembered.
  bool tolerable(const Rational& outside, const Rational& size, bool real) {
    if (outside.sign() <= 0) return true;
    report_.exact = false;
    report_.largest_violation = std::max(report_.largest_violation, outside.to_double());
    return real && outside <= stated_tolerance_ * (Rational(1) + size);
  }

  void check_decision(const Family& f, Index member) {
    const Index id = f.first + member;
    const Rational& x = plan_[id];
    const Rational low = model_.lower(f, member, numbers_),
                   high = model_.upper(f, member, numbers_);
    const auto fault = [&](std::string what) {
      report_.feasible = false;
      report_.faults.push_back({id, x, std::move(what)});
    };
    const bool integer = f.integer && !relaxed_;
    if (integer && !x.is_integer()) {
      report_.exact = false;
      fault("is not whole");
    }
    if (low.is_finite() && !tolerable(low - x, x.abs(), !integer)) fault("is below " + figure(low));
    if (high.is_finite() && !tolerable(x - high, x.abs(), !integer))
      fault("is above " + figure(high));
  }

  void check_rule(Index family, Index member) {
    const Condition& c = model_.rules[static_cast<std::size_t>(family)]
                             ->conditions[static_cast<std::size_t>(member)];
    RuleValue v;
    v.family = family;
    v.member = member;
    const Sum body = evaluate(c.body, plan_, numbers_, any_real_);
    Rational size = body.size;
    v.value = v.left = body.value;
    v.low = Rational::minus_infinity();
    v.high = Rational::infinity();
    const Expression* other = c.has_high && c.high.has_decisions()
                                  ? &c.high
                                  : (c.has_low && c.low.has_decisions() ? &c.low : nullptr);
    if (other != nullptr) {
      const Sum right = evaluate(*other, plan_, numbers_, any_real_);
      v.two_sided = true;
      v.right = right.value;
      v.value = body.value - right.value;
      size += right.size;
      if (c.has_low) v.low = 0;
      if (c.has_high) v.high = 0;
    } else {
      if (c.has_low) v.low = evaluate(c.low, plan_, numbers_, false).value;
      if (c.has_high) v.high = evaluate(c.high, plan_, numbers_, false).value;
      size += std::max(v.low.is_finite() ? v.low.abs() : Rational(0),
                       v.high.is_finite() ? v.high.abs() : Rational(0));
    }
    Rational room = Rational::infinity();
    if (v.low.is_finite()) room = std::min(room, v.value - v.low);
    if (v.high.is_finite()) room = std::min(room, v.high - v.value);
    v.slack = room;
    v.met = !room.is_finite() || tolerable(-room, size, any_real_);
    v.binding = v.met && room.is_finite() &&
                room <= (any_real_ ? stated_tolerance_ * (Rational(1) + size) : Rational(0));
    report_.feasible = report_.feasible && v.met;
    report_.rules.push_back(std::move(v));
  }

  const ModelData& model_;
  const Plan& plan_;
  std::vector<Rational> numbers_;
  Rational stated_tolerance_;
  bool relaxed_, any_real_;
  PlanReport report_;
};

}  // namespace

Plan::Plan(const Model& model)
    : model_(model.data().tag), values_(static_cast<std::size_t>(model.num_decisions())) {}

Plan::Plan(const Model& model, std::vector<Rational> values)
    : model_(model.data().tag), values_(std::move(values)) {
  if (values_.size() != static_cast<std::size_t>(model.num_decisions()))
    throw UsageError(fmt::format("a plan of {} values was given to a model of {} decisions",
                                 values_.size(), model.num_decisions()));
}

const Rational& Plan::operator[](const Decision& d) const {
  if (d.model != model_) throw UsageError("a plan was asked for a decision of another model");
  return values_[static_cast<std::size_t>(d.id)];
}

void Plan::set(const Decision& d, const Rational& value) {
  if (d.model != model_) throw UsageError("a plan was given a decision of another model");
  if (!value.is_finite()) throw UsageError("a plan holds finite values");
  values_[static_cast<std::size_t>(d.id)] = value;
}

std::int32_t PlanReport::num_missed() const {
  return static_cast<std::int32_t>(
      std::count_if(rules.begin(), rules.end(), [](const RuleValue& r) { return !r.met; }));
}

PlanReport check(const Model& model, const Plan& plan, bool relaxed) {
  return Checker(model.data(), plan, relaxed).run();
}

const Rational& Result::goal() const {
  if (goals.empty() || !goals[0].value)
    throw UsageError("there is no plan, so the goal has no value");
  return *goals[0].value;
}

const Rational& Result::operator[](const Decision& d) const {
  if (!plan) throw UsageError(fmt::format("there is no plan: the model is {}", word(outcome)));
  return (*plan)[d];
}

std::vector<std::string> Result::chosen(const Decisions& family) const {
  std::vector<std::string> names;
  for (Index i = 0; i < family.size(); ++i)
    if (!(*this)[family.member(i)].is_zero()) names.push_back(model_.name(family.member(i)));
  return names;
}

}  // namespace kiteknot
