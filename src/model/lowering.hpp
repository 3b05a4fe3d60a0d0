#pragma once
// From the Model as stated to the Problem as solved. Logic, curves and other terms that are not
// sums become rows over further columns (lowering_builder.hpp). Every row is scaled by the least
// common denominator of its figures, so that its coefficients are whole numbers and exact as
// doubles wherever they fit; the goal likewise, which also tells in which steps it moves. What was
// done is recorded and can be undone.

#include "base/work.hpp"
#include "mip/problem/problem.hpp"
#include "model/model_data.hpp"

namespace kiteknot {

/// What became of a rule, curve or other term, for reading back.
struct LoweringNote {
  std::string of;       // the rule, curve or decision family
  std::string place{};  // the same, with where it stands
  Index rows = 0, clauses = 0, binaries = 0, reals = 0;
  Index conditional = 0;       // rows that hold where a condition does, for want of a finite bound
  Rational largest_bound = 0;  // that a guarded row got from the data
  bool closed_side = false;    // a negated comparison of reals whose edge counts as both
  std::vector<std::string> how{};  // formulations of curves, each once
};

/// Where a row of the Problem comes from.
struct LoweredRow {
  Index family = 0, member = 0;  // of the model's rules
  Rational scale;                // problem row = scale x rule
  bool always_holds = false;     // no decision left, and the limits allow it: not in the problem
  bool linear = true;            // one row of the problem; otherwise see the notes
  Index problem_row = -1;
  Index rows_from = 0, rows_to = 0;  // the problem's rows that it became
  bool only_rows = true;             // and nothing else: no columns, no conditional rows
};

struct Lowering {
  mip::Problem problem;          // column j is decision j, others follow
  std::vector<LoweredRow> rows;  // one a rule row that is switched on, in order
  Rational goal_scale = 1;       // problem goal = scale x (sign x goal - constant)
  Rational goal_constant;        // of the user's goal
  int goal_sign = 1;             // -1 where the user maximises
  bool relaxed = false;          // integrality was dropped
  LinearForm goal;               // over the problem's columns, user's sense, with its constant
  std::vector<std::pair<Rational, Rational>> limits;  // exact, by row of the problem; on request
  std::vector<LoweringNote> notes;  // one a rule family that is not linear, then curves, ...

  /// From a column on, what further columns are made for: a rule, goal or family of decisions;
  /// rising.
  std::vector<std::pair<Index, std::string>> made_for;
  /// Of one of them; empty where nobody knows.
  [[nodiscard]] std::string helps(Index column) const;

  /// Between the problem's goal and the user's.
  [[nodiscard]] Rational to_user(const Rational& value) const;
  [[nodiscard]] double to_user(double value) const;
  [[nodiscard]] Rational to_problem(const Rational& value) const;
  /// The goal's value at a point of all columns; of a relaxed point it is the relaxation's.
  [[nodiscard]] Rational goal_at(std::span<const Rational> columns) const;
};

/// Throws UsageError where a rule or term has no exact linear form, naming it. O(nonzeros).
/// Throws LoweringStopped where the user wants to stop before it is done.
Lowering lower(const ModelData& model, bool drop_integrality = false, bool keep_limits = false,
               const Interrupt& interrupt = {});
struct LoweringStopped {};

}  // namespace kiteknot
