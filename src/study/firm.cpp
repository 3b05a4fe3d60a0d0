#include "kiteknot/firm.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/tolerances.hpp"
#include "model/curve_figures.hpp"
#include "model/curve_uses.hpp"
#include "model/evaluation.hpp"
#include "model/model_data.hpp"
#include "model/number_node.hpp"
#include "study/time_left.hpp"
#include "study/variants.hpp"

namespace kiteknot {
namespace {

class Firm {
 public:
  Firm(const Model& model, const SolveOptions& options, int most)
      : model_(model),
        left_of_time_(options),
        study_(model),
        left_(most),
        out_{Result(model), {}, {}, 0, 0, model.data().later_goals()} {
    if (model_.data().goals.size() > 1) model_.only_goal(0);
  }

  Firmness run() {
    --left_;
    ++out_.solves;
    out_.best = study_.ask(model_, left_of_time_.options());
    if (!proven(out_.best)) return std::move(out_);
    const Goal& goal = model_.data().goals[0];
    sign_ = goal.sense == Sense::maximize ? 1 : -1;
    const bool whole = moves_in_steps(model_.data(), model_.data().goal_with_charges(0));
    tolerance_ =
        whole ? Rational(0) : Rational(1e-7) * (Rational(1) + out_.best.goals[0].value->abs());
    coefficients();
    curves();
    limits();
    std::stable_sort(
        out_.figures.begin(), out_.figures.end(),
        [](const FirmFigure& a, const FirmFigure& b) { return a.tightness() < b.tightness(); });
    for (const FirmFigure& f : out_.figures)
      out_.not_reached += f.low_reached && f.high_reached ? 0 : 1;
    return std::move(out_);
  }

 private:
  std::optional<Result> ask(const Model& m) {
    if (left_ <= 0 || left_of_time_.over()) return std::nullopt;
    --left_;
    ++out_.solves;
    return study_.ask(m, left_of_time_.options());
  }
  [[nodiscard]] Rational worth(const Result& r) const {
    return *r.goals[0].value * Rational(sign_);
  }
  [[nodiscard]] const Rational& value(Index d) const { return (*out_.best.plan)[d]; }

  // Those with the smallest reduced cost first: they are likely to be tight.
  void coefficients() {
    const ModelData& m = model_.data();
    Collector collector(m, [&](const auto&) { return m.num_decisions; });
    std::vector<Expression::Term> terms = collector.collect(m.goals[0].expression).terms;
    std::erase_if(terms, [&](const auto& t) { return t.decision >= m.num_decisions; });
    const auto& reduced = out_.best.relaxed.reduced_costs;
    if (!reduced.empty())
      std::stable_sort(terms.begin(), terms.end(), [&](const auto& a, const auto& b) {
        return std::abs(reduced[static_cast<std::size_t>(a.decision)]) <
               std::abs(reduced[static_cast<std::size_t>(b.decision)]);
      });
    for (const auto& t : terms) {
      FirmFigure f;
      f.decision = t.decision;
      f.now = t.coefficient;
      // A plan with more of it catches up when a unit is worth more, one with less when less.
      const End more = catch_up(t.decision, 1), less = catch_up(t.decision, -1);
      const End &up = sign_ > 0 ? more : less, &down = sign_ > 0 ? less : more;
      if (up.at) f.high = f.now + *up.at;
      if (down.at) f.low = f.now - *down.at;
      f.high_reached = up.settled;
      f.low_reached = down.settled;
      out_.figures.push_back(std::move(f));
    }
  }

  struct End {
    std::optional<Rational> at;  // distance; none: no end
    bool settled = false;
  };

