// The check of a plan as stated: every rule in exact rationals, decimals by their meaning.

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "base/tolerances.hpp"
#include "kiteknot/plan.hpp"
#include "model/evaluation.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

class Checker {
 public:
  Checker(const ModelData& model, const Plan& plan, bool relaxed, bool tolerant)
      : model_(model),
        plan_(plan),
        relaxed_(relaxed),
        evaluation_(model, plan.values(), tolerant, relaxed) {}

  PlanReport run() {
    for (const auto& f : model_.families)
      for (Index i = 0; i < f->index.count; ++i) check_decision(*f, i);
    for (std::size_t r = 0; r < model_.rules.size(); ++r) {
      if (model_.rules_off.contains(static_cast<Index>(r))) continue;
      for (Index i = 0; i < model_.rules[r]->index.count; ++i) check_rule(static_cast<Index>(r), i);
    }
    for (const Goal& g : model_.goals) evaluation_.look_inside(g.expression);
    for (const Expression& e : model_.kept_inside) evaluation_.look_inside(e);
    for (std::size_t g = 0; g < model_.goals.size(); ++g)
      report_.goals.push_back(evaluation_.value(model_.goals[g].expression));
    if (!report_.goals.empty()) {
      report_.goals[0] += model_.goals[0].sense == Sense::minimize ? charges_ : -charges_;
      report_.goal = report_.goals[0];
    }
    for (const std::string& sentence : relaxed_ ? std::set<std::string>{} : evaluation_.outside()) {
      report_.feasible = false;
      report_.faults.push_back({-1, 0, sentence});
    }
    return std::move(report_);
  }

 private:
  // An amount outside a limit, at worst: judged against the tolerance that reals have, and
  // remembered.
  bool tolerable(const Rational& by, const Sum& of) {
    const Rational outside = by + of.radius;
    if (outside.sign() <= 0) return true;
    report_.exact = false;
    report_.largest_violation = std::max(report_.largest_violation, outside.to_double());
    return outside <= evaluation_.slack(of);
  }

  // Whether it holds without any tolerance, too.
  bool strictly(const Condition& c) {
    if (!evaluation_.tolerant() || !report_.exact) return true;
    if (!strict_) strict_.emplace(model_, plan_.values(), false, relaxed_);
    return strict_->is(c);
  }

  void check_decision(const Family& f, Index member) {
    const Index id = f.first + member;
    const Rational& x = plan_[id];
    const auto fault = [&](std::string what) {
      report_.feasible = false;
      report_.faults.push_back({id, x, std::move(what)});
    };
    const bool integer = model_.whole(f, member) && !relaxed_;
    if (integer && !x.is_integer()) {
      report_.exact = false;
      fault("is not whole");
    }
    const auto& numbers = evaluation_.numbers();
    const auto outside = [&](const Rational& low, const Rational& high) {
      const Sum of{x, x.abs(), !integer};
      if (low.is_finite() && !tolerable(low - x, of)) return "is below " + figure(low);
      if (high.is_finite() && !tolerable(x - high, of)) return "is above " + figure(high);
      return std::string();
    };
    std::string what = outside(model_.lower(f, member, numbers), model_.upper(f, member, numbers));
    if (!what.empty()) fault(std::move(what));
    if (relaxed_) return;
    const auto near = [&](const Rational& v) {
      return (x - v).abs() <= evaluation_.slack({v, v.abs(), !f.integer});
    };
    if (f.or_zero && !near(0)) {
      const auto [low, high] = model_.bounds_if_used(f, member, numbers);
      what = outside(low, high);
      if (!what.empty()) fault(what + " without being 0");
    }
    if (!f.listed.empty() && std::none_of(f.listed.begin(), f.listed.end(), near)) {
      std::vector<std::string> values;
      for (const Rational& v : f.listed) values.push_back(figure(v));
      fault("is none of " + listed(values, 12));
    }
  }

  void check_rule(Index family, Index member) {
    const RuleFamily& rules = *model_.rules[static_cast<std::size_t>(family)];
    const Condition& c = rules.conditions[static_cast<std::size_t>(member)];
    evaluation_.look_inside(c);
    RuleValue v;
    v.family = family;
    v.member = member;
    v.soft = rules.soft();
    v.low = Rational::minus_infinity();
    v.high = Rational::infinity();
    v.slack = Rational::infinity();
    if (c.kind == Condition::Kind::compare) {
      compare(c, v);
    } else {
      v.logical = true;
      // Fractions have no truth to speak of.
      v.met = relaxed_ || evaluation_.is(c);
      if (!relaxed_ && v.met && !strictly(c)) report_.exact = false;
    }
    if (relaxed_ && !takes_fractions(model_, c)) v.met = true;
    if (v.soft) {
      v.missed_by = evaluation_.value(violation_of(c));
      v.charge = evaluation_.value(rules.prices[static_cast<std::size_t>(member)]) * v.missed_by;
      charges_ += v.charge;
    }
    report_.feasible = report_.feasible && (v.met || v.soft);
    report_.rules.push_back(std::move(v));
  }

