// How far limits can move. Inward a plan stays possible up to its own value; outward it stays best
// until a better plan is possible, so that the end is what the better plan that needs least of the
// row needs: one solve a side.

#include <algorithm>

#include "model/free_names.hpp"
#include "study/firm_question.hpp"

namespace kiteknot {
namespace {

class LimitFigures {
 public:
  explicit LimitFigures(FirmQuestion& question) : q_(question) {}

  void all(bool multipliers) {
    const ModelData& m = q_.data();
    for (const RuleValue& v : q_.out.best.report->rules) {
      const Condition& c = m.rules[static_cast<std::size_t>(v.family)]
                               ->conditions[static_cast<std::size_t>(v.member)];
      if (v.soft) continue;
      if (v.logical) {
        if (!multipliers) conditional(v, c);
        continue;
      }
      if (!is_linear(c) || !c.body.has_decisions()) continue;
      if (v.two_sided) {
        if (multipliers) multiplied(v, c);
        continue;
      }
      if (multipliers) continue;
      if (v.low == v.high) {
        q_.out.exact.push_back({v.family, v.member});
        continue;
      }
      if (v.high.is_finite()) limit(v, c, true);
      if (v.low.is_finite()) limit(v, c, false);
    }
  }

 private:
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
    const ModelData& m = q_.data();
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
      own += t.coefficient * sign * q_.value(t.decision);
    }
    if (q_.value(of->decision) == Rational(1)) (most ? f.low : f.high) = own;
    outward(std::move(f), rest, most, Decision{m.tag, of->decision}, {});
  }

  // "open implies load >= 8": the same for the limits of what is implied.
  void conditional(const RuleValue& v, const Condition& c) {
    using K = Condition::Kind;
    if (c.kind != K::implies || c.parts[0].kind != K::truth || !is_linear(c.parts[1])) return;
    const Condition& then = c.parts[1];
    if (!then.body.has_decisions() || then.low.has_decisions() || then.high.has_decisions()) return;
    const ModelData& m = q_.data();
    Collector collector(m);
    const LinearForm yes = collector.collect(c.parts[0].body);
    const LinearRule rule = linear_rule(collector, then);
    if (yes.terms.size() != 1 || rule.low == rule.high) return;
    const Index z = yes.terms[0].decision;
    Rational own = rule.moved;
    for (const auto& t : rule.terms) own += t.coefficient * q_.value(t.decision);
    for (const bool upper : {false, true}) {
      const Rational& limit = upper ? rule.high : rule.low;
      if (!limit.is_finite()) continue;
      FirmFigure f;
      f.kind = upper ? FirmFigure::Kind::most : FirmFigure::Kind::least;
      f.row = {v.family, v.member};
      f.decision = z;
      f.now = limit + rule.moved;
      if (q_.value(z) == Rational(1)) (upper ? f.low : f.high) = own;
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
    Model better = q_.model();
    better.keep_rows(
        [&](Index family, Index member) { return family != v.family || member != v.member; });
    if (other_side) better.rule(free_rule(better, "the other side"), *other_side);
    if (given) better.rule(free_rule(better, "given"), Expression(*given) >= 1);
    const Expression goal = better.data().goal_with_charges(0);
    const Rational step = step_of(q_.data(), goal);
    const Number more =
        better.number(free_name(better, "at least better by"), step.is_zero() ? better_by() : step);
    better.rule(free_rule(better, "better"),
                Expression(Rational(q_.sign())) * goal >= q_.worth(q_.out.best) + Expression(more));
    better.forget_goals();
    for (const auto& r : q_.data().rules)
      if (r->soft()) better.or_pay(r->name, 0);
    better.add_goal(free_name(better, "needs"), upper ? Sense::minimize : Sense::maximize, body);
    const auto r = q_.ask(better);
    bool& reached = upper ? f.high_reached : f.low_reached;
    reached = r && (r->outcome == Outcome::infeasible || proven(*r));
    if (r && proven(*r)) {
      Rational end = *r->goals[0].value;
      if (step.is_zero()) {
        // What counts as better is small but not nothing; on to nothing along a straight line, if
        // another solve allows: where it bends the other way the end is told too near.
        better.set(more, Rational(2) * better_by());
        if (const auto twice = q_.ask(better); twice && proven(*twice))
          end = Rational(2) * end - *twice->goals[0].value;
        end = upper ? std::max(end, f.now) : std::min(end, f.now);
      }
      (upper ? f.high : f.low) = end;
      (upper ? f.high_excluded : f.low_excluded) = !step.is_zero();
    }
    q_.out.figures.push_back(std::move(f));
  }

  // What counts as better where the goal does not move in steps.
  [[nodiscard]] Rational better_by() const {
    return Rational(1e-6) * (Rational(1) + q_.out.best.goals[0].value->abs());
  }

  FirmQuestion& q_;
};

}  // namespace

void limit_figures(FirmQuestion& question) {
  LimitFigures(question).all(false);
}

void multiplier_figures(FirmQuestion& question) {
  LimitFigures(question).all(true);
}

int solves_for_limits(const FirmQuestion& question) {
  int sides = 0;
  for (const RuleValue& v : question.out.best.report->rules)
    if (!v.soft && !v.logical && !v.two_sided && v.low != v.high)
      sides += v.low.is_finite() + v.high.is_finite();
  return sides;
}

}  // namespace kiteknot
