#pragma once
// The Problem as solved: columns with bounds, and constraints. Names live in the Model; here
// everything is a number.
//
//   minimise c'x over l <= x <= u, some x integer, where
//   linear rows     L <= a'x <= U
//   other kinds     of the register (constraint_kind.hpp), each in a file of its own in kinds/
//
// A condition is something that holds or fails; a binary column may stand for it (1: it holds). A
// literal is a condition in one of its two states.
//
// A Problem is three values: what was stated (constraints, conditions: once, shared by all copies),
// limits (bounds and sides) and the goal. A question that asks for other limits or another goal
// takes a copy and changes these; the matrix is never copied.

#include <memory>
#include <unordered_map>
#include <vector>

#include "base/at.hpp"
#include "mip/problem/constraint_kind.hpp"
#include "mip/problem/generator.hpp"
#include "mip/problem/row_store.hpp"

namespace kiteknot::mip {

/// What never differs between variants of a problem.
struct StatedProblem {
  std::vector<char> integer;  ///< by columns
  RowStore linear;
  Kinds kinds;
  std::vector<Index> condition_column;                ///< by conditions; -1: none
  std::vector<Index> condition_of;                    ///< by columns; -1: none
  std::unordered_map<Index, lp::Exact> known_bounds;  ///< the model's numbers where no double is
  Index num_integers = 0;
};

/// What variants differ in.
struct ProblemLimits {
  std::vector<double> lower, upper;  ///< by columns
  Sides rows;                        ///< of linear rows
};

/// Costs are the model's numbers times one factor, exactly where `exact` is set. `step` 0: nothing
/// is known of the goal's steps, otherwise every plan's goal is a multiple of it.
struct Objective {
  std::vector<double> cost;
  std::vector<Rational> known;  ///< the costs where no double is; empty: they are
  bool exact = true;
  double step = 0.0;
};

class Problem {
 public:
  Index add_column(double lower, double upper, bool integer, double cost);
  Index add_row(const LinearRow& row);
  /// A new condition; `column`: a binary column that stands for it, -1 for none.
  Index add_condition(Index column = -1);
  /// The kind of this class, to state constraints of it; registered with the first call.
  template <class Kind>
  Kind& own() {
    StatedProblem& s = stating();
    if (Kind* there = s.kinds.find<Kind>()) return *there;
    Kind& added = s.kinds.add<Kind>();
    added.add_columns(num_columns());
    return added;
  }
  void set_exact_bounds(Index j, lp::Exact bounds);

  void set_limits(Index i, double lower, double upper);
  void set_bounds(Index j, double lower, double upper) {
    limits_.lower[at(j)] = lower;
    limits_.upper[at(j)] = upper;
  }
  /// Rounds the limits of rows that can only take whole values inward; false where nothing is left
  /// between them. Cuts no plan off, but changes the relaxation.
  [[nodiscard]] bool round_limits();

  void set_cost(Index j, double cost);
  void set_goal_facts(bool cost_exact, double step) {
    goal_.exact = cost_exact;
    goal_.step = step;
  }
  void set_exact_costs(std::vector<Rational> costs) { goal_.known = std::move(costs); }
  void clear_goal();

  [[nodiscard]] Index num_columns() const noexcept {
    return static_cast<Index>(limits_.lower.size());
  }
  [[nodiscard]] Index num_rows() const noexcept { return stated_->linear.num_rows(); }
  [[nodiscard]] Index num_integers() const noexcept { return stated_->num_integers; }
  [[nodiscard]] double lower(Index j) const { return limits_.lower[at(j)]; }
  [[nodiscard]] double upper(Index j) const { return limits_.upper[at(j)]; }
  [[nodiscard]] bool integer(Index j) const { return stated_->integer[at(j)] != 0; }
  [[nodiscard]] double cost(Index j) const { return goal_.cost[at(j)]; }
  [[nodiscard]] bool cost_exact() const noexcept { return goal_.exact; }
  [[nodiscard]] double goal_step() const noexcept { return goal_.step; }
  [[nodiscard]] const Lines& rows() const noexcept { return stated_->linear.rows(); }
  [[nodiscard]] const Lines& columns() const noexcept { return stated_->linear.columns(); }
  [[nodiscard]] double row_lower(Index i) const { return limits_.rows.lower[at(i)]; }
  [[nodiscard]] double row_upper(Index i) const { return limits_.rows.upper[at(i)]; }
  [[nodiscard]] bool row_exact(Index i) const { return stated_->linear.exact(i); }
  /// Whether the row's value moves in whole steps, and its entries are the model's own numbers.
  [[nodiscard]] bool row_whole(Index i) const { return stated_->linear.whole(i); }
  [[nodiscard]] RowView row(Index i) const {
    return stated_->linear.view(i, row_lower(i), row_upper(i));
  }
  [[nodiscard]] Index num_conditions() const noexcept {
    return static_cast<Index>(stated_->condition_column.size());
  }
  [[nodiscard]] Index column_of_condition(Index c) const {
    return stated_->condition_column[at(c)];
  }
  [[nodiscard]] Index condition_of_column(Index j) const { return stated_->condition_of[at(j)]; }
  /// The register: linear rows first.
  [[nodiscard]] const Kinds& kinds() const noexcept { return stated_->kinds; }
  /// Rows of all kinds.
  [[nodiscard]] Index num_rows_in_all() const;
  /// Whether linear rows say all that it asks.
  [[nodiscard]] bool linear() const;
  /// Whether every plan can be told in fractions (ConstraintKind::exact).
  [[nodiscard]] bool exact() const;
  /// Whether all that it asks is stated (ConstraintKind::complete).
  [[nodiscard]] bool complete() const;
  /// The model's own numbers of a linear row where no double is.
  [[nodiscard]] const lp::Exact* known_row(Index i) const { return stated_->linear.known(i); }
  [[nodiscard]] const std::unordered_map<Index, lp::Exact>& known_bounds() const noexcept {
    return stated_->known_bounds;
  }
  [[nodiscard]] const std::vector<Rational>& known_costs() const noexcept { return goal_.known; }
  /// Whether it has linear rows only, and no real column.
  [[nodiscard]] bool only_rows_over_integers() const noexcept {
    return num_integers() == num_columns() && linear();
  }
  [[nodiscard]] bool moves_in_whole_steps(const LinearRow& row) const;
  [[nodiscard]] const StatedProblem& stated() const noexcept { return *stated_; }
  [[nodiscard]] const ProblemLimits& limits() const noexcept { return limits_; }
  /// Whether both share what was stated: nothing of it was copied.
  [[nodiscard]] bool shares_statement(const Problem& other) const noexcept {
    return stated_ == other.stated_;
  }

 private:
  /// To add to: copied first where somebody else holds it too.
  StatedProblem& stating();

  std::shared_ptr<StatedProblem> stated_ = std::make_shared<StatedProblem>();
  ProblemLimits limits_;
  Objective goal_;
};

/// Whether a point meets every bound and constraint of the problem exactly, coefficients
/// taken by their binary value; conditions without a column are free to hold or fail. What is not
/// stated (generated rows) it does not know.
bool satisfies(const Problem& problem, std::span<const Rational> point);

}  // namespace kiteknot::mip
