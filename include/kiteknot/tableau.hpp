#pragma once
// The simplex tableau of a model that is all sums, in exact fractions and the model's own names,
// for work by hand. Rows are told as
//   basic = right side - sum of entry x other, over the columns that are not basic,
// so that the columns of basic ones, which are unit vectors, need not be written. Every rule has a
// room, the distance to its limit: "room of crew". Whoever is not basic stands at one of its
// limits (Dantzig 1955, "Upper bounds, secondary constraints, and block triangularity").
// A Tableau is a value; nothing is printed here. Steps on it are in tableau_steps.hpp, cutting
// planes in tableau_cuts.hpp; workbench.hpp keeps a story of them that can be taken back.

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

inline constexpr std::int32_t kMostTableauColumns = 60;
inline constexpr std::int32_t kMostTableauRows = 60;

struct TableauOptions {
  /// Limits of decisions other than "0 or more" become rules of their own, where they can; else
  /// columns are marked that stand at their greatest value.
  bool limits_as_rows = false;
  /// Conditions and other terms that are no sums are taken in the form that the solver makes of
  /// them, with further columns where that needs some; else they are refused.
  bool as_sums = false;
};

struct TableauColumn {
  enum class Kind { decision, helper, room };
  std::string name;
  Kind kind = Kind::decision;
  Rational low, high;       ///< infinite where there is no limit
  Rational step;            ///< whole plans have multiples of it here; 0: any value
  std::int32_t row = -1;    ///< that it is the room of, as stated
  std::int32_t place = -1;  ///< its row where it is basic, its column where it is not
  bool basic = false;
  bool at_high = false;  ///< not basic, and at its greatest value
  bool gone = false;     ///< its row was dropped
  /// Whether it has one value only.
  [[nodiscard]] bool fixed() const { return low == high; }
  /// Whether the value lies between its ends.
  [[nodiscard]] bool admits(const Rational& value) const { return low <= value && value <= high; }
  /// Whether a whole plan could have this value here.
  [[nodiscard]] bool is_whole_at(const Rational& value) const {
    return step.is_zero() || (value / step).is_integer();
  }
};

/// A sum over decisions (and helpers) with its limit: terms + room = limit where `sign` is 1,
/// terms - room = limit where it is -1.
struct TableauRow {
  enum class From { rule, limit, cut, own, branch };
  std::string name;
  From from = From::rule;
  std::vector<std::pair<std::int32_t, Rational>> terms;  ///< column, coefficient; rising columns
  Rational limit;
  int sign = 1;
  std::int32_t room = -1;  ///< its column
  std::int32_t rule = -1;  ///< the rule's row in order, as PlanReport::rules has it
  bool equation = false;
};

class Tableau {
 public:
  using Column = std::int32_t;

  /// Throws UsageError, with the reason and what to do instead, where the model has rules or a goal
  /// that are no sums, none at all, or more than kMostTableauColumns or kMostTableauRows. The goal
  /// is the first one; a model without goals has one that is 0.
  explicit Tableau(const Model& model, const TableauOptions& options = {});

  /// The model that it was made of.
  [[nodiscard]] const Model& model() const noexcept { return model_; }
  /// How it was made.
  [[nodiscard]] const TableauOptions& options() const noexcept { return options_; }
  /// "" for a model without a goal.
  [[nodiscard]] const std::string& goal_name() const noexcept { return goal_name_; }
  /// The goal's sense as stated.
  [[nodiscard]] bool maximize() const noexcept { return maximize_; }
  /// What whole plans' goals are multiples of; 0: nothing is known.
  [[nodiscard]] const Rational& goal_step() const noexcept { return goal_step_; }
  /// The goal as stated: a constant, and one coefficient a decision or helper.
  [[nodiscard]] const Rational& goal_constant() const noexcept { return goal_constant_; }
  /// By columns, as stated.
  [[nodiscard]] const std::vector<Rational>& goal_coefficients() const noexcept { return goal_; }

  /// Decisions and helpers first, then rooms as their rows came.
  [[nodiscard]] const std::vector<TableauColumn>& columns() const noexcept { return columns_; }
  // Columns, rows and places that are not there are refused with UsageError.
  /// What it stands for, and between what.
  [[nodiscard]] const TableauColumn& column(Column c) const { return columns_[column_at(c)]; }
  /// The first columns are the decisions.
  [[nodiscard]] std::int32_t num_decisions() const noexcept { return num_decisions_; }
  /// Decisions and helpers: what sums are over.
  [[nodiscard]] std::int32_t num_own() const noexcept {
    return static_cast<std::int32_t>(goal_.size());
  }
  /// As stated, with all that was added; dropped ones stay.
  [[nodiscard]] const std::vector<TableauRow>& stated() const noexcept { return stated_; }
  /// By its name on the page; nothing where there is none.
  [[nodiscard]] std::optional<Column> find(const std::string& name) const;
  [[nodiscard]] std::vector<std::string> names() const;  ///< of all that are there