  // The least t at which some plan with more (direction 1) or less (-1) of the decision is as good
  // as the best one when each unit of that counts t more.
  End catch_up(Index d, int direction) {
    const ModelData& m = model_.data();
    const Family& f = m.family_of(d);
    const std::vector<Rational> numbers = m.number_values();
    const Rational& k = value(d);
    const Rational end =
        direction > 0 ? m.upper(f, d - f.first, numbers) : m.lower(f, d - f.first, numbers);
    if (end == k) return {{}, true};
    const Expression x(Decision{m.tag, d});
    Model beyond = model_;
    if (m.whole(f, d - f.first)) {
      beyond.rule("beyond", direction > 0 ? x >= k + Rational(1) : x <= k - Rational(1));
    } else {
      return catch_up(x, direction);
    }
    const auto first = ask(beyond);
    if (!first) return {};
    if (first->outcome == Outcome::infeasible) return {{}, true};
    if (!proven(*first)) return {};
    const Rational by = ((*first->plan)[d] - k) * Rational(direction);
    const Rational t = (worth(out_.best) - worth(*first)) / by;
    if (f.binary) return {t, true};
    return ratio(beyond, x, direction, t);
  }

  // What an expression comes to at a plan.
  [[nodiscard]] Rational value_at(const Expression& e, const Plan& plan) const {
    return Evaluation(model_.data(), plan.values(), true).value(e);
  }

  // The same of an expression in place of a decision: it starts from the plan that has most of it.
  End catch_up(const Expression& x, int direction) {
    const Rational k = value_at(x, *out_.best.plan);
    Model farthest = model_;
    farthest.forget_goals();
    farthest.add_goal("farthest", direction > 0 ? Sense::maximize : Sense::minimize, x);
    const auto most = ask(farthest);
    if (!most || !proven(*most)) return {};
    const Rational by = (value_at(x, *most->plan) - k) * Rational(direction);
    if (by <= Rational(kStatedTolerance) * (Rational(1) + k.abs())) return {{}, true};
    const Rational far_worth =
        check(model_, Plan(model_, most->plan->values())).goal.value() * Rational(sign_);
    return ratio(model_, x, direction, (worth(out_.best) - far_worth) / by);
  }

  // Dinkelbach: the best plan at t has a smaller ratio, or t is the least one.
  End ratio(const Model& among, const Expression& x, int direction, Rational t) {
    constexpr int kMostRounds = 40;
    const Rational k = value_at(x, *out_.best.plan);
    for (int round = 0; round < kMostRounds; ++round) {
      Model at = among;
      at.add_to_goal(0, x * Expression(t * Rational(direction * sign_)));
      const auto r = ask(at);
      if (!r || !proven(*r)) return {t, false};
      const Rational more = worth(*r) - (worth(out_.best) + t * Rational(direction) * k);
      const Rational by = (value_at(x, *r->plan) - k) * Rational(direction);
      if (more <= tolerance_ || by.sign() <= 0) return {t, true};
      t -= more / by;
    }
    return {t, false};
  }

  // Rates and values of curves that stand in the goal by themselves and nowhere else.
  void curves() {
    const ModelData& m = model_.data();
    CurvesNow now;
    const std::vector<Rational> numbers = m.number_values();
    for (const auto& c : m.curves) {
      std::vector<const Expression::DerivedTerm*> uses;
      for (const auto& t : m.goals[0].expression.derived())
        if (t.what->kind == Derived::Kind::curve && t.what->curve == c) uses.push_back(&t);
      std::size_t anywhere = 0;
      each_curve_use(m, [&](const Derived& use) { anywhere += use.curve == c ? 1 : 0; });
      if (uses.empty() || uses.size() != anywhere) continue;
      for (const CurveFigure& figure : curve_figures(*c, now.pieces(*c, numbers))) {
        Expression x;  // what the goal changes by per unit of the figure
        for (const auto* t : uses)
          x += Expression(t->coefficient * (t->factor ? evaluate(*t->factor, numbers) : 1)) *
               figure.by(t->what->args[0]);
        FirmFigure f;
        f.kind = FirmFigure::Kind::curve;
        f.curve = fmt::format("{} of {}", figure.name, c->name);
        f.now = figure.now;
        End more, less;
        try {
          more = catch_up(x, 1);
          less = catch_up(x, -1);
        } catch (const UsageError&) {
          continue;  // it jumps where a real argument may stand
        }
        const End &up = sign_ > 0 ? more : less, &down = sign_ > 0 ? less : more;
        if (up.at) f.high = f.now + *up.at;
        if (down.at) f.low = f.now - *down.at;
        f.high_reached = up.settled;
        f.low_reached = down.settled;
        out_.figures.push_back(std::move(f));
      }
    }
  }

