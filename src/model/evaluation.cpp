#include "model/evaluation.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/rational_sum.hpp"
#include "base/text.hpp"
#include "base/tolerances.hpp"
#include "model/number_node.hpp"
#include "model/real_functions.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot {
namespace {

bool has_step(const ModelData& model, Index decision) {
  const Family& f = model.family_of(decision);
  return !f.listed.empty() || model.whole(f, decision - f.first);
}

}  // namespace

bool only_binaries(const ModelData& m, const Expression& e) {
  const auto binary = [&](Index d) {
    if (d < 0) return true;
    const Family& f = m.family_of(d);
    const Index i = d - f.first;
    const std::vector<Rational> none;
    return f.integer && f.lower_by_number.empty() && f.upper_by_number.empty() &&
           m.lower(f, i, none).sign() >= 0 && m.upper(f, i, none) <= Rational(1);
  };
  return e.is_linear() &&
         std::all_of(e.terms().begin(), e.terms().end(),
                     [&](const auto& t) { return binary(t.decision); }) &&
         std::all_of(e.factored().begin(), e.factored().end(),
                     [&](const auto& t) { return binary(t.decision); });
}

bool takes_fractions(const ModelData& model, const Expression& e) {
  return std::ranges::all_of(e.derived(), [&](const Expression::DerivedTerm& t) {
    using Kind = Derived::Kind;
    const Derived& d = *t.what;
    if (d.kind == Kind::largest || d.kind == Kind::curve || d.kind == Kind::truth) return false;
    if (d.kind == Kind::product &&
        std::ranges::any_of(d.args, [&](const Expression& a) { return only_binaries(model, a); }))
      return false;
    return std::ranges::all_of(d.args,
                               [&](const Expression& a) { return takes_fractions(model, a); });
  });
}

bool takes_fractions(const ModelData& model, const Condition& c) {
  return c.kind == Condition::Kind::compare && takes_fractions(model, c.body) &&
         takes_fractions(model, c.low) && takes_fractions(model, c.high);
}

bool tells_fractions(const Derived& d, const std::vector<Rational>& numbers) {
  return d.kind != Derived::Kind::exponential && d.kind != Derived::Kind::logarithm &&
         (d.kind != Derived::Kind::power || evaluate(d.args[1], numbers).is_integer());
}

bool keeps_steps(const Derived& d, const std::vector<Rational>& numbers) {
  return d.kind != Derived::Kind::quotient && tells_fractions(d, numbers) &&
         (d.kind != Derived::Kind::power || evaluate(d.args[1], numbers).sign() > 0);
}

Evaluation::Evaluation(const ModelData& model, std::span<const Rational> values, bool tolerant,
                       bool relaxed)
    : model_(model),
      values_(values),
      numbers_(model.number_values()),
      tolerance_(tolerant ? Rational(kStatedTolerance) : Rational(0)) {
  real_.reserve(static_cast<std::size_t>(model.num_decisions));
  for (const auto& f : model.families)
    for (Index i = 0; i < f->index.count; ++i) real_.push_back(relaxed || !model.whole(*f, i));
}

Sum Evaluation::sum(const Expression& e) const {
  Sum sum;
  RationalSum value;
  value += e.constant();
  const auto add = [&](const Rational& factor, const Rational& x, bool is_real) {
    if (factor.is_zero()) return;
    value.add_product(factor, x);
    if (!is_real) return;
    sum.real = true;
    if (!tolerance_.is_zero()) sum.size = std::max(sum.size, (factor * x).abs());
  };
  for (const Expression::Term& t : e.terms())
    add(t.coefficient, values_[static_cast<std::size_t>(t.decision)], real(t.decision));
  for (const Expression::FactoredTerm& t : e.factored()) {
    const Rational factor = evaluate(*t.factor, numbers_);
    if (t.decision < 0)
      value += factor;
    else
      add(factor, values_[static_cast<std::size_t>(t.decision)], real(t.decision));
  }
  for (const Expression::DerivedTerm& t : e.derived()) {
    const Rational factor =
        t.factor ? evaluate(*t.factor, numbers_) * t.coefficient : t.coefficient;
    if (factor.is_zero()) continue;
    const Nearly term = this->value(t.what);
    add(factor, term.value, has_real(*t.what));
    if (!term.radius.is_zero()) sum.radius += factor.abs() * term.radius;
  }
  sum.value = value.value();
  return sum;
}

