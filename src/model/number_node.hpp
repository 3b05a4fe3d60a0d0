#pragma once
// Figures computed from numbers: a small expression graph whose leaves are numbers and constants.
// Whatever holds no decision is one of these, functions included, so that its value is known as
// soon as the numbers' are, wherever it stands. Graphs may be of any depth and may share parts:
// everything here works without recursion, once a node.

#include <functional>
#include <memory>
#include <vector>

#include "kiteknot/expression.hpp"

namespace kiteknot {

struct CurveData;

struct NumberNode {
  enum class Op {
    constant,
    number,
    add,          // of all operands
    multiply,     // of all operands
    invert,       // of one
    power,        // the first to the power of the second
    exponential,  // of one
    logarithm,    // of one
    largest,      // of all operands
    curve,        // of one
    truth         // 1 where the condition holds, else 0
  };
  Op op = Op::constant;
  Rational value;            // constant
  std::int32_t number = -1;  // number
  std::vector<Factor> of;    // operands
  std::shared_ptr<const CurveData> curve;
  std::shared_ptr<const Condition> condition;  // without decisions

  NumberNode() = default;
  NumberNode(Op what, std::vector<Factor> operands) : op(what), of(std::move(operands)) {}
  NumberNode(const NumberNode&) = delete;
  NumberNode& operator=(const NumberNode&) = delete;
  ~NumberNode();
};

Factor constant_factor(Rational value);
Factor number_factor(std::int32_t number);
Factor combined_factor(NumberNode::Op op, std::vector<Factor> operands);
/// The whole of an expression without decisions.
Factor as_factor(const Expression& e);

/// The value under the given values of the numbers, by id. Throws UsageError on a division by 0
/// and where a curve is not stated.
Rational evaluate(const NumberNode& node, const std::vector<Rational>& numbers);
/// The same for an expression without decisions, and whether a condition without decisions holds.
Rational evaluate(const Expression& e, const std::vector<Rational>& numbers);
bool holds(const Condition& c, const std::vector<Rational>& numbers);

/// Whether some number for which `wanted` is true stands in it.
bool mentions(const NumberNode& node, const std::function<bool(std::int32_t)>& wanted);

}  // namespace kiteknot