  void compare(const Condition& c, RuleValue& v) {
    const Sum body = evaluation_.sum(c.body);
    Sum of = body;
    v.value = v.left = body.value;
    const Expression* other = c.has_high && c.high.has_decisions()
                                  ? &c.high
                                  : (c.has_low && c.low.has_decisions() ? &c.low : nullptr);
    if (other != nullptr) {
      const Sum right = evaluation_.sum(*other);
      v.two_sided = true;
      v.right = right.value;
      v.value = body.value - right.value;
      of.real = of.real || right.real;
      of.radius += right.radius;
      if (c.has_low) v.low = 0;
      if (c.has_high) v.high = 0;
    } else {
      if (c.has_low) v.low = evaluation_.value(c.low);
      if (c.has_high) v.high = evaluation_.value(c.high);
    }
    if (of.real && evaluation_.tolerant())
      of = evaluation_.difference(c.body, other != nullptr ? *other : Expression());
    Rational room = Rational::infinity();
    if (v.low.is_finite()) room = std::min(room, v.value - v.low);
    if (v.high.is_finite()) room = std::min(room, v.high - v.value);
    v.slack = room;
    if (v.soft)
      v.met = !room.is_finite() || room.sign() >= 0;
    else
      v.met = !room.is_finite() || tolerable(-room, of);
    v.binding = v.met && room.is_finite() && room <= evaluation_.slack(of);
  }

  const ModelData& model_;
  const Plan& plan_;
  bool relaxed_;
  Evaluation evaluation_;
  std::optional<Evaluation> strict_;
  Rational charges_;
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
  if (!std::ranges::all_of(values_, &Rational::is_finite))
    throw UsageError("a plan holds finite values");
}

std::size_t Plan::place(const Decision& d) const {
  if (!d.model || d.id < 0 || !understood(d.model, d.id + 1, 0, model_))
    throw UsageError("a plan was asked for a decision of another model");
  const auto k = static_cast<std::size_t>(d.id);
  if (k >= values_.size())
    throw UsageError("a plan was asked for a decision that was stated after it was made");
  return k;
}

const Rational& Plan::operator[](const Decision& d) const& {
  return values_[place(d)];
}

const Rational& Plan::operator[](std::int32_t decision) const& {
  if (decision < 0 || static_cast<std::size_t>(decision) >= values_.size())
    throw UsageError(
        fmt::format("a plan of {} values was asked for number {}", values_.size(), decision));
  return values_[static_cast<std::size_t>(decision)];
}

void Plan::set(const Decision& d, const Rational& value) {
  const std::size_t k = place(d);
  if (!value.is_finite()) throw UsageError("a plan holds finite values");
  values_[k] = value;
}

std::int32_t PlanReport::num_missed() const {
  return static_cast<std::int32_t>(std::count_if(
      rules.begin(), rules.end(), [](const RuleValue& r) { return !r.met && !r.soft; }));
}

void need_plan_of(const ModelData& model, const Plan& plan) {
  if (plan.values().size() != static_cast<std::size_t>(model.num_decisions))
    throw UsageError(fmt::format("a plan of {} values was given to a model of {} decisions",
                                 plan.values().size(), model.num_decisions));
  if (!plan.model() || !understood(plan.model(), model.num_decisions, 0, model.tag))
    throw UsageError(fmt::format("a plan of another model was given to model '{}'", model.title));
}

namespace {
PlanReport checked(const Model& model, const Plan& plan, bool relaxed, bool tolerant) {
  need_plan_of(model.data(), plan);
  return Checker(model.data(), plan, relaxed, tolerant).run();
}
}  // namespace

PlanReport check(const Model& model, const Plan& plan, bool relaxed) {
  return checked(model, plan, relaxed, true);
}

PlanReport check_exactly(const Model& model, const Plan& plan, bool relaxed) {
  return checked(model, plan, relaxed, false);
}

}  // namespace kiteknot
