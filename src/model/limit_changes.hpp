#pragma once
// Variants of a model that has been lowered in which nothing but limits of rows is different: no
// need to lower them anew.

#include <optional>

#include "mip/problem/limit_changes.hpp"
#include "model/lowering.hpp"

namespace kiteknot {

/// A number that stands in nothing but the limits of linear rules, at several values.
class MovedLimits {
 public:
  /// Looks where the number stands, by way of other numbers too. O(size of the model).
  MovedLimits(const ModelData& model, const Lowering& lowering, Index number);
  /// Whether it moves limits only.
  [[nodiscard]] bool only_limits() const noexcept { return only_limits_; }
  /// What changes in the problem, for the same model with another value of the number. O(decisions
  /// + entries of the rows that it moves).
  [[nodiscard]] mip::LimitChanges under(const ModelData& there) const;

 private:
  const Lowering& lowering_;
  std::vector<std::size_t> rows_;  // positions in Lowering::rows
  bool only_limits_ = true;
};

/// The problem's rows of a rule row left without limits; empty where the rule is more than rows.
std::optional<mip::LimitChanges> without_row(const Lowering& lowering, std::size_t position);

}  // namespace kiteknot
