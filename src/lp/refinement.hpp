#pragma once
// From a basis that is optimal within tolerances to one that is optimal in exact arithmetic: the
// exact vertex and reduced costs of the basis at hand are taken out of the program, what is left is
// scaled up so that its errors are of size 1, and solved again from the same basis. Source:
// Gleixner, Steffy and Wolter 2016, "Iterative refinement for linear programming".

#include <optional>

#include "lp/exact_basis.hpp"

namespace kiteknot::lp {

/// The basis; nothing where no round ends at one that is primal and dual feasible exactly.
std::optional<Basis> refined(const Simplex& simplex, const ExactLimits& limits = {});

}  // namespace kiteknot::lp
