#pragma once
// From the Model as stated to the Problem as solved. Every row is scaled by the least common
// denominator of its figures, so that its coefficients are whole numbers and exact as doubles
// wherever they fit; the goal likewise, which also tells in which steps it moves. What was done is
// recorded and can be undone.

#include "mip/problem.hpp"
#include "model/model_data.hpp"

namespace kiteknot {

/// Where a row of the Problem comes from.
struct LoweredRow {
  Index family = 0, member = 0;  // of the model's rules
  Rational scale;                // problem row = scale x rule
  bool always_holds = false;     // no decision left, and the limits allow it: not in the problem
  Index problem_row = -1;
};

struct Lowering {
  mip::Problem problem;          // column j is decision j
  std::vector<LoweredRow> rows;  // one a rule row that is switched on, in order
  Rational goal_scale = 1;       // problem goal = scale x (sign x goal - constant)
  Rational goal_constant;        // of the user's goal
  int goal_sign = 1;             // -1 where the user maximises
  bool relaxed = false;          // integrality was dropped

  /// Between the problem's goal and the user's.
  [[nodiscard]] Rational to_user(const Rational& goal) const;
  [[nodiscard]] double to_user(double goal) const;
  [[nodiscard]] Rational to_problem(const Rational& goal) const;
};

/// Throws UsageError where a bound or rule cannot be stated linearly. O(nonzeros).
Lowering lower(const ModelData& model, bool drop_integrality = false);

}  // namespace kiteknot
