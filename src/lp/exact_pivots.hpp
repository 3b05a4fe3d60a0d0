#pragma once
// The primal simplex in exact arithmetic, for the few steps that floating point leaves: every
// vertex, reduced cost and direction is worked out by lifting (exact_basis.hpp), so that its answer
// is a proof. Phase 1 lowers the sum of infeasibilities, phase 2 the goal; after a while without
// progress the smallest variable enters and leaves (Bland 1977, "New finite pivoting rules for the
// simplex method"), so that it ends. Source of the plan "floating point first, exact pivots after":
// Applegate, Cook, Dash and Espinoza 2007, "Exact solutions to linear programming problems".

#include <optional>

#include "lp/exact_basis.hpp"

namespace kiteknot::lp {

struct ExactEnd {
  Status status = Status::undecided;  ///< optimal, infeasible or unbounded: proven; else limit
  Basis basis;
  std::vector<Rational> x;    ///< the columns' values at the basis
  std::vector<Rational> ray;  ///< of the columns, where unbounded
  int pivots = 0;
};

struct ExactPivots {
  int most = 500;
  ExactLimits limits{};
};

/// From any regular basis; nothing where the program's numbers are not all known, the basis is
/// singular or the lifting gives up. Costs three liftings a pivot.
std::optional<ExactEnd> exact_pivots(const Program& program, Basis start,
                                     const ExactPivots& how = {});

}  // namespace kiteknot::lp
