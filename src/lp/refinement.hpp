#pragma once
// From a basis that is optimal within tolerances to one that is optimal in exact arithmetic: the
// exact vertex and reduced costs of the basis at hand are taken out of the program, what is left is
// scaled up so that its errors are of size 1, and solved again from the same basis. Source:
// Gleixner, Steffy and Wolter 2016, "Iterative refinement for linear programming".

#include "lp/exact_basis.hpp"

namespace kiteknot::lp {

struct Refined {
  Status status = Status::undecided;  ///< optimal, infeasible or unbounded: proven exactly
  Basis basis;
};

/// Where no round ends at a basis that is primal and dual feasible exactly, exact pivots take over
/// (exact_pivots.hpp). Undecided where these meet their limits or numbers are not known.
Refined refined(const Simplex& simplex, const ExactLimits& limits = {});

}  // namespace kiteknot::lp