  void limits() {
    const ModelData& m = model_.data();
    for (const RuleValue& v : out_.best.report->rules) {
      const Condition& c = m.rules[static_cast<std::size_t>(v.family)]
                               ->conditions[static_cast<std::size_t>(v.member)];
      if (v.soft) continue;
      if (v.logical) {
        conditional(v, c);
        continue;
      }
      if (!is_linear(c) || !c.body.has_decisions()) continue;
      if (v.two_sided) {
        multiplied(v, c);
        continue;
      }
      if (v.low == v.high) {
        out_.exact.push_back({v.family, v.member});
        continue;
      }
      if (v.high.is_finite()) limit(v, c, true);
      if (v.low.is_finite()) limit(v, c, false);
    }
  }

  void limit(const RuleValue& v, const Condition& c, bool upper) {
    FirmFigure f;
    f.kind = upper ? FirmFigure::Kind::most : FirmFigure::Kind::least;
    f.row = {v.family, v.member};
    f.now = upper ? v.high : v.low;
    (upper ? f.low : f.high) = v.value;
    std::optional<Condition> other;
    if (upper ? v.low.is_finite() : v.high.is_finite())
      other = upper ? c.body >= v.low : c.body <= v.high;
    outward(std::move(f), c.body, upper, {}, other);
  }

  // "sum <= capacity * open": the capacity counts for plans with the decision only, and is a limit
  // of the sum there.
  void multiplied(const RuleValue& v, const Condition& c) {
    const ModelData& m = model_.data();
    Collector collector(m);
    LinearRule rule = linear_rule(collector, c);
    const bool upper = rule.high.is_finite();
    if (upper == rule.low.is_finite() || !(upper ? rule.high : rule.low).is_zero()) return;
    // With all on one side, sum <= 0: a single decision below 0 makes room for the others (most),
    // a single one above 0 asks for them (least).
    const auto count = [&](bool below) {
      return std::count_if(rule.terms.begin(), rule.terms.end(), [&](const auto& t) {
        return ((t.coefficient.sign() < 0) == upper) == below;
      });
    };
    const bool most = count(true) == 1;
    if (!most && count(false) != 1) return;
    const auto of = std::find_if(rule.terms.begin(), rule.terms.end(), [&](const auto& t) {
      return ((t.coefficient.sign() < 0) == upper) == most;
    });
    if (!m.family_of(of->decision).binary || of->coefficient.abs() == Rational(1)) return;
    FirmFigure f;
    f.kind = FirmFigure::Kind::multiplier;
    f.row = {v.family, v.member};
    f.decision = of->decision;
    f.now = of->coefficient.abs();
    const Rational sign(upper == most ? 1 : -1);  // of the others on their own side
    Expression rest;
    Rational own = 0;
    for (const auto& t : rule.terms) {
      if (t.decision == of->decision) continue;
      rest += Expression(t.coefficient * sign) * Expression(Decision{m.tag, t.decision});
      own += t.coefficient * sign * value(t.decision);
    }
    if (value(of->decision) == Rational(1)) (most ? f.low : f.high) = own;
    outward(std::move(f), rest, most, Decision{m.tag, of->decision}, {});
  }