  /// Who is basic, row by row, and who is not, column by column.
  [[nodiscard]] const std::vector<Column>& basics() const noexcept { return basics_; }
  /// The columns that are not basic, in the order of the page.
  [[nodiscard]] const std::vector<Column>& others() const noexcept { return others_; }
  /// By row and by place among others().
  [[nodiscard]] const Rational& entry(std::int32_t row, std::int32_t place) const {
    return entries_[row_at(row)][other_at(place)];
  }
  /// The row's basic column with all others at 0, whether they may be or not.
  [[nodiscard]] const Rational& right_side(std::int32_t row) const { return right_[row_at(row)]; }
  /// What one more unit of the other does to the goal, the rest as it is.
  [[nodiscard]] const Rational& gain(std::int32_t place) const { return gains_[other_at(place)]; }
  /// Where the column stands, basic or not.
  [[nodiscard]] Rational value(Column c) const;
  /// Of the point that it stands at.
  [[nodiscard]] Rational goal_value() const;
  /// The goal's value with all others at 0, whether they may be or not.
  [[nodiscard]] const Rational& goal_right_side() const noexcept { return goal_right_; }

  /// By how much basic ones are outside their limits, summed up, and what one more unit of an
  /// other does to that: the goal of the first phase (Wolfe 1965, "The composite simplex
  /// algorithm").
  [[nodiscard]] Rational missing() const;
  /// What one more unit of the other at this place does to what is missing.
  [[nodiscard]] Rational missing_change(std::int32_t place) const;
  /// Whether steps lower what is missing in place of the goal.
  [[nodiscard]] bool in_first_phase() const noexcept { return first_phase_; }
  /// For the steps.
  void set_first_phase(bool on) noexcept { first_phase_ = on; }

  /// Every basic value lies between its ends.
  [[nodiscard]] bool is_feasible() const;
  /// Whether no other could move to make the goal better.
  [[nodiscard]] bool has_right_signs() const;
  /// Feasible, and no step improves the goal.
  [[nodiscard]] bool is_optimal() const { return is_feasible() && has_right_signs(); }
  /// Whether every decision that has to be whole is.
  [[nodiscard]] bool is_whole() const;
  /// Whether some decision's least value is above its greatest: no plan at all.
  [[nodiscard]] std::optional<Column> empty_column() const;
  /// The values of the model's decisions.
  [[nodiscard]] Plan plan() const;

  /// The other comes in for the basic one, which from then on stands at one of its limits.
  /// UsageError for an entry of 0.
  void pivot(std::int32_t row, std::int32_t place, bool leaves_at_high);
  /// The other goes to its other limit. UsageError where it has none.
  void move_to_other_limit(std::int32_t place);
  /// A further row; its room is basic. Returns the room's column.
  Column add_row(TableauRow row, const Rational& range = Rational::infinity());
  /// A row whose room is basic goes. UsageError where it is not.
  void drop_row(Column room);
  /// What a basic column's values or an other's may be from now on.
  void set_limits(Column c, const Rational& low, const Rational& high);

 private:
  static std::size_t place(std::int32_t i) { return static_cast<std::size_t>(i); }
  static std::size_t within(std::int32_t i, std::size_t count, const char* what);
  [[nodiscard]] std::size_t column_at(Column c) const {
    return within(c, columns_.size(), "column");
  }
  [[nodiscard]] std::size_t row_at(std::int32_t row) const {
    return within(row, right_.size(), "row");
  }
  [[nodiscard]] std::size_t other_at(std::int32_t other) const {
    return within(other, gains_.size(), "column that is not basic");
  }
  [[nodiscard]] Rational stand(const TableauColumn& c) const;
  [[nodiscard]] Rational step_of(const TableauRow& row, const Rational& range) const;

  Model model_;
  TableauOptions options_;
  std::string goal_name_;
  bool maximize_ = true;
  Rational goal_constant_, goal_step_;
  std::vector<Rational> goal_;
  std::int32_t num_decisions_ = 0;
  std::vector<TableauColumn> columns_;
  std::vector<TableauRow> stated_;
  std::vector<Column> basics_, others_;
  std::vector<std::vector<Rational>> entries_;  // by rows
  std::vector<Rational> right_, gains_;
  Rational goal_right_;
  bool first_phase_ = false;
};

}  // namespace kiteknot
#pragma GCC visibility pop
