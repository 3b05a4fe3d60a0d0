#pragma once
// Directions without an end, confirmed exactly.

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// A scaling of the direction (length n), its entries replaced by near fractions with small
/// denominators, that keeps every bound, row and ordered set of the problem for any length of step
/// and lowers the goal: then a problem with one plan has no best one (rational data: Meyer 1974).
/// Empty where that cannot be confirmed, also where rows may still be generated.
std::optional<std::vector<Rational>> exact_ray(const Problem& problem,
                                               std::span<const double> direction);

/// Whether the direction is such a one as it is.
[[nodiscard]] bool is_ray(const Problem& problem, std::span<const Rational> direction);

}  // namespace kiteknot::mip