LinearForm Evaluation::left_over(const Expression& a, const Expression& b) const {
  if (!collector_)
    collector_.emplace(model_, [this](const std::shared_ptr<const Derived>& d) {
      const auto [it, first] =
          number_of_.emplace(d.get(), model_.num_decisions + static_cast<Index>(derived_.size()));
      if (first) derived_.push_back(d);
      return it->second;
    });
  collector_->add(a, 1);
  collector_->add(b, -1);
  return collector_->take();
}

Sum Evaluation::difference(const Expression& a, const Expression& b) const {
  const Sum x = sum(a), y = sum(b);
  Sum d{x.value - y.value, std::max(x.size, y.size), x.real || y.real, x.radius + y.radius};
  if (!d.real || !tolerant()) return d;
  const LinearForm left = left_over(a, b);
  d.real = std::ranges::any_of(left.terms, [&](const Expression::Term& t) {
    return t.decision < model_.num_decisions
               ? real(t.decision)
               : has_real(*derived_[at(t.decision - model_.num_decisions)]);
  });
  return d;
}

bool Evaluation::moves_in_steps(const Expression& a, const Expression& b) const {
  const LinearForm left = left_over(a, b);
  return std::ranges::all_of(left.terms, [&](const Expression::Term& t) {
    if (t.decision < model_.num_decisions) return has_step(model_, t.decision);
    const std::shared_ptr<const Derived> d = derived_[at(t.decision - model_.num_decisions)];
    return keeps_steps(*d, numbers_) && std::ranges::all_of(d->args, [&](const Expression& arg) {
             return moves_in_steps(arg, {});
           });
  });
}

Nearly Evaluation::value(const std::shared_ptr<const Derived>& d) const {
  const auto it = known_.find(d);
  if (it != known_.end()) return it->second;
  return known_.emplace(d, worked_out(*d)).first->second;
}

void Evaluation::look_inside(const Expression& e) const {
  for (const Expression::FactoredTerm& t : e.factored())  // a curve of numbers is stated or not
    if (!t.factor->of.empty()) (void)evaluate(*t.factor, numbers_);
  for (const Expression::DerivedTerm& t : e.derived()) {
    if (!looked_inside_.insert(t.what).second) continue;
    for (const Expression& arg : t.what->args) look_inside(arg);
    look_inside(t.what->condition);
    if (t.what->kind != Derived::Kind::truth) (void)value(t.what);
  }
}

void Evaluation::look_inside(const Condition& c) const {
  for (const Expression* e : {&c.body, &c.low, &c.high}) look_inside(*e);
  for (const Condition& part : c.parts) look_inside(part);
}

Nearly Evaluation::smooth(const Derived& d) const {
  const Nearly x = nearly(d.args[0]);
  switch (d.kind) {
    case Derived::Kind::quotient:
      return quotient_of(x, nearly(d.args[1]));
    case Derived::Kind::power:
      return power_of(x, value(d.args[1]));
    case Derived::Kind::exponential:
      return exponential_of(x);
    default:
      return logarithm_of(x);
  }
}

// A real argument may lie outside by the tolerance that its bounds have.
Nearly Evaluation::on_curve(const Derived& d) const {
  const Sum argument = sum(d.args[0]);
  Rational x = argument.value;
  const std::vector<CurvePiece>& pieces = curves_.pieces(*d.curve, numbers_);
  const Rational &from = pieces.front().from, &to = pieces.back().to;
  const auto near = [&](const Rational& end) {
    return end.is_finite() && (x - end).abs() <= slack(argument);
  };
  if (x < from && near(from)) x = from;
  if (x > to && near(to)) x = to;
  Rational steepest = 0;
  if (!argument.radius.is_zero())
    for (const CurvePiece& p : pieces) steepest = std::max(steepest, p.slope.abs());
  for (const CurvePiece& p : pieces)
    if ((x > p.from || (x == p.from && p.owns_from)) && (x < p.to || (x == p.to && p.owns_to)))
      return {p.at(x), steepest * argument.radius};
  outside_.insert(fmt::format("{}({}) is not stated: the curve goes from {} to {}",
                              d.curve->name.empty() ? "a curve" : d.curve->name, figure(x),
                              figure(from), figure(to)));
  return {0};
}

