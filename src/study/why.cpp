#include "kiteknot/why.hpp"

#include <fmt/format.h>

#include "model/evaluation.hpp"
#include "model/free_names.hpp"
#include "model/model_data.hpp"
#include "study/time_left.hpp"
#include "study/told_plan.hpp"
#include "study/variants.hpp"

namespace kiteknot {
namespace {

// The decision that a condition is about, where it is one.
std::optional<std::int32_t> only_decision(const ModelData& m, const Condition& c) {
  if (c.kind == Condition::Kind::negation) return only_decision(m, c.parts[0]);
  if (c.kind != Condition::Kind::compare && c.kind != Condition::Kind::truth) return std::nullopt;
  Collector collector(m, [](const auto&) -> Index { throw UsageError("a derived term"); });
  try {
    collector.add(c.body, 1);
    if (c.has_low && !c.has_high) collector.add(c.low, -1);
    if (c.has_high) collector.add(c.high, -1);
  } catch (const UsageError&) {
    return std::nullopt;
  }
  const LinearForm form = collector.take();
  if (form.terms.size() != 1) return std::nullopt;
  return form.terms[0].decision;
}

class Asking {
 public:
  Asking(const Model& model, const Condition& condition, const SolveOptions& options, int most)
      : model_(model),
        condition_(condition),
        left_of_time_(options),
        most_(most),
        study_(model),
        out_{Result(model),
             Result(model),
             false,
             {},
             {},
             {},
             {},
             {},
             0,
             model.data().later_goals()} {}

  Why run() {
    ++out_.solves;
    const Model stated = model_;
    out_.best = told_plan(study_, stated, model_, left_of_time_.options());
    if (out_.best.outcome == Outcome::unbounded) return std::move(out_);
    if (out_.best.plan) out_.holds = holds_in(*out_.best.plan);
    other_ = model_;
    other_->rule(free_rule(*other_, "the condition asked"),
                 out_.holds ? negated(condition_) : condition_);
    out_.other = ask(*other_);
    if (out_.other.outcome == Outcome::infeasible && out_.best.outcome != Outcome::infeasible &&
        !out_.holds) {
      out_.clash = find_clash(*other_, left_of_time_.options());
      out_.solves += out_.clash->solves;
    }
    if (out_.other.report)
      for (const RuleValue& v : out_.other.report->rules)
        if (v.binding && v.family < static_cast<Index>(model_.data().rules.size()))
          out_.at_limit.push_back({v.family, v.member});
    if (!proven(out_.best) || !proven(out_.other)) return std::move(out_);
    sign_ = model_.data().goals[0].sense == Sense::maximize ? 1 : -1;
    out_.cost = worth(out_.best) - worth(out_.other);
    find_break_even();
    return std::move(out_);
  }

 private:
  Result ask(const Model& m) {
    ++out_.solves;
    return study_.ask(m, left_of_time_.options());
  }
  bool holds_in(const Plan& plan) const {
    return Evaluation(model_.data(), plan.values(), false).is(condition_);
  }
  [[nodiscard]] Rational worth(const Result& r) const {
    return *r.goals[0].value * Rational(sign_);
  }

  // The coefficient moves by `step` x t: plans with more (less) of the decision become better.
  struct Sides {
    Result all, other;
  };
  std::optional<Sides> solve_at(const Rational& t) {
    Model all = model_, other = *other_;
    const Expression more = Expression(Decision{model_.data().tag, decision_}) *
                            Expression(t * Rational(direction_ * sign_));
    all.add_to_goal(0, more);
    other.add_to_goal(0, more);
    Sides s{ask(all), ask(other)};
    if (!proven(s.all) || !proven(s.other)) return std::nullopt;
    return s;
  }

  void find_break_even() {
    const auto decision = only_decision(model_.data(), condition_);
    if (!decision) return;
    decision_ = *decision;
    const Rational here = (*out_.best.plan)[decision_], there = (*out_.other.plan)[decision_];
    if (here == there || out_.cost->is_zero()) {
      if (out_.cost->is_zero()) out_.no_break_even = "it costs nothing as it is";
      return;
    }
    direction_ = there > here ? 1 : -1;
    // Between plans P and Q of both sides: worth_P + t d x_P = worth_Q + t d x_Q.
    Rational t = *out_.cost / ((there - here) * Rational(direction_));
    Rational low = 0;  // the other side is worse here
    std::optional<Rational> high;
    while (out_.solves + 6 <= most_) {
      const auto s = solve_at(t);
      if (!s) return (void)(out_.no_break_even = "a solve on the way was stopped by a limit");
      const Rational missing = worth(s->all) - worth(s->other);
      if (missing.is_zero() && settle(t)) return;
      if (missing.is_zero())
        high = t;
      else
        low = t;
      const Rational gain =
          ((*s->other.plan)[decision_] - (*s->all.plan)[decision_]) * Rational(direction_);
      Rational next = gain.sign() > 0 ? t + missing / gain : low;
      if (next <= low || (high && next >= *high))
        next = high ? (low + *high) / Rational(2) : t * Rational(2) + Rational(1);
      t = next;
    }
    out_.no_break_even = fmt::format("it was not found within {} solves", most_);
  }

  // Confirmed where a little less leaves the other side worse, and a little more makes it best.
  bool settle(const Rational& t) {
    const Rational now = coefficient();
    const Rational needed = now + t * Rational(direction_ * sign_);
    const Rational size = needed.abs() > Rational(1) ? needed.abs() : Rational(1);
    Rational little = size * Rational::ratio(1, 1000);
    if (little >= t) little = t / Rational(2);
    const auto before = solve_at(t - little), after = solve_at(t + little);
    if (!before || !after || worth(before->all) == worth(before->other)) return false;
    const Rational step = little * Rational(direction_ * sign_);
    out_.break_even =
        BreakEven{decision_,     now,           needed,
                  needed - step, needed + step, worth(after->all) == worth(after->other)};
    return out_.break_even->confirmed;
  }

  Rational coefficient() const {
    Collector collector(model_.data(), [&](const auto&) { return model_.num_decisions(); });
    for (const auto& term : collector.collect(model_.data().goals[0].expression).terms)
      if (term.decision == decision_) return term.coefficient;
    return 0;
  }

  Model model_;
  const Condition& condition_;
  TimeLeft left_of_time_;
  int most_;
  Study study_;
  std::optional<Model> other_;
  std::int32_t decision_ = 0;
  int direction_ = 1, sign_ = 1;
  Why out_;
};

}  // namespace

Why why(const Model& model, const Condition& condition, const SolveOptions& options,
        int most_solves) {
  return Asking(model, condition, options, most_solves).run();
}

}  // namespace kiteknot
