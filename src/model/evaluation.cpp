#include "model/evaluation.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "base/tolerances.hpp"

namespace kiteknot {

Evaluation::Evaluation(const ModelData& model, std::span<const Rational> values, bool real)
    : model_(model),
      values_(values),
      numbers_(model.number_values()),
      tolerance_(real ? Rational(kStatedTolerance) : Rational(0)),
      real_(real) {}

Sum Evaluation::sum(const Expression& e) const {
  Sum sum{e.constant(), real_ ? e.constant().abs() : Rational(0)};
  const auto add = [&](const Rational& term) {
    sum.value += term;
    if (real_) sum.size += term.abs();
  };
  for (const Expression::Term& t : e.terms()) {
    const Rational& x = values_[static_cast<std::size_t>(t.decision)];
    if (!x.is_zero()) add(t.coefficient * x);
  }
  for (const Expression::FactoredTerm& t : e.factored()) {
    const Rational factor = evaluate(*t.factor, numbers_);
    add(t.decision >= 0 ? factor * values_[static_cast<std::size_t>(t.decision)] : factor);
  }
  for (const Expression::DerivedTerm& t : e.derived()) {
    const Rational factor =
        t.factor ? evaluate(*t.factor, numbers_) * t.coefficient : t.coefficient;
    if (!factor.is_zero()) add(factor * value(*t.what));
  }
  return sum;
}

Rational Evaluation::value(const Derived& d) const {
  switch (d.kind) {
    case Derived::Kind::product:
      return value(d.args[0]) * value(d.args[1]);
    case Derived::Kind::largest: {
      Rational most = value(d.args[0]);
      for (const Expression& e : d.args) most = std::max(most, value(e));
      return most;
    }
    case Derived::Kind::curve: {
      // A real argument may lie outside by the tolerance that its bounds have.
      Rational x = value(d.args[0]);
      const Rational& from = d.curve->pieces.front().from;
      const Rational& to = d.curve->pieces.back().to;
      const auto near = [&](const Rational& end) {
        return end.is_finite() && (x - end).abs() <= tolerance_ * (Rational(1) + end.abs());
      };
      if (x < from && near(from)) x = from;
      if (x > to && near(to)) x = to;
      for (const CurvePiece& p : d.curve->pieces)
        if ((x > p.from || (x == p.from && p.owns_from)) && (x < p.to || (x == p.to && p.owns_to)))
          return p.at(x);
      outside_.insert(fmt::format("{}({}) is not stated: the curve goes from {} to {}",
                                  d.curve->name.empty() ? "a curve" : d.curve->name, figure(x),
                                  figure(from), figure(to)));
      return 0;
    }
    case Derived::Kind::truth:
      return is(d.condition) ? 1 : 0;
  }
  return 0;
}

bool Evaluation::is(const Condition& c, bool wanted) const {
  using K = Condition::Kind;
  const auto all = [&](bool w) {
    return std::all_of(c.parts.begin(), c.parts.end(),
                       [&](const Condition& p) { return is(p, w); });
  };
  const auto any = [&](bool w) {
    return std::any_of(c.parts.begin(), c.parts.end(),
                       [&](const Condition& p) { return is(p, w); });
  };
  const auto number = [&](bool w) {
    return std::count_if(c.parts.begin(), c.parts.end(),
                         [&](const Condition& p) { return is(p, w); });
  };
  switch (c.kind) {
    case K::compare:
      return compares(c, wanted);
    case K::truth: {
      const Rational x = value(c.body);
      const Rational off = wanted ? Rational(1) - x : x;
      return off.abs() <= tolerance_;
    }
    case K::negation:
      return is(c.parts[0], !wanted);
    case K::all:
      return wanted ? all(true) : any(false);
    case K::any:
      return wanted ? any(true) : all(false);
    case K::implies:
      return wanted ? is(c.parts[0], false) || is(c.parts[1], true)
                    : is(c.parts[0], true) && is(c.parts[1], false);
    case K::exclusive:
    case K::same: {
      const bool alike = (c.kind == K::same) == wanted;
      return (is(c.parts[0], true) && is(c.parts[1], alike)) ||
             (is(c.parts[0], false) && is(c.parts[1], !alike));
    }
    case K::count: {
      const auto parts = static_cast<std::ptrdiff_t>(c.parts.size());
      return wanted ? number(true) >= c.least && number(false) >= parts - c.most
                    : number(false) > parts - c.least || number(true) > c.most;
    }
  }
  return false;
}

bool Evaluation::compares(const Condition& c, bool wanted) const {
  const Sum body = sum(c.body);
  const auto below = [&](const Expression& limit) {  // by how much the body lies below the limit
    const Sum l = sum(limit);
    return Sum{l.value - body.value, body.size + l.size};
  };
  const bool steps = !wanted && only_whole(model_, c.body) && only_whole(model_, c.low) &&
                     only_whole(model_, c.high);
  const auto slack = [&](const Sum& s) { return tolerance_ * (Rational(1) + s.size); };
  bool holds = true, fails = false;
  if (c.has_high) {
    const Sum s = below(c.high);
    holds = holds && s.value >= -slack(s);
    fails = fails || (steps ? s.value.sign() < 0 : s.value <= slack(s));
  }
  if (c.has_low) {
    const Sum s = below(c.low);
    holds = holds && s.value <= slack(s);
    fails = fails || (steps ? s.value.sign() > 0 : s.value >= -slack(s));
  }
  return wanted ? holds : fails;
}

bool only_whole(const ModelData& model, const Expression& e) {
  const auto whole = [&](Index d) { return d < 0 || model.whole(d); };
  return std::all_of(e.terms().begin(), e.terms().end(),
                     [&](const auto& t) { return whole(t.decision); }) &&
         std::all_of(e.factored().begin(), e.factored().end(),
                     [&](const auto& t) { return whole(t.decision); }) &&
         std::all_of(e.derived().begin(), e.derived().end(), [&](const auto& t) {
           return std::all_of(t.what->args.begin(), t.what->args.end(),
                              [&](const Expression& arg) { return only_whole(model, arg); });
         });
}

Rational step_of(const ModelData& model, const Expression& e) {
  if (!e.is_linear() || !only_whole(model, e)) return 0;
  Rational step = 0;
  Collector collector(model);
  for (const auto& t : collector.collect(e).terms) {
    const Rational scale = Rational::lcm(step.denominator(), t.coefficient.denominator());
    step = Rational::gcd(step * scale, (t.coefficient * scale).abs()) / scale;
  }
  return step.is_zero() ? Rational(1) : step;  // a constant: any step will do
}

}  // namespace kiteknot
