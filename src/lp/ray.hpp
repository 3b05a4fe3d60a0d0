#pragma once
// Directions without an end, confirmed exactly.

#include <span>
#include <vector>

#include "kiteknot/rational.hpp"
#include "lp/program.hpp"

namespace kiteknot::lp {

/// The fraction nearest to x among those with denominators up to `most` (continued fractions).
Rational near_fraction(double x, std::int64_t most);

/// The direction scaled in a few ways, its entries replaced by near fractions with small
/// denominators: candidates for an exact look.
std::vector<std::vector<Rational>> as_fractions(std::span<const double> direction);

/// Whether a value that changes at this rate stays within the limits for ever.
bool recedes(const Rational& rate, const Rational& lower, const Rational& upper);

/// Whether x + t d stays within every bound and row for all t >= 0, from any x that does, and the
/// goal falls. The program's doubles count as they are.
bool recedes(const Program& program, const std::vector<Rational>& d);

/// Whether one of as_fractions(direction) does: the program has no optimum, or no plan. O(nnz)
/// rational operations.
bool proves_unbounded(const Program& program, std::span<const double> direction);

}  // namespace kiteknot::lp