Nearly Evaluation::worked_out(const Derived& d) const {
  switch (d.kind) {
    case Derived::Kind::quotient:
    case Derived::Kind::power:
    case Derived::Kind::exponential:
    case Derived::Kind::logarithm:
      try {
        return smooth(d);
      } catch (const UsageError& e) {
        outside_.insert(e.what());
        return {0};
      }
    case Derived::Kind::product:
      return product_of(nearly(d.args[0]), nearly(d.args[1]));
    case Derived::Kind::largest: {
      Nearly most = nearly(d.args[0]);
      for (const Expression& e : d.args) {
        const Nearly x = nearly(e);
        most = {std::max(most.value, x.value), std::max(most.radius, x.radius)};
      }
      return most;
    }
    case Derived::Kind::curve:
      return on_curve(d);
    case Derived::Kind::truth:
      return {is(d.condition) ? 1 : 0};
  }
  return {0};
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
      const Sum x = sum(c.body);
      const Rational off = wanted ? Rational(1) - x.value : x.value;
      return off.abs() + x.radius <= slack(x);
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
    case K::tour:
      return read_trips(*c.trips, numbers_, values_).faults.empty() == wanted;
  }
  return false;
}

bool Evaluation::compares(const Condition& c, bool wanted) const {
  bool holds = true, fails = false;
  const auto look = [&](const Expression& limit, bool upper) {
    const Sum s = upper ? difference(limit, c.body) : difference(c.body, limit);  // room
    holds = holds && s.value - s.radius >= -slack(s);
    if (!wanted)
      fails = fails || (s.value + s.radius).sign() < 0 ||
              (s.value + s.radius <= slack(s) && !moves_in_steps(c.body, limit));
  };
  if (c.has_high) look(c.high, true);
  if (c.has_low) look(c.low, false);
  return wanted ? holds : fails;
}

// Of the numbers that it is a function of; a truth is 0 or 1 whatever they are. What no fraction
// tells counts as real whatever it is of.
bool Evaluation::has_real(const Derived& d) const {
  if (!tells_fractions(d, numbers_)) return true;
  return d.kind != Derived::Kind::truth &&
         std::any_of(d.args.begin(), d.args.end(),
                     [&](const Expression& e) { return difference(e, {}).real; });
}

Rational step_of(const ModelData& model, Index decision) {
  const Family& f = model.family_of(decision);
  if (model.whole(f, decision - f.first)) return 1;
  Rational step = 0;
  for (const Rational& v : f.listed) {
    const Rational scale = Rational::lcm(step.denominator(), v.denominator());
    step = Rational::gcd((step * scale).abs(), (v * scale).abs()) / scale;
  }
  return f.listed.empty() ? Rational(0) : step.is_zero() ? Rational(1) : step;
}

bool moves_in_steps(const ModelData& model, const Expression& e) {
  const auto steps = [&](const auto& t) { return t.decision < 0 || has_step(model, t.decision); };
  return std::all_of(e.terms().begin(), e.terms().end(), steps) &&
         std::all_of(e.factored().begin(), e.factored().end(), steps) &&
         std::all_of(e.derived().begin(), e.derived().end(), [&](const auto& t) {
           return keeps_steps(*t.what, model.number_values()) &&
                  std::all_of(t.what->args.begin(), t.what->args.end(),
                              [&](const Expression& arg) { return moves_in_steps(model, arg); });
         });
}

Rational step_of(const ModelData& model, const Expression& e) {
  if (!e.is_linear() || !moves_in_steps(model, e)) return 0;
  Rational step = 0;
  Collector collector(model);
  for (const auto& t : collector.collect(e).terms) {
    const Rational own = (t.coefficient * step_of(model, t.decision)).abs();
    const Rational scale = Rational::lcm(step.denominator(), own.denominator());
    step = Rational::gcd(step * scale, own * scale) / scale;
  }
  return step.is_zero() ? Rational(1) : step;  // a constant: any step will do
}

}  // namespace kiteknot
