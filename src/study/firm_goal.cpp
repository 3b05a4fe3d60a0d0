// How far figures of the goal can move: a coefficient or a figure of a curve counts in proportion
// to something (a decision, a curve of its own), and the least ratio by which a plan with more, or
// less, of that catches up is found by Dinkelbach's method (1967, "On nonlinear fractional
// programming").

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/tolerances.hpp"
#include "model/curve_figures.hpp"
#include "model/curve_uses.hpp"
#include "model/free_names.hpp"
#include "model/number_node.hpp"
#include "study/firm_question.hpp"

namespace kiteknot {
namespace {

class GoalFigures {
 public:
  explicit GoalFigures(FirmQuestion& question) : q_(question) {}

  // Those with the smallest reduced cost first: they are likely to be tight.
  Looked coefficients(std::size_t from) {
    const ModelData& m = q_.data();
    Collector collector(m, [&](const auto&) { return m.num_decisions; });
    std::vector<Expression::Term> terms = collector.collect(m.first_goal().expression).terms;
    std::erase_if(terms, [&](const auto& t) { return t.decision >= m.num_decisions; });
    const auto& reduced = q_.out.best.relaxed.reduced_costs;
    if (!reduced.empty())
      std::stable_sort(terms.begin(), terms.end(), [&](const auto& a, const auto& b) {
        return std::abs(reduced[static_cast<std::size_t>(a.decision)]) <
               std::abs(reduced[static_cast<std::size_t>(b.decision)]);
      });
    std::size_t k = from;
    for (; k < terms.size() && !q_.used_up(); ++k) {
      const auto& t = terms[k];
      FirmFigure f;
      f.decision = t.decision;
      f.now = t.coefficient;
      const End more = catch_up(t.decision, 1), less = catch_up(t.decision, -1);
      put(std::move(f), more, less);
    }
    return {k, terms.size()};
  }

  // Rates and values of curves that stand in the goal by themselves and nowhere else.
  void curves() {
    const ModelData& m = q_.data();
    CurvesNow now;
    const std::vector<Rational> numbers = m.number_values();
    for (const auto& c : m.curves) {
      std::vector<const Expression::DerivedTerm*> uses;
      for (const auto& t : m.first_goal().expression.derived())
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
        put(std::move(f), more, less);
      }
    }
  }

 private:
  struct End {
    std::optional<Rational> at;  // distance; none: no end
    bool settled = false;
  };

  // A plan with more of it catches up when a unit is worth more, one with less when less.
  void put(FirmFigure f, const End& more, const End& less) {
    const End &up = q_.sign() > 0 ? more : less, &down = q_.sign() > 0 ? less : more;
    if (up.at) f.high = f.now + *up.at;
    if (down.at) f.low = f.now - *down.at;
    f.high_reached = up.settled;
    f.low_reached = down.settled;
    q_.out.figures.push_back(std::move(f));
  }

  // The least t at which some plan with more (direction 1) or less (-1) of the decision is as good
  // as the best one when each unit of that counts t more.
  End catch_up(Index d, int direction) {
    const ModelData& m = q_.data();
    const Family& f = m.family_of(d);
    const std::vector<Rational> numbers = m.number_values();
    const Rational& k = q_.value(d);
    const Rational end =
        direction > 0 ? m.upper(f, d - f.first, numbers) : m.lower(f, d - f.first, numbers);
    if (end == k) return {{}, true};
    const Expression x(Decision{m.tag, d});
    if (!m.whole(f, d - f.first)) return catch_up(x, direction);
    Model beyond = q_.model();
    beyond.rule(free_rule(beyond, "beyond"),
                direction > 0 ? x >= k + Rational(1) : x <= k - Rational(1));
    const auto first = q_.ask(beyond);
    if (!first) return {};
    if (first->outcome == Outcome::infeasible) return {{}, true};
    if (!proven(*first)) return {};
    const Rational by = ((*first->plan)[d] - k) * Rational(direction);
    const Rational t = (q_.worth(q_.out.best) - q_.worth(*first)) / by;
    if (f.binary) return {t, true};
    return ratio(beyond, x, direction, t);
  }

  // The same of an expression in place of a decision: it starts from the plan that has most of it.
  End catch_up(const Expression& x, int direction) {
    const Rational k = q_.value_at(x, *q_.out.best.plan);
    Model farthest = q_.model();
    farthest.forget_goals();
    farthest.add_goal(free_name(farthest, "farthest"),
                      direction > 0 ? Sense::maximize : Sense::minimize, x);
    const auto most = q_.ask(farthest);
    if (!most || !proven(*most)) return {};
    const Rational by = (q_.value_at(x, *most->plan) - k) * Rational(direction);
    if (by <= Rational(kStatedTolerance) * (Rational(1) + k.abs())) return {{}, true};
    const Rational far_worth =
        check(q_.model(), Plan(q_.model(), most->plan->values())).goal.value() *
        Rational(q_.sign());
    return ratio(q_.model(), x, direction, (q_.worth(q_.out.best) - far_worth) / by);
  }

  // Dinkelbach: the best plan at t has a smaller ratio, or t is the least one.
  End ratio(const Model& among, const Expression& x, int direction, Rational t) {
    constexpr int kMostRounds = 40;
    const Rational k = q_.value_at(x, *q_.out.best.plan);
    for (int round = 0; round < kMostRounds; ++round) {
      Model at = among;
      at.add_to_goal(0, x * Expression(t * Rational(direction * q_.sign())));
      const auto r = q_.ask(at);
      if (!r || !proven(*r)) return {t, false};
      const Rational more = q_.worth(*r) - (q_.worth(q_.out.best) + t * Rational(direction) * k);
      const Rational by = (q_.value_at(x, *r->plan) - k) * Rational(direction);
      if (more <= q_.tolerance() || by.sign() <= 0) return {t, true};
      t -= more / by;
    }
    return {t, false};
  }

  FirmQuestion& q_;
};

}  // namespace

Looked goal_figures(FirmQuestion& question, std::size_t from) {
  GoalFigures figures(question);
  if (from == 0) figures.curves();
  return figures.coefficients(from);
}

}  // namespace kiteknot
