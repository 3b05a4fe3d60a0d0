#pragma once
// The tolerances that parts of the engine share, each with what it is relative to; those of one
// place only (when a cut or a move counts, what is noise in a sum) stand there. None of them
// decides whether a plan is accepted or a bound holds: that is exact (model/check.hpp,
// lp/proof.hpp). They steer the floating-point work in between.

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

/// Gap, relative to the goal's own value, at which a proof over real-valued goals is complete where
/// the last bound could not be had exactly; the answer states it. At a value of 0 there is none.
inline constexpr double kProofGap = 1e-9;
/// A rule over reals holds as stated within this times (1 + the size of the largest term of a real
/// decision); model/check.hpp.
inline constexpr double kStatedTolerance = 1e-9;

}  // namespace kiteknot
