#pragma once
// A local optimum of a problem over real columns: linear goal, linear rows and smooth constraints.
// An interior point method: Newton steps on the barrier problem's conditions with the inertia of
// each step's matrix put right, a line search with a filter and second-order corrections, then a
// projection onto the constraints that are met with equality. Sources: Fiacco and McCormick 1968,
// "Nonlinear Programming: Sequential Unconstrained Minimization Techniques"; Fletcher and Leyffer
// 2002, "Nonlinear programming without a penalty function"; Nocedal and Wright 2006, "Numerical
// Optimization", chapter 19; Vanderbei 1995, "Symmetric quasidefinite matrices".
// Nothing is proven by it: what comes out is a point for a judge.

#include <optional>
#include <vector>

#include "base/work.hpp"
#include "mip/nonlinear/smooth.hpp"

namespace kiteknot::mip {

struct LocalProgram {
  std::vector<double> lower, upper, cost;  ///< by columns; equal bounds: the column is held
  std::vector<RowView> rows;
  std::vector<const SmoothRows*> smooth;
};

struct LocalEnd {
  std::vector<double> point;
  bool at_rest = false;  ///< it is a local optimum, as near as doubles tell
};

/// From a start, which is brought within the bounds. The point misses no constraint by more than
/// 1e-7 relative to its size, and most by rounding only; nothing where none such was found.
/// O(iterations x factor of a sparse matrix of columns and constraints).
[[nodiscard]] std::optional<LocalEnd> local_optimum(const LocalProgram& program,
                                                    std::vector<double> start, WorkCounter& work);

}  // namespace kiteknot::mip
