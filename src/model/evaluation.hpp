#pragma once
// Exact values of expressions and conditions under a plan, as stated.

#include <set>
#include <string>

#include "model/model_data.hpp"

namespace kiteknot {

/// A value and the sum of the sizes of its terms, which tolerances are relative to.
struct Sum {
  Rational value, size;
};

class Evaluation {
 public:
  /// With `real`, comparisons hold within kStatedTolerance x (1 + sum of |terms|).
  Evaluation(const ModelData& model, std::span<const Rational> values, bool real);

  [[nodiscard]] Sum sum(const Expression& e) const;
  [[nodiscard]] Rational value(const Expression& e) const { return sum(e).value; }
  /// Whether the condition holds (fails, with `wanted` false). Over whole decisions exactly one of
  /// both is true; over reals both may be at the edge of a comparison, whose edge belongs to both
  /// sides.
  [[nodiscard]] bool is(const Condition& c, bool wanted = true) const;
  /// A sentence for every curve that was asked for a value outside its range.
  [[nodiscard]] const std::set<std::string>& outside() const noexcept { return outside_; }
  [[nodiscard]] const std::vector<Rational>& numbers() const noexcept { return numbers_; }
  [[nodiscard]] const Rational& tolerance() const noexcept { return tolerance_; }

 private:
  [[nodiscard]] Rational value(const Derived& d) const;
  [[nodiscard]] bool compares(const Condition& c, bool wanted) const;

  const ModelData& model_;
  std::span<const Rational> values_;
  std::vector<Rational> numbers_;
  Rational tolerance_;
  bool real_;
  mutable std::set<std::string> outside_;
};

/// Whether an expression is made of whole decisions only, so that it moves in steps. The lowering
/// (Builder::step) knows the steps of every such expression.
bool only_whole(const ModelData& model, const Expression& e);
/// The step in which a sum of whole decisions moves at least; 0 for anything else.
Rational step_of(const ModelData& model, const Expression& e);

}  // namespace kiteknot
