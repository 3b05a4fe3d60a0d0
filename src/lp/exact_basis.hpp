#pragma once
// A basis looked at in exact arithmetic, at any size: what its vertex is, what its multipliers
// prove. With S the basic columns and R the rows whose logical is nonbasic, |S| = |R| = k,
// everything follows from the k x k kernel A_RS, which is solved by lifting (lifting.hpp). Only
// programs whose rows are all known qualify (Program::row_known); the limits and numbers used are
// the model's own, not the doubles that were rounded from them.

#include <optional>
#include <vector>

#include "kiteknot/rational.hpp"
#include "lp/lifting.hpp"
#include "lp/simplex.hpp"

namespace kiteknot::lp {

/// The columns' values in the basis (length n); nothing where the basis is singular or refused.
std::optional<std::vector<Rational>> exact_values(const Program& program, const Basis& basis,
                                                  const ExactLimits& limits = {});

/// The lower bound that the basis' own multipliers give, evaluated exactly; nothing where it is
/// refused or not finite. Needs known costs.
std::optional<Rational> exact_bound(const Program& program, const Basis& basis,
                                    const ExactLimits& limits = {});

/// How the columns move (length n) when a nonbasic variable (columns first, then rows) moves by 1,
/// upward or downward, and the basic ones follow.
std::optional<std::vector<Rational>> exact_direction(const Program& program, const Basis& basis,
                                                     Index variable, bool upward,
                                                     const ExactLimits& limits = {});

/// The basis with every nonbasic variable at a bound that it has, rows that it does not know basic,
/// columns not; without weights.
Basis at_own_bounds(const Program& program, Basis basis);

/// Whether x meets every bound and row of the model's own numbers.
bool fits_exactly(const Program& program, const std::vector<Rational>& x);

/// Whether some row whose columns are all fixed misses its limits, in the model's own numbers.
bool breaks_fixed_row(const Program& program);

/// Whether row `variable` of the basis' inverse (a basic variable, columns first, then rows) proves
/// that no x fits.
bool exact_infeasible(const Program& program, const Basis& basis, Index variable,
                      const ExactLimits& limits = {});

/// Reduced costs of the basis' multipliers (length n + m, rows' logicals last), exactly; for the
/// program's costs, or for others (length n).
std::optional<std::vector<Rational>> exact_reduced_costs(const Program& program, const Basis& basis,
                                                         const ExactLimits& limits = {});
std::optional<std::vector<Rational>> exact_reduced_costs(const Program& program, const Basis& basis,
                                                         const std::vector<Rational>& cost,
                                                         const ExactLimits& limits = {});

}  // namespace kiteknot::lp
