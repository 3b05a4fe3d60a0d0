#pragma once
// Between the problem that a stage searches and the problem as it came: plans, bounds, progress and
// what is told of the tree, each both ways or outward only. The one place that knows what presolve
// left out of the goal and of the columns.

#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "mip/interface/options.hpp"
#include "mip/presolve/postsolve_stack.hpp"

namespace kiteknot::mip {

class Translation {
 public:
  /// The stage searches the problem as it came.
  Translation() = default;
  /// goal of the problem as it came = goal of the stage's + `constant`.
  Translation(std::shared_ptr<const PostsolveStack> postsolve, Rational constant);

  [[nodiscard]] bool same() const noexcept { return postsolve_ == nullptr; }
  [[nodiscard]] const Rational& constant() const noexcept { return constant_; }

  // Outward: to the problem as it came.
  [[nodiscard]] std::vector<Rational> plan_out(std::span<const Rational> plan) const;
  /// A direction in which no constraint ends.
  [[nodiscard]] std::vector<Rational> ray_out(std::span<const Rational> ray) const;
  [[nodiscard]] double bound_out(double bound) const;  ///< rounded down
  [[nodiscard]] Standing out(Standing standing) const;
  [[nodiscard]] std::vector<NodeRecord> out(std::vector<NodeRecord> tree) const;
  [[nodiscard]] PseudoCosts out(PseudoCosts costs) const;
  /// A judge of the problem as it came, for the stage's plans. It holds the judge by reference.
  [[nodiscard]] Judge judge_in(const Judge& judge) const;

  // Inward: to the stage's problem.
  [[nodiscard]] Rational goal_in(const Rational& goal) const { return goal - constant_; }
  [[nodiscard]] double bound_in(double bound) const;  ///< rounded down
  /// Nothing where no plan of the stage's stands for it.
  [[nodiscard]] std::optional<std::vector<Rational>> plan_in(std::span<const Rational> plan) const;
  /// How many of the first `columns` are left; they come first again.
  [[nodiscard]] Index columns_in(Index columns) const;
  [[nodiscard]] PseudoCosts in(const PseudoCosts& costs) const;
  /// `rows`: by rows of the stage's those they come from, -1 for new ones.
  [[nodiscard]] lp::Basis in(const lp::Basis& basis, std::span<const Index> rows) const;

 private:
  std::shared_ptr<const PostsolveStack> postsolve_;  // null: nothing was left out
  Rational constant_ = 0;
  Interval enclosed_{0.0, 0.0};  // the constant
};

}  // namespace kiteknot::mip
