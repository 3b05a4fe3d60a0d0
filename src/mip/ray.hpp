#pragma once
// Directions without an end, confirmed exactly.

#include "mip/problem.hpp"

namespace kiteknot::mip {

/// Whether some scaling of the direction (length n), its entries replaced by near fractions with
/// small denominators, keeps every bound, row and ordered set of the problem for any length of step
/// and lowers the goal: then a problem with one plan has no best one (rational data: Meyer 1974).
/// False where that cannot be confirmed, also where rows may still be generated.
bool exact_ray(const Problem& problem, std::span<const double> direction);

}  // namespace kiteknot::mip
