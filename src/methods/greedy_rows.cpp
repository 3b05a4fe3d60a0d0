#include "methods/greedy_rows.hpp"

#include <algorithm>

#include "model/curve_uses.hpp"
#include "model/evaluation.hpp"

namespace kiteknot::methods {
namespace {

using K = Condition::Kind;

bool plain(const Condition& c) {
  return c.kind == K::truth;
}

bool all_plain(const std::vector<Condition>& parts) {
  return std::all_of(parts.begin(), parts.end(), plain);
}

Expression sum(const std::vector<Condition>& parts) {
  Expression total;
  for (const Condition& part : parts) total += part.body;
  return total;
}

// Plain logic over yes-or-no decisions is a sum too: a count of them, one that needs another, some
// that exclude each other.
std::optional<Condition> as_sum(const Condition& c) {
  if (c.kind == K::compare) return c;
  if (c.kind == K::truth) return c.body >= 1;
  if (c.kind == K::count && all_plain(c.parts)) return within(c.least, sum(c.parts), c.most);
  if (c.kind == K::implies && all_plain(c.parts)) return c.parts[0].body <= c.parts[1].body;
  if (c.kind == K::same && all_plain(c.parts)) return c.parts[0].body == c.parts[1].body;
  if (c.kind == K::exclusive && all_plain(c.parts)) return sum(c.parts) == 1;
  if (c.kind == K::any && all_plain(c.parts)) return sum(c.parts) >= 1;
  if (c.kind != K::negation) return std::nullopt;
  const Condition& inner = c.parts[0];
  if (plain(inner)) return inner.body <= 0;
  if (inner.kind == K::all && all_plain(inner.parts))
    return sum(inner.parts) <= static_cast<int>(inner.parts.size()) - 1;
  return std::nullopt;
}

// One side of a comparison that holds wherever a yes-or-no decision says so, as a row with the
// least figure that switches it off (from the limits of its decisions).
class SwitchedRows {
 public:
  SwitchedRows(const ModelData& m, Collector& collector, std::span<const Rational> lower,
               std::span<const Rational> upper)
      : m_(m), collector_(collector), lower_(lower), upper_(upper) {}

  /// `holds` wherever the decision is 1. Empty where a limit is missing.
  [[nodiscard]] std::optional<std::vector<LinearRule>> where(const Expression& decision,
                                                             const Condition& holds) {
    const LinearRule rule = linear_rule(collector_, holds);
    const LinearForm yes = collector_.collect(decision);
    if (yes.terms.size() != 1) return std::nullopt;
    std::vector<LinearRule> out;
    const auto [least, most] = reach(rule);
    if (rule.low.is_finite()) {
      if (!least.is_finite()) return std::nullopt;
      LinearRule row = only(rule);
      append(row, yes.terms[0].decision, std::min<Rational>(least - rule.low, 0));
      row.low = std::min(least, rule.low);
      out.push_back(std::move(row));
    }
    if (rule.high.is_finite()) {
      if (!most.is_finite()) return std::nullopt;
      LinearRule row = only(rule);
      append(row, yes.terms[0].decision, std::max<Rational>(most - rule.high, 0));
      row.high = std::max(most, rule.high);
      out.push_back(std::move(row));
    }
    return out;
  }

  /// The decision is 1 wherever `holds` does: elsewhere the comparison fails by a step at least.
  /// Empty where the sum does not move in steps, or has two sides.
  [[nodiscard]] std::optional<std::vector<LinearRule>> needed_by(const Condition& holds,
                                                                 const Expression& decision) {
    if (holds.has_low == holds.has_high) return std::nullopt;
    const LinearRule rule = linear_rule(collector_, holds);
    const Rational step = step_of_sum(rule);
    const LinearForm yes = collector_.collect(decision);
    if (step.is_zero() || yes.terms.size() != 1) return std::nullopt;
    const auto [least, most] = reach(rule);
    LinearRule row = only(rule);
    const Index d = yes.terms[0].decision;
    if (holds.has_low) {  // not: sum <= low - step, rounded to a multiple of the step
      const Rational fails = ((rule.low / step).ceil() - 1) * step;
      if (!most.is_finite()) return std::nullopt;
      append(row, d, std::min<Rational>(fails - most, 0));
      row.high = fails;
    } else {
      const Rational fails = ((rule.high / step).floor() + 1) * step;
      if (!least.is_finite()) return std::nullopt;
      append(row, d, std::max<Rational>(fails - least, 0));
      row.low = fails;
    }
    return std::vector{std::move(row)};
  }

