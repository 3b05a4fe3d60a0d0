#pragma once
// Figures computed from numbers: a small expression graph whose leaves are numbers and constants.

#include <memory>
#include <vector>

#include "kiteknot/expression.hpp"

namespace kiteknot {

struct NumberNode {
  enum class Op { constant, number, add, multiply, invert };
  Op op = Op::constant;
  Rational value;            // constant
  std::int32_t number = -1;  // number
  Factor left, right;        // operands; invert has only left
};

inline Factor constant_factor(Rational value) {
  return std::make_shared<NumberNode>(
      NumberNode{NumberNode::Op::constant, std::move(value), -1, {}, {}});
}
inline Factor combined_factor(NumberNode::Op op, Factor left, Factor right) {
  return std::make_shared<NumberNode>(NumberNode{op, 0, -1, std::move(left), std::move(right)});
}

/// The value under the given values of the numbers, by id. Throws UsageError on a division by 0.
Rational evaluate(const NumberNode& node, const std::vector<Rational>& numbers);

/// Constant, where the factor holds no number: used to fold.
bool holds_number(const NumberNode& node);

}  // namespace kiteknot
