#include "kiteknot/expression.hpp"

#include <algorithm>

#include <fmt/format.h>

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

bool Expression::has_decisions() const noexcept {
  return !terms_.empty() || std::any_of(factored_.begin(), factored_.end(),
                                        [](const FactoredTerm& t) { return t.decision >= 0; });
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
  if (by == Rational(1)) return;
  for (FactoredTerm& t : factored_)
    t.factor = combined_factor(NumberNode::Op::multiply, constant_factor(by), t.factor);
}

void Expression::scale(const Factor& by) {
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
  if (has_decisions() && other.has_decisions())
    throw UsageError(
        "a product of decisions is not linear; only figures and numbers may multiply a decision");
  if (!has_decisions() && other.has_decisions()) {
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
  return {std::move(body), std::move(low), std::move(high), true, true};
}

Expression total(const Decisions& decisions) {
  Expression sum;
  for (std::int32_t i = 0; i < decisions.size(); ++i) sum.add(1, decisions.member(i));
  return sum;
}

}  // namespace kiteknot