 private:
  static LinearRule only(const LinearRule& rule) {
    LinearRule row;
    row.terms = rule.terms;
    row.moved = rule.moved;
    return row;
  }
  static void append(LinearRule& row, Index d, const Rational& coefficient) {
    for (auto& t : row.terms)
      if (t.decision == d) {
        t.coefficient += coefficient;
        return;
      }
    row.terms.push_back({coefficient, d});
  }
  // What a sum is always a multiple of; 0 where there is nothing like that.
  [[nodiscard]] Rational step_of_sum(const LinearRule& rule) const {
    Rational step = 0;
    for (const auto& t : rule.terms) {
      const Rational own = (t.coefficient * step_of(m_, t.decision)).abs();
      if (own.is_zero()) return 0;
      const Rational scale = Rational::lcm(step.denominator(), own.denominator());
      step = Rational::gcd(step * scale, own * scale) / scale;
    }
    return step;
  }
  // The least and the greatest value of a sum.
  [[nodiscard]] std::pair<Rational, Rational> reach(const LinearRule& rule) const {
    Rational least = 0, most = 0;
    for (const auto& t : rule.terms) {
      const bool up = t.coefficient.sign() > 0;
      const Rational& at_least = up ? lower_[at(t.decision)] : upper_[at(t.decision)];
      const Rational& at_most = up ? upper_[at(t.decision)] : lower_[at(t.decision)];
      least = least.is_finite() && at_least.is_finite() ? least + t.coefficient * at_least
                                                        : Rational::minus_infinity();
      most = most.is_finite() && at_most.is_finite() ? most + t.coefficient * at_most
                                                     : Rational::infinity();
    }
    return {least, most};
  }