  // "open implies load >= 8": the same for the limits of what is implied.
  void conditional(const RuleValue& v, const Condition& c) {
    using K = Condition::Kind;
    if (c.kind != K::implies || c.parts[0].kind != K::truth || !is_linear(c.parts[1])) return;
    const Condition& then = c.parts[1];
    if (!then.body.has_decisions() || then.low.has_decisions() || then.high.has_decisions()) return;
    const ModelData& m = model_.data();
    Collector collector(m);
    const LinearForm yes = collector.collect(c.parts[0].body);
    const LinearRule rule = linear_rule(collector, then);
    if (yes.terms.size() != 1 || rule.low == rule.high) return;
    const Index z = yes.terms[0].decision;
    Rational own = rule.moved;
    for (const auto& t : rule.terms) own += t.coefficient * value(t.decision);
    for (const bool upper : {false, true}) {
      const Rational& limit = upper ? rule.high : rule.low;
      if (!limit.is_finite()) continue;
      FirmFigure f;
      f.kind = upper ? FirmFigure::Kind::most : FirmFigure::Kind::least;
      f.row = {v.family, v.member};
      f.decision = z;
      f.now = limit + rule.moved;
      if (value(z) == Rational(1)) (upper ? f.low : f.high) = own;
      std::optional<Condition> other;
      const Rational& end = upper ? rule.low : rule.high;
      if (end.is_finite())
        other = upper ? then.body >= end + rule.moved : then.body <= end + rule.moved;
      outward(std::move(f), then.body, upper, Decision{m.tag, z}, other);
    }
  }

  // Moving inward, the plan stays possible up to its own value, which f has already; moving outward
  // it stays best until a better plan is possible: the one that needs least of the row. `given`:
  // the row counts for plans with this decision only; a better one without it would be there now.
  void outward(FirmFigure f, const Expression& body, bool upper,
               const std::optional<Decision>& given, const std::optional<Condition>& other_side) {
    const RuleRow v = f.row;
    Model better = model_;
    better.keep_rows(
        [&](Index family, Index member) { return family != v.family || member != v.member; });
    if (other_side) better.rule("the other side", *other_side);
    if (given) better.rule("given", Expression(*given) >= 1);
    const Expression goal = better.data().goal_with_charges(0);
    const Rational step = step_of(model_.data(), goal);
    const Number more = better.number("at least better by", step.is_zero() ? better_by() : step);
    better.rule("better",
                Expression(Rational(sign_)) * goal >= worth(out_.best) + Expression(more));
    better.forget_goals();
    for (const auto& r : model_.data().rules)
      if (r->soft()) better.or_pay(r->name, 0);
    better.add_goal("needs", upper ? Sense::minimize : Sense::maximize, body);
    const auto r = ask(better);
    bool& reached = upper ? f.high_reached : f.low_reached;
    reached = r && (r->outcome == Outcome::infeasible || proven(*r));
    if (r && proven(*r)) {
      Rational end = *r->goals[0].value;
      if (step.is_zero()) {
        // What counts as better is small but not nothing; on to nothing along a straight line, if
        // another solve allows: where it bends the other way the end is told too near.
        better.set(more, Rational(2) * better_by());
        if (const auto twice = ask(better); twice && proven(*twice))
          end = Rational(2) * end - *twice->goals[0].value;
        end = upper ? std::max(end, f.now) : std::min(end, f.now);
      }
      (upper ? f.high : f.low) = end;
      (upper ? f.high_excluded : f.low_excluded) = !step.is_zero();
    }
    out_.figures.push_back(std::move(f));
  }

  // What counts as better where the goal does not move in steps.
  [[nodiscard]] Rational better_by() const {
    return Rational(1e-6) * (Rational(1) + out_.best.goals[0].value->abs());
  }

  Model model_;
  TimeLeft left_of_time_;
  Study study_;
  int left_, sign_ = 1;
  Rational tolerance_;
  Firmness out_;
};

}  // namespace

double FirmFigure::tightness() const {
  double room = HUGE_VAL;
  if (low) room = std::min(room, (now - *low).to_double());
  if (high) room = std::min(room, (*high - now).to_double());
  return room / std::max(std::abs(now.to_double()), 1e-9);
}

Firmness firmness(const Model& model, const SolveOptions& options, int most_solves) {
  if (most_solves < 1) throw UsageError("a budget has at least one solve");
  return Firm(model, options, most_solves).run();
}

}  // namespace kiteknot
