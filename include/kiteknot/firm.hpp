#pragma once
// How firm is a plan? Over which values of each figure does the best plan stay best?

#include "kiteknot/explain.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// A goal coefficient, the limit of a rule row, what a yes-or-no decision is multiplied by in one
/// ("capacity * open"), or a figure of a curve in the goal, and the values over which the best plan
/// stays best while everything else stays as it is.
struct FirmFigure {
  enum class Kind { coefficient, least, most, multiplier, curve } kind = Kind::coefficient;
  /// coefficient: of this decision in the first goal; multiplier: of this one in the row; least,
  /// most: the yes-or-no decision that the limit counts for ("open implies load >= 8"), or -1.
  std::int32_t decision = -1;
  RuleRow row;        ///< least, most, multiplier: this rule row
  std::string curve;  ///< curve: which figure of which curve in the goal, "rate 2 of hire"
  Rational now;
  std::optional<Rational> low, high;                 ///< none: no end on that side, or not reached
  bool low_excluded = false, high_excluded = false;  ///< a better plan exists at the end itself
  bool low_reached = true, high_reached = true;      ///< settled by proof
  /// The nearer end's distance over the figure's size; infinite where there is no end.
  [[nodiscard]] double tightness() const;
};

struct Firmness {
  Result best;                      ///< for the first goal
  std::vector<FirmFigure> figures;  ///< settled ones first, the tightest first
  std::vector<RuleRow> exact;       ///< equations: any other limit breaks the plan
  std::int64_t solves = 0;
  std::size_t not_reached = 0;           ///< of the figures, those that the budget left unsettled
  std::size_t not_looked_at = 0;         ///< further coefficients of the goal, for want of budget
  std::vector<std::string> later_goals;  ///< goals after the first, which were left aside
};

/// Goal coefficients: the least ratio by which a plan with more (less) of the decision catches up
/// (Dinkelbach 1967, "On nonlinear fractional programming"), so one solve a side for a binary.
/// Limits: down to the plan's own value; up to the nearest one that lets a better plan in, by one
/// solve. Warm; `most_solves` is the budget, spent first where the relaxation is most sensitive.
Firmness firmness(const Model& model, const SolveOptions& options = {}, int most_solves = 400);

}  // namespace kiteknot
#pragma GCC visibility pop