  const ModelData& m_;
  Collector& collector_;
  std::span<const Rational> lower_, upper_;
};

}  // namespace

GreedyRows::GreedyRows(const Model& model, const Interrupt& interrupt)
    : m_(model.data()), plan_(model) {
  Collector collector(m_);
  uses_.resize(at(m_.num_decisions));
  worth_.resize(at(m_.num_decisions));
  see_goal(collector);
  set_limits(collector);
  for (std::size_t r = 0; r < m_.rules.size(); ++r) {
    if (m_.rules_off.contains(static_cast<Index>(r)) || m_.rules[r]->soft()) continue;
    for (Index i = 0; i < m_.rules[r]->index.count; ++i) {
      if (interrupt.now()) return;  // whoever asked will find out
      see_rule(collector, static_cast<Index>(r), i);
    }
  }
  see_curves(collector);
  for (Index d = 0; d < m_.num_decisions; ++d) {
    const Rational start = lower_[at(d)].is_finite()
                               ? (integer(d) ? lower_[at(d)].ceil() : lower_[at(d)])
                               : std::min<Rational>(0, upper_[at(d)]);
    if (!start.is_zero()) raise(d, start);
  }
  moves_.clear();
}

// Terms that are not sums count at the check.
void GreedyRows::see_goal(Collector& collector) {
  if (m_.goals.empty()) return;
  const int sign = m_.first_goal().sense == Sense::maximize ? 1 : -1;
  const Expression& goal = m_.first_goal().expression;
  for (const auto& t : goal.terms()) worth_[at(t.decision)] += t.coefficient * sign;
  for (const auto& t : goal.factored())
    if (t.decision >= 0) worth_[at(t.decision)] += evaluate(*t.factor, collector.numbers()) * sign;
}

void GreedyRows::set_limits(Collector& collector) {
  for (const auto& f : m_.families)
    for (Index i = 0; i < f->index.count; ++i) {
      lower_.push_back(m_.lower(*f, i, collector.numbers()));
      upper_.push_back(m_.upper(*f, i, collector.numbers()));
      integer_.push_back(f->integer);
      least_used_.push_back(f->or_zero ? m_.bounds_if_used(*f, i, collector.numbers()).first : 0);
    }
}

void GreedyRows::see_rule(Collector& collector, Index family, Index member) {
  const Condition& stated = m_.rules[at(family)]->conditions[at(member)];
  if (const auto condition = as_sum(stated); condition && is_linear(*condition)) {
    add(family, member, linear_rule(collector, *condition));
    return;
  }
  std::optional<std::vector<LinearRule>> rows;
  SwitchedRows switched(m_, collector, lower_, upper_);
  const auto implied = [&](const Condition& from, const Condition& to) {
    std::optional<std::vector<LinearRule>> out;
    if (plain(from) && is_linear(to))
      out = switched.where(from.body, to);
    else if (is_linear(from) && plain(to))
      out = switched.needed_by(from, to.body);
    return out;
  };
  if (stated.kind == K::implies) rows = implied(stated.parts[0], stated.parts[1]);
  if (stated.kind == K::same) {
    rows = implied(stated.parts[0], stated.parts[1]);
    auto back = implied(stated.parts[1], stated.parts[0]);
    if (rows && back)
      rows->insert(rows->end(), back->begin(), back->end());
    else
      rows.reset();
  }
  if (!rows) return;  // left to the check
  for (LinearRule& row : *rows) add(family, member, std::move(row));
}

// Beyond a curve's ends nothing is stated: they are limits of whatever it is used of.
void GreedyRows::see_curves(Collector& collector) {
  CurvesNow curves;
  each_curve_use(m_, [&](const Derived& use) {
    if (!use.args[0].is_linear()) return;
    const std::vector<CurvePiece>& pieces = curves.pieces(*use.curve, collector.numbers());
    LinearForm form = collector.collect(use.args[0]);
    LinearRule rule;
    rule.terms = std::move(form.terms);
    rule.moved = form.constant;
    if (pieces.front().from.is_finite()) rule.low = pieces.front().from - form.constant;
    if (pieces.back().to.is_finite()) rule.high = pieces.back().to - form.constant;
    add(kOfCurve, 0, std::move(rule));
    rows_.back().curve = use.curve->name;
  });
}

void GreedyRows::add(Index family, Index member, LinearRule rule) {
  for (const auto& t : rule.terms)
    uses_[at(t.decision)].push_back({static_cast<Index>(rows_.size()), t.coefficient});
  GreedyRow& row = rows_.emplace_back();
  row.family = family;
  row.member = member;
  row.rule = std::move(rule);
  for (const auto& t : row.rule.terms) (t.coefficient.sign() > 0 ? row.rises : row.falls) = true;
}

std::optional<Rational> GreedyRows::increase(Index d, const Rational& wanted) const {
  const Family& f = m_.family_of(d);
  const Rational& now = plan_[d];
  Rational target = now + wanted;
  if (integer(d)) target = target.ceil();
  if (!f.listed.empty()) {
    const auto next = std::lower_bound(f.listed.begin(), f.listed.end(), target);
    if (next == f.listed.end()) return std::nullopt;
    target = *next;
  }
  if (f.or_zero && target.sign() > 0) target = std::max(target, least_used_[at(d)]);
  if (target > upper_[at(d)]) return std::nullopt;
  return target - now;
}

Rational GreedyRows::room(Index d) const {
  Rational most = upper_[at(d)].is_finite() ? upper_[at(d)] - plan_[d] : Rational::infinity();
  for (const Use& u : uses_[at(d)]) {
    const GreedyRow& row = rows_[at(u.row)];
    const Rational& limit = u.coefficient.sign() > 0 ? row.rule.high : row.rule.low;
    if (!limit.is_finite()) continue;
    const Rational fits = (limit - row.activity) / u.coefficient;
    most = std::min(most, std::max<Rational>(fits, 0));
    if (most.is_zero()) return most;
  }
  if (!most.is_finite()) return most;
  if (integer(d)) most = most.floor();
  const Family& f = m_.family_of(d);
  if (!f.listed.empty()) {  // the greatest listed value that fits
    const auto above = std::upper_bound(f.listed.begin(), f.listed.end(), plan_[d] + most);
    return above == f.listed.begin() ? Rational(0)
                                     : std::max<Rational>(*std::prev(above) - plan_[d], 0);
  }
  if (f.or_zero && most.sign() > 0) {
    const auto least = increase(d, most);
    if (!least || *least > most) return 0;
  }
  return most;
}

void GreedyRows::raise(Index d, const Rational& by) {
  plan_.set(Decision{m_.tag, d}, plan_[d] + by);
  for (const Use& u : uses_[at(d)]) rows_[at(u.row)].activity += u.coefficient * by;
  moves_.emplace_back(d, by);
}

void GreedyRows::take_back(std::size_t mark) {
  while (moves_.size() > mark) {
    const auto [d, by] = moves_.back();
    plan_.set(Decision{m_.tag, d}, plan_[d] - by);
    for (const Use& u : uses_[at(d)]) rows_[at(u.row)].activity -= u.coefficient * by;
    moves_.pop_back();
  }
}

}  // namespace kiteknot::methods
