#pragma once
// Every tolerance of the engine, each with what it is relative to. Nothing else in src/ spells one
// out. None of them decides whether a plan is accepted or a bound holds: that is exact
// (model/check.hpp, lp/proof.hpp). They steer the floating-point work in between.

namespace kiteknot {

struct Tolerances {
  double feasibility =
      1e-9;  ///< values against bounds, absolute, rows scaled to a largest entry near 1
  double optimality = 1e-9;   ///< reduced costs, relative to the largest goal coefficient
  double integrality = 1e-6;  ///< distance to the nearest integer, absolute
  double pivot = 1e-9;        ///< smallest pivot entry that a ratio test may take, absolute
  double drop = 1e-14;        ///< entries of work vectors below this become 0, absolute
  double disagreement =
      1e-7;  ///< pivot entry by row against by column, relative: refactor above it
};

/// Relative gap at which a proof over real-valued goals is complete; the answer states it.
inline constexpr double kProofGap = 1e-7;
/// The same for a goal near 0, where a relative gap says nothing: times the largest goal
/// coefficient. Far below what rules over reals are allowed, far above the last digit of a limit
/// that no double can hold.
inline constexpr double kProofGapNearZero = 1e-12;
/// A rule over reals holds as stated within this times (1 + sum of |terms|).
inline constexpr double kStatedTolerance = 1e-9;

}  // namespace kiteknot
