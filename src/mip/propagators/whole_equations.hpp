#pragma once
// Equations over whole columns that no whole numbers solve, whatever their bounds: found by working
// columns out of one equation after the other with steps of Euclid's algorithm. Sources:
// Blankinship 1966, "Algorithm 288: solution of simultaneous linear Diophantine equations"; Pugh
// 1991, "The Omega test" (elimination of equations).

#include "base/work.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// True: there is no whole solution of the problem's equations with whole figures over integer
/// columns. False: there is one, or it was too much work.
bool equations_unsolvable(const Problem& problem, WorkCounter& work);

}  // namespace kiteknot::mip
