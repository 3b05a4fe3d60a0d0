#pragma once
// A basis looked at in exact rationals: the last resort where directed rounding gives no answer,
// for instance where a column without a bound meets a reduced cost that is 0 but for noise.
//
// With S the basic columns and R the rows whose logical is nonbasic, |S| = |R| = k, everything
// follows from the k x k kernel A_RS, eliminated sparsely in rationals. Only programs whose rows
// are all exact qualify (Program::row_exact); a kernel above `max_kernel` or too much fill is
// refused. Doubles count with their binary value, which for exact rows is the model's own number
// times a power of two.

#include <optional>
#include <vector>

#include "kiteknot/rational.hpp"
#include "lp/simplex.hpp"

namespace kiteknot::lp {

struct ExactLimits {
  Index max_kernel = 300;
  std::int64_t max_operations = 2'000'000;  ///< rational multiplications
};

/// The columns' values in the basis (length n); nothing where the basis is singular or refused.
std::optional<std::vector<Rational>> exact_values(const Program& program, const Basis& basis,
                                                  const ExactLimits& limits = {});

/// The lower bound that the basis' own multipliers give, evaluated exactly; nothing where it is
/// refused or not finite. Needs exact costs.
std::optional<Rational> exact_bound(const Program& program, const Basis& basis,
                                    const ExactLimits& limits = {});

/// How the columns move (length n) when a nonbasic variable (columns first, then rows) moves by 1,
/// upward or downward, and the basic ones follow.
std::optional<std::vector<Rational>> exact_direction(const Program& program, const Basis& basis,
                                                     Index variable, bool upward,
                                                     const ExactLimits& limits = {});

/// Whether x meets every bound and row, the program's doubles taken as they are.
bool fits_exactly(const Program& program, const std::vector<Rational>& x);

/// Whether row `variable` of the basis' inverse (a basic variable, columns first, then rows) proves
/// that no x fits.
bool exact_infeasible(const Program& program, const Basis& basis, Index variable,
                      const ExactLimits& limits = {});

}  // namespace kiteknot::lp
