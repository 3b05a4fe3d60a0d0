#include "kiteknot/expression.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "model/derived.hpp"
#include "model/model_data.hpp"
#include "model/number_node.hpp"
#include "model/real_functions.hpp"

namespace kiteknot {

namespace {

void need_stated(const Tag& model, std::int32_t id, const char* what) {
  if (!model || id < 0) throw UsageError(fmt::format("a {} that no model has stated", what));
}

void refuse_infinite(const Rational& value) {
  if (!value.is_finite())
    throw UsageError("an infinite figure stands in an expression; leave the limit out instead");
}

// Levels of functions and conditions one inside the other, all walked by recursion somewhere.
constexpr std::int32_t kDeepest = 1000;

std::int32_t deeper(std::int32_t depth) {
  if (depth >= kDeepest)
    throw UsageError(
        fmt::format("functions and conditions stand more than {} deep inside each other; name a "
                    "part as a decision of its own",
                    kDeepest));
  return depth + 1;
}

std::int32_t depth_of(const Condition& c) {
  return std::max({c.depth, c.body.depth(), c.low.depth(), c.high.depth()});
}

// A function without decisions.
Factor figure_of(const Derived& d) {
  using Op = NumberNode::Op;
  std::vector<Factor> of;
  for (const Expression& e : d.args) of.push_back(as_factor(e));
  switch (d.kind) {
    case Derived::Kind::product:
      return combined_factor(Op::multiply, std::move(of));
    case Derived::Kind::quotient:
      return combined_factor(Op::multiply, {of[0], combined_factor(Op::invert, {of[1]})});
    case Derived::Kind::power:
      return combined_factor(Op::power, std::move(of));
    case Derived::Kind::exponential:
      return combined_factor(Op::exponential, std::move(of));
    case Derived::Kind::logarithm:
      return combined_factor(Op::logarithm, std::move(of));
    case Derived::Kind::largest:
      return combined_factor(Op::largest, std::move(of));
    case Derived::Kind::curve: {
      auto node = std::make_shared<NumberNode>(Op::curve, std::move(of));
      node->curve = d.curve;
      return node;
    }
    case Derived::Kind::truth:
      break;
  }
  auto node = std::make_shared<NumberNode>(Op::truth, std::move(of));
  node->condition = std::make_shared<Condition>(d.condition);
  return node;
}

bool has_decisions(const Condition& c) {
  return c.body.has_decisions() || c.low.has_decisions() || c.high.has_decisions() ||
         std::any_of(c.parts.begin(), c.parts.end(),
                     [](const Condition& part) { return has_decisions(part); });
}

}  // namespace

Expression::Expression(double value) : Expression(Rational(value)) {}
Expression::Expression(Rational value) : constant_(std::move(value)) {
  refuse_infinite(constant_);
}
Expression::Expression(const Decision& d) {
  add(1, d);
}
Expression::Expression(const Number& n) {
  need_stated(n.model, n.id, "number");
  join(n.model, 0, n.id + 1);
  factored_.push_back({number_factor(n.id), -1});
}

// Only terms that depend on decisions are kept as such; the others are figures (number_node.hpp).
Expression::Expression(std::shared_ptr<const Derived> what) {
  std::int32_t depth = depth_of(what->condition);
  bool any = false;
  for (const Expression& e : what->args) {
    join(e);
    depth = std::max(depth, e.depth());
    any = any || e.has_decisions();
  }
  const auto join_condition = [&](const auto& self, const Condition& c) -> void {
    for (const Expression* e : {&c.body, &c.low, &c.high}) join(*e);
    for (const Condition& part : c.parts) self(self, part);
  };
  join_condition(join_condition, what->condition);
  depth_ = deeper(depth);
  if (any || kiteknot::has_decisions(what->condition))
    derived_.push_back({1, {}, std::move(what)});
  else
    factored_.push_back({figure_of(*what), -1});
}

bool Expression::has_decisions() const noexcept {
  return !terms_.empty() || !derived_.empty() ||
         std::any_of(factored_.begin(), factored_.end(),
                     [](const FactoredTerm& t) { return t.decision >= 0; });
}

bool understood(const Tag& made, std::int32_t decisions, std::int32_t numbers,
                const Tag& there) noexcept {
  const auto had = [&](const ModelTag& t) {
    return decisions <= t.decisions && numbers <= t.numbers;
  };
  // Chains are short: one tag a copy that was changed while another one lived.
  for (const ModelTag* own = made.get(); own != nullptr; own = own->from.get()) {
    for (const ModelTag* t = there.get(); t != nullptr; t = t->from.get()) {
      if (t == own) return true;
      if (!had(*t)) break;
    }
    if (!had(*own)) break;
  }
  return false;
}

void Expression::join(const Tag& other, std::int32_t decisions, std::int32_t numbers) {
  if (other && model_ != other) {
    if (!model_ || understood(model_, decisions_, numbers_, other))
      model_ = other;
    else if (!understood(other, decisions, numbers, model_))
      throw UsageError(
          model_->title == other->title
              ? fmt::format(
                    "an expression mixes what two models, or copies, '{}' have stated apart",
                    model_->title)
              : fmt::format("an expression mixes the models '{}' and '{}'", model_->title,
                            other->title));
  }
  decisions_ = std::max(decisions_, decisions);
  numbers_ = std::max(numbers_, numbers);
}

void Expression::need_understood(const Tag& there, std::int32_t decisions,
                                 std::int32_t numbers) const {
  if (!model_) return;
  if (understood(model_, decisions_, numbers_, there)) {
    if (decisions_ <= decisions && numbers_ <= numbers) return;
    throw UsageError(
        fmt::format("an expression speaks of a decision or number that model '{}' does not have",
                    there->title));
  }
  if (model_->title != there->title)
    throw UsageError(fmt::format("an expression of model '{}' was given to model '{}'",
                                 model_->title, there->title));
  throw UsageError(fmt::format(
      "an expression speaks of what another copy of model '{}' has stated since", there->title));
}

Expression& Expression::operator+=(const Expression& other) {
  if (&other == this) return *this += Expression(other);
  join(other);
  depth_ = std::max(depth_, other.depth_);
  constant_ += other.constant_;
  terms_.insert(terms_.end(), other.terms_.begin(), other.terms_.end());
  factored_.insert(factored_.end(), other.factored_.begin(), other.factored_.end());
  derived_.insert(derived_.end(), other.derived_.begin(), other.derived_.end());
  return *this;
}

Expression& Expression::operator-=(const Expression& other) {
  return *this += -other;
}

Expression operator-(Expression e) {
  e.scale(Rational(-1));
  return e;
}

void Expression::add(const Rational& coefficient, std::int32_t decision, const Tag& model) {
  need_stated(model, decision, "decision");
  refuse_infinite(coefficient);
  join(model, decision + 1, 0);
  terms_.push_back({coefficient, decision});
}

void Expression::add(const Rational& constant) {
  refuse_infinite(constant);
  constant_ += constant;
}

void Expression::scale(const Rational& by) {
  constant_ *= by;
  for (Term& t : terms_) t.coefficient *= by;
  for (DerivedTerm& t : derived_) t.coefficient *= by;
  if (by == Rational(1)) return;
  for (FactoredTerm& t : factored_)
    t.factor = combined_factor(NumberNode::Op::multiply, {constant_factor(by), t.factor});
}

void Expression::scale(const Factor& by) {
  for (DerivedTerm& t : derived_)
    t.factor = t.factor ? combined_factor(NumberNode::Op::multiply, {t.factor, by}) : by;
  for (FactoredTerm& t : factored_)
    t.factor = combined_factor(NumberNode::Op::multiply, {t.factor, by});
  for (const Term& t : terms_)
    factored_.push_back(
        {combined_factor(NumberNode::Op::multiply, {constant_factor(t.coefficient), by}),
         t.decision});
  terms_.clear();
  if (!constant_.is_zero())
    factored_.push_back(
        {combined_factor(NumberNode::Op::multiply, {constant_factor(constant_), by}), -1});
  constant_ = 0;
}

// The coefficient of one term that is all of the expression; 1 is left of it.
Rational Expression::take_coefficient() {
  if (!constant_.is_zero() || !factored_.empty() || terms_.size() + derived_.size() != 1) return 1;
  Rational& c = terms_.empty() ? derived_[0].coefficient : terms_[0].coefficient;
  if (c.is_zero()) return 1;
  return std::exchange(c, Rational(1));
}

Expression Expression::of_two(bool quotient, Expression a, Expression b) {
  const Rational above = a.take_coefficient(), below = b.take_coefficient();
  const auto kind = quotient ? Derived::Kind::quotient : Derived::Kind::product;
  Expression made(
      std::make_shared<Derived>(Derived{kind, {std::move(a), std::move(b)}, {}, {}, {}}));
  made.scale(quotient ? above / below : above * below);
  return made;
}

Expression& Expression::operator*=(const Expression& other) {
  if (&other == this) return *this *= Expression(other);
  if (has_decisions() && other.has_decisions()) return *this = of_two(false, *this, other);
  if (!other.is_constant() && (is_constant() || other.has_decisions())) {
    Expression swapped = other;
    swapped *= *this;
    return *this = std::move(swapped);
  }
  join(other);
  depth_ = std::max(depth_, other.depth_);
  if (other.is_constant())
    scale(other.constant_);
  else
    scale(as_factor(other));
  return *this;
}

Expression& Expression::operator/=(const Expression& other) {
  if (&other == this) return *this /= Expression(other);
  if (other.has_decisions()) {
    if (!has_decisions()) return *this *= power(other, -1);
    return *this = of_two(true, *this, other);
  }
  if (other.is_constant()) {
    scale(Rational(1) / other.constant_);
    return *this;
  }
  join(other);
  depth_ = std::max(depth_, other.depth_);
  scale(combined_factor(NumberNode::Op::invert, {as_factor(other)}));
  return *this;
}

namespace {

// A side without decisions is the limit; where both have some, the left one stays the body.
Condition compare(Expression left, Expression right, bool at_most, bool at_least) {
  Condition c;
  const bool swap = !left.has_decisions() && right.has_decisions();
  if (swap) {
    std::swap(left, right);
    std::swap(at_most, at_least);
  }
  c.body = std::move(left);
  c.has_high = at_most;
  c.has_low = at_least;
  if (at_most && at_least)
    c.low = c.high = std::move(right);
  else
    (at_most ? c.high : c.low) = std::move(right);
  return c;
}

}  // namespace

Condition operator<=(Expression left, Expression right) {
  return compare(std::move(left), std::move(right), true, false);
}
Condition operator>=(Expression left, Expression right) {
  return compare(std::move(left), std::move(right), false, true);
}
Condition operator==(Expression left, Expression right) {
  return compare(std::move(left), std::move(right), true, true);
}
Condition within(Expression low, Expression body, Expression high) {
  if (low.has_decisions() || high.has_decisions()) {  // no one sum says it
    Condition above = body >= std::move(low);
    return all_of({std::move(above), std::move(body) <= std::move(high)});
  }
  Condition c;
  c.body = std::move(body);
  c.low = std::move(low);
  c.high = std::move(high);
  c.has_low = c.has_high = true;
  return c;
}

namespace {
Expression shaped_power(const Expression& base, const Expression& exponent, Derived::Shape shape) {
  if (exponent.has_decisions())
    throw UsageError(
        "an exponent holds no decisions; x ^ y for x above 0 is written exp(y * log(x))");
  if (exponent.is_constant()) {
    if (exponent.constant() == Rational(1)) return base;
    if (exponent.constant().is_zero()) return 1;
    if (base.is_constant()) return power_of(base.constant(), exponent.constant());
  }
  return Expression(
      std::make_shared<Derived>(Derived{Derived::Kind::power, {base, exponent}, {}, {}, shape}));
}
Expression function_of(Derived::Kind kind, const Expression& x) {
  return Expression(std::make_shared<Derived>(Derived{kind, {x}, {}, {}, {}}));
}
}  // namespace

Expression power(const Expression& base, const Expression& exponent) {
  return shaped_power(base, exponent, {});
}

Expression sqrt(const Expression& e) {
  return shaped_power(e, Rational(1) / Rational(2), Derived::Shape::root);
}

Expression exp(const Expression& e) {
  if (e.is_constant()) return exponential_of(e.constant());
  return function_of(Derived::Kind::exponential, e);
}

Expression log(const Expression& e) {
  if (e.is_constant()) return logarithm_of(e.constant());
  return function_of(Derived::Kind::logarithm, e);
}

namespace {
Expression shaped_largest(std::vector<Expression> of, Derived::Shape shape) {
  if (of.empty()) throw UsageError("the largest or smallest of nothing was asked for");
  if (of.size() == 1) return of[0];
  if (std::all_of(of.begin(), of.end(), [](const Expression& e) { return e.is_constant(); })) {
    Rational most = of[0].constant();
    for (const Expression& e : of) most = std::max(most, e.constant());
    return most;
  }
  return Expression(
      std::make_shared<Derived>(Derived{Derived::Kind::largest, std::move(of), {}, {}, shape}));
}
}  // namespace

Expression largest(std::vector<Expression> of) {
  return shaped_largest(std::move(of), Derived::Shape::largest);
}

Expression smallest(std::vector<Expression> of) {
  for (Expression& e : of) e = -e;
  return -shaped_largest(std::move(of), Derived::Shape::smallest);
}

Expression absolute(const Expression& e) {
  return shaped_largest({e, -e}, Derived::Shape::absolute);
}

Condition::Condition(const Decision& d) : kind(Kind::truth), body(d), yes_or_no(d.yes_or_no) {}

// What the rest of the library takes for granted of each kind.
void need_form(const Condition& c) {
  using K = Condition::Kind;
  const auto need = [](bool fine, const char* what) {
    if (!fine) throw UsageError(fmt::format("a condition without its form: {}", what));
  };
  switch (c.kind) {
    case K::negation:
      return need(c.parts.size() == 1, "'not' wants one part");
    case K::exclusive:
    case K::implies:
    case K::same:
      return need(c.parts.size() == 2, "two parts are wanted");
    case K::truth:
      return need(c.body.terms().size() == 1 && c.body.factored().empty() &&
                      c.body.derived().empty() && c.body.constant().is_zero() &&
                      c.body.terms()[0].coefficient == Rational(1),
                  "a truth wants one decision");
    case K::count:
      return need(c.least >= 0 && c.most >= 0, "a count cannot be negative");
    case K::tour:
      return need(c.trips != nullptr, "a tour is stated with Model::tour");
    case K::compare:
    case K::all:
    case K::any:
      return;
  }
}

Condition::Condition(Kind joining, std::vector<Condition> joined)
    : kind(joining), parts(std::move(joined)) {
  if (kind != Kind::count) need_form(*this);
  for (const Condition& p : parts) depth = std::max(depth, depth_of(p));
  depth = deeper(depth);
}

Condition negated(Condition c) {
  // Said twice of a comparison it stays a condition: that is missed by 1, not by an amount.
  if (c.kind == Condition::Kind::negation && c.parts[0].kind != Condition::Kind::compare)
    return Condition(c.parts[0]);
  return {Condition::Kind::negation, {std::move(c)}};
}
Condition all_of(std::vector<Condition> parts) {
  return {Condition::Kind::all, std::move(parts)};
}
Condition any_of(std::vector<Condition> parts) {
  return {Condition::Kind::any, std::move(parts)};
}
Condition exclusive(Condition a, Condition b) {
  return {Condition::Kind::exclusive, {std::move(a), std::move(b)}};
}
Condition implies(Condition a, Condition b) {
  return {Condition::Kind::implies, {std::move(a), std::move(b)}};
}
Condition same(Condition a, Condition b) {
  return {Condition::Kind::same, {std::move(a), std::move(b)}};
}

namespace {
Condition counted_of(std::int32_t least, std::int32_t most, std::vector<Condition> parts) {
  if (least < 0 || most < 0) throw UsageError("a count of conditions cannot be negative");
  Condition c(Condition::Kind::count, std::move(parts));
  c.least = least;
  c.most = most;
  return c;
}
}  // namespace

Condition at_least(std::int32_t count, std::vector<Condition> parts) {
  const auto all = static_cast<std::int32_t>(parts.size());
  return counted_of(count, std::max(all, count), std::move(parts));
}
Condition at_most(std::int32_t count, std::vector<Condition> parts) {
  return counted_of(0, count, std::move(parts));
}
Condition exactly(std::int32_t count, std::vector<Condition> parts) {
  return counted_of(count, count, std::move(parts));
}

Expression truth_of(Condition c) {
  if (c.kind == Condition::Kind::truth && c.yes_or_no) return c.body;
  return Expression(
      std::make_shared<Derived>(Derived{Derived::Kind::truth, {}, {}, std::move(c), {}}));
}

Expression violation_of(const Condition& c) {
  if (c.kind != Condition::Kind::compare) return Expression(1) - truth_of(c);
  std::vector<Expression> by = {0};
  if (c.has_high) by.push_back(c.body - c.high);
  if (c.has_low) by.push_back(c.low - c.body);
  return largest(std::move(by));
}

Expression total(const Decisions& decisions) {
  Expression sum;
  for (std::int32_t i = 0; i < decisions.size(); ++i) sum.add(1, decisions.member(i));
  return sum;
}

}  // namespace kiteknot
