#pragma once
// Exact plans and goals as doubles.

#include <span>
#include <vector>

#include "kiteknot/rational.hpp"

namespace kiteknot::mip {

/// A double at least as large as an exact goal: a bound that reaches it has reached the goal.
double rounded_up(const Rational& goal);
/// One at most as large.
double rounded_down(const Rational& goal);

/// The nearest doubles.
std::vector<double> in_doubles(std::span<const Rational> plan);

}  // namespace kiteknot::mip
