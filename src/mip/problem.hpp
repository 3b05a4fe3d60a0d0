#pragma once
// The Problem as solved: columns with bounds and kinds, and constraints of four kinds. Names live
// in the Model; here everything is a number.
//
//   minimise c'x over l <= x <= u, some x integer, where
//   linear rows        L <= a'x <= U
//   conditional rows   L <= a'x <= U whenever a literal holds
//   ordered sets       at most `width` neighbouring columns of a list are not 0
//   generated rows     whatever a Generator adds when it looks at a point
//
// A condition is something that holds or fails; a binary column may stand for it (1: it holds).

#include <memory>
#include <optional>
#include <unordered_map>
#include <vector>

#include "base/at.hpp"
#include "kiteknot/rational.hpp"
#include "lp/program.hpp"

namespace kiteknot::mip {

using linalg::Index;
using linalg::Lines;
using lp::Entry;

struct Literal {
  Index condition = -1;
  bool holds = true;  ///< the state of the condition in which the literal is true
};

struct Row {
  std::vector<Entry> entries;  ///< each column at most once
  double lower = 0.0, upper = 0.0;
  bool exact =
      true;  ///< entries are the model's numbers, not nearest doubles; limits never cut a plan off
  std::optional<lp::Exact> known{};  ///< the model's numbers, where doubles are not
};

struct ConditionalRow {
  Literal when;
  Row row;
};

struct OrderedSet {
  std::vector<Index> columns;  ///< in order; each must admit 0
  Index width = 1;             ///< 1: at most one is not 0; 2: at most two neighbours
};

/// Adds rows that every plan satisfies, when a point breaks them.
class Generator {
 public:
  virtual ~Generator() = default;
  [[nodiscard]] virtual bool wants_fractions() const = 0;
  /// `point` has one value a column; `integral`: all integer columns are within rounding of
  /// integers, and the point will be taken as a plan unless a row is added.
  virtual std::vector<Row> look(std::span<const double> point, bool integral) = 0;
};

class Problem {
 public:
  Index add_column(double lower, double upper, bool integer, double cost);
  void set_cost(Index j, double cost);
  Index add_row(const Row& row);
  void set_limits(Index i, double lower, double upper);
  void set_bounds(Index j, double lower, double upper) {
    lower_[at(j)] = lower;
    upper_[at(j)] = upper;
  }
  /// Rounds the limits of rows that can only take whole values inward; false where nothing is left
  /// between them. Cuts no plan off, but changes the relaxation.
  [[nodiscard]] bool round_limits();
  /// A new condition; `column`: a binary column that stands for it, -1 for none.
  Index add_condition(Index column = -1);
  void add_conditional_row(ConditionalRow row);
  void add_ordered_set(OrderedSet set);
  void set_generator(std::shared_ptr<Generator> generator) { generator_ = std::move(generator); }
  /// Costs are the model's numbers times one factor, exactly; 0: nothing is known of the goal's
  /// steps, otherwise every plan's goal is a multiple of it.
  void set_goal_facts(bool cost_exact, double step) {
    cost_exact_ = cost_exact;
    goal_step_ = step;
  }
  void clear_goal();
  /// The model's own numbers where no double is: a column's bounds, all costs.
  void set_exact_bounds(Index j, lp::Exact bounds) { known_bounds_[j] = std::move(bounds); }
  void set_exact_costs(std::vector<Rational> costs) { known_costs_ = std::move(costs); }
  [[nodiscard]] const std::unordered_map<Index, lp::Exact>& known_rows() const noexcept {
    return known_rows_;
  }
  [[nodiscard]] const std::unordered_map<Index, lp::Exact>& known_bounds() const noexcept {
    return known_bounds_;
  }
  [[nodiscard]] const std::vector<Rational>& known_costs() const noexcept { return known_costs_; }

  [[nodiscard]] Index num_columns() const noexcept { return static_cast<Index>(lower_.size()); }
  [[nodiscard]] Index num_rows() const noexcept { return rows_.num_lines(); }
  [[nodiscard]] Index num_integers() const noexcept { return num_integers_; }
  [[nodiscard]] double lower(Index j) const { return lower_[at(j)]; }
  [[nodiscard]] double upper(Index j) const { return upper_[at(j)]; }
  [[nodiscard]] bool integer(Index j) const { return integer_[at(j)] != 0; }
  [[nodiscard]] double cost(Index j) const { return cost_[at(j)]; }
  [[nodiscard]] bool cost_exact() const noexcept { return cost_exact_; }
  [[nodiscard]] double goal_step() const noexcept { return goal_step_; }
  [[nodiscard]] const Lines& rows() const noexcept { return rows_; }
  [[nodiscard]] const Lines& columns() const noexcept { return columns_; }
  [[nodiscard]] double row_lower(Index i) const { return row_lower_[at(i)]; }
  [[nodiscard]] double row_upper(Index i) const { return row_upper_[at(i)]; }
  [[nodiscard]] bool row_exact(Index i) const { return row_exact_[at(i)] != 0; }
  [[nodiscard]] Index num_conditions() const noexcept {
    return static_cast<Index>(condition_column_.size());
  }
  [[nodiscard]] Index column_of_condition(Index c) const { return condition_column_[at(c)]; }
  [[nodiscard]] Index condition_of_column(Index j) const { return condition_of_[at(j)]; }
  [[nodiscard]] const std::vector<ConditionalRow>& conditional_rows() const noexcept {
    return conditional_;
  }
  [[nodiscard]] const std::vector<OrderedSet>& ordered_sets() const noexcept { return ordered_; }
  [[nodiscard]] Generator* generator() const noexcept { return generator_.get(); }
  /// Whether it has linear rows only, and no real column.
  [[nodiscard]] bool only_rows_over_integers() const noexcept {
    return num_integers_ == num_columns() && conditional_.empty() && ordered_.empty() &&
           !generator_;
  }

 private:
  std::vector<double> lower_, upper_, cost_;
  std::vector<char> integer_;
  Lines rows_, columns_;
  std::vector<double> row_lower_, row_upper_;
  std::vector<char> row_exact_;
  std::vector<Index> condition_column_, condition_of_;
  std::vector<ConditionalRow> conditional_;
  std::vector<OrderedSet> ordered_;
  std::shared_ptr<Generator> generator_;
  std::unordered_map<Index, lp::Exact> known_rows_, known_bounds_;
  std::vector<Rational> known_costs_;
  Index num_integers_ = 0;
  bool cost_exact_ = true;
  double goal_step_ = 0.0;
};

/// Whether a point meets every bound, kind and constraint of the problem exactly, coefficients
/// taken by their binary value; conditions without a column are free to hold or fail. Not for
/// generated rows.
bool satisfies(const Problem& problem, std::span<const Rational> point);

}  // namespace kiteknot::mip
