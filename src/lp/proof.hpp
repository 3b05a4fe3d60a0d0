#pragma once
// Statements about a linear program that hold in exact arithmetic although the numbers behind them
// were found in floating point. Everything is evaluated with outward rounding; coefficients of rows
// that are not exact are taken as intervals. Source: Neumaier and Shcherbina 2004, "Safe bounds in
// linear and mixed-integer linear programming".

#include <span>
#include <vector>

#include "base/interval.hpp"
#include "lp/implied.hpp"
#include "lp/program.hpp"

namespace kiteknot::lp {

/// A lower bound on c'x over the program's feasible set, from any row multipliers y (length m):
///   c'x = y'(A x) + (c - A'y)'x >= sum over rows of min y_i [L_i, U_i] + sum over columns of min
///   d_j [l_j, u_j].
/// Minus infinity where a term is unbounded. Multipliers that point at an infinite limit count as
/// 0. With `reduced`, also the enclosures of d = c - A'y (length n). O(nnz).
double safe_bound(const Program& program, std::span<const double> y,
                  std::vector<Interval>* reduced = nullptr);
/// The same without room of its own: `y` is used up, `reduced` filled. It asks for no memory where
/// `reduced` has had this length before. With `ends`: these stand in for bounds that are missing.
double safe_bound_in_place(const Program& program, std::span<double> y,
                           std::vector<Interval>& reduced, const ImpliedEnds* ends = nullptr);

/// What such multipliers say of the columns: for every x that fits,
///   c'x (or 0 without costs) >= the value returned + sum d_j x_j,
/// with d enclosed in `d`. `y` is used up. A positive right side without costs is a contradiction.
double proof_sum(const Program& program, std::span<double> y, bool with_costs,
                 std::vector<Interval>& d);

/// The same bound in plain arithmetic, less a radius that covers every rounding: a sum of k terms
/// is off by at most k u / (1 - k u) of the sum of their sizes (Higham 2002, "Accuracy and
/// stability of numerical algorithms", section 3.1). A few times as fast as outward rounding, and a
/// little weaker: where the radius decides something, ask safe_bound_in_place. Minus infinity also
/// where rounding leaves a sign open that an infinite end asks for.
struct PlainBound {
  double value = 0.0;   ///< certain
  double radius = 0.0;  ///< no bound from these multipliers is more than twice this above it
};
class PlainProof {
 public:
  /// `y` is used up and `reduced` filled, as above.
  PlainBound bound(const Program& program, std::span<double> y, std::vector<Interval>& reduced);

 private:
  std::vector<double> d_, size_;
};

/// The least value of d x for d in the interval and lower <= x <= upper, rounded down; ends may be
/// infinite.
double least_product(const Interval& d, double lower, double upper);

/// Whether y (length m) proves that no x fits: the range of y'(A x) - y'r over l <= x <= u, L <= r
/// <= U keeps away from 0. O(nnz).
/// `ends`: in place of bounds that columns do not have; of rows alone (ImpliedEnds::goal_limit is
/// infinite).
bool proves_infeasible(const Program& program, std::span<const double> y,
                       const ImpliedEnds* ends = nullptr);

}  // namespace kiteknot::lp
