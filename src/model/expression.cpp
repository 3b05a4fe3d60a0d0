#include "kiteknot/expression.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "model/derived.hpp"
#include "model/model_data.hpp"
#include "model/number_node.hpp"

namespace kiteknot {

Rational evaluate(const NumberNode& node, const std::vector<Rational>& numbers) {
  switch (node.op) {
    case NumberNode::Op::constant:
      return node.value;
    case NumberNode::Op::number:
      return numbers[static_cast<std::size_t>(node.number)];
    case NumberNode::Op::add:
      return evaluate(*node.left, numbers) + evaluate(*node.right, numbers);
    case NumberNode::Op::multiply:
      return evaluate(*node.left, numbers) * evaluate(*node.right, numbers);
    case NumberNode::Op::invert:
      return Rational(1) / evaluate(*node.left, numbers);
  }
  return 0;
}

namespace {

void refuse_infinite(const Rational& value) {
  if (!value.is_finite())
    throw UsageError("an infinite figure stands in an expression; leave the limit out instead");
}

// The whole of an expression without decisions as one factor.
Factor as_factor(const Expression& e) {
  Factor sum;
  const auto plus = [&](Factor f) {
    sum = sum ? combined_factor(NumberNode::Op::add, std::move(sum), std::move(f)) : std::move(f);
  };
  if (!e.constant().is_zero() || e.factored().empty()) plus(constant_factor(e.constant()));
  for (const Expression::FactoredTerm& t : e.factored()) plus(t.factor);
  return sum;
}

}  // namespace

Expression::Expression(double value) : Expression(Rational(value)) {}
Expression::Expression(Rational value) : constant_(std::move(value)) {
  refuse_infinite(constant_);
}
Expression::Expression(const Decision& d) : model_(d.model) {
  terms_.push_back({1, d.id});
}
Expression::Expression(const Number& n) : model_(n.model) {
  factored_.push_back(
      {std::make_shared<NumberNode>(NumberNode{NumberNode::Op::number, 0, n.id, {}, {}}), -1});
}

Expression::Expression(std::shared_ptr<const Derived> what) {
  for (const Expression& e : what->args) join(e.model());
  const auto join_condition = [&](const auto& self, const Condition& c) -> void {
    for (const Expression* e : {&c.body, &c.low, &c.high}) join(e->model());
    for (const Condition& part : c.parts) self(self, part);
  };
  join_condition(join_condition, what->condition);
  derived_.push_back({1, {}, std::move(what)});
}

bool Derived::has_decisions() const {
  const auto in_condition = [](const auto& self, const Condition& c) -> bool {
    return c.body.has_decisions() || c.low.has_decisions() || c.high.has_decisions() ||
           std::any_of(c.parts.begin(), c.parts.end(),
                       [&](const Condition& part) { return self(self, part); });
  };
  return std::any_of(args.begin(), args.end(),
                     [](const Expression& e) { return e.has_decisions(); }) ||
         in_condition(in_condition, condition);
}

bool Expression::has_decisions() const noexcept {
  return !terms_.empty() ||
         std::any_of(factored_.begin(), factored_.end(),
                     [](const FactoredTerm& t) { return t.decision >= 0; }) ||
         std::any_of(derived_.begin(), derived_.end(),
                     [](const DerivedTerm& t) { return t.what->has_decisions(); });
}

void Expression::join(const Tag& other) {
  if (!other || model_ == other) return;
  if (model_)
    throw UsageError(
        fmt::format("an expression mixes the models '{}' and '{}'", model_->title, other->title));
  model_ = other;
}

Expression& Expression::operator+=(const Expression& other) {
  join(other.model_);
  constant_ += other.constant_;
  terms_.insert(terms_.end(), other.terms_.begin(), other.terms_.end());
  factored_.insert(factored_.end(), other.factored_.begin(), other.factored_.end());
  derived_.insert(derived_.end(), other.derived_.begin(), other.derived_.end());
  return *this;
}

Expression& Expression::operator-=(const Expression& other) {
  return *this += -other;
}

Expression Expression::operator-() const {
  Expression negated = *this;
  negated.scale(Rational(-1));
  return negated;
}

void Expression::add(const Rational& coefficient, std::int32_t decision, const Tag& model) {
  join(model);
  terms_.push_back({coefficient, decision});
}

void Expression::scale(const Rational& by) {
  constant_ *= by;
  for (Term& t : terms_) t.coefficient *= by;
  for (DerivedTerm& t : derived_) t.coefficient *= by;
  if (by == Rational(1)) return;
  for (FactoredTerm& t : factored_)
    t.factor = combined_factor(NumberNode::Op::multiply, constant_factor(by), t.factor);
}

void Expression::scale(const Factor& by) {
  for (DerivedTerm& t : derived_)
    t.factor = t.factor ? combined_factor(NumberNode::Op::multiply, t.factor, by) : by;
  for (FactoredTerm& t : factored_)
    t.factor = combined_factor(NumberNode::Op::multiply, t.factor, by);
  for (const Term& t : terms_)
    factored_.push_back(
        {combined_factor(NumberNode::Op::multiply, constant_factor(t.coefficient), by),
         t.decision});
  terms_.clear();
  if (!constant_.is_zero())
    factored_.push_back(
        {combined_factor(NumberNode::Op::multiply, constant_factor(constant_), by), -1});
  constant_ = 0;
}

Expression& Expression::operator*=(const Expression& other) {
  const bool figure = is_constant() || other.is_constant();
  const bool sum_and_number =
      is_linear() && other.is_linear() && !(has_decisions() && other.has_decisions());
  if (!figure && !sum_and_number && !(other.is_linear() && !other.has_decisions()))
    return *this = Expression(std::make_shared<Derived>(
               Derived{Derived::Kind::product, {*this, other}, {}, {}, {}}));
  if (!other.is_constant() && (is_constant() || (!has_decisions() && other.has_decisions()))) {
    Expression swapped = other;
    swapped *= *this;
    return *this = std::move(swapped);
  }
  join(other.model_);
  if (other.is_constant())
    scale(other.constant_);
  else
    scale(as_factor(other));
  return *this;
}

Expression& Expression::operator/=(const Expression& other) {
  if (other.has_decisions()) throw UsageError("a division by a decision is not linear");
  if (!other.is_linear()) throw UsageError("a division by a function of numbers is not read");
  if (other.is_constant()) {
    scale(Rational(1) / other.constant_);
    return *this;
  }
  join(other.model_);
  scale(combined_factor(NumberNode::Op::invert, as_factor(other), {}));
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
  Condition c;
  c.body = std::move(body);
  c.low = std::move(low);
  c.high = std::move(high);
  c.has_low = c.has_high = true;
  return c;
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

Condition::Condition(const Decision& d) : kind(Kind::truth), body(d) {}

Condition negated(Condition c) {
  if (c.kind == Condition::Kind::negation) return Condition(c.parts[0]);
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
  if (c.kind == Condition::Kind::truth) return c.body;
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
