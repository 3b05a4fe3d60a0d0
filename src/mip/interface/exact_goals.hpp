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

/// The least multiple of the step that is no less; step 0: the goal itself. Goals of steps that are
/// less than it are less than the other, too.
Rational to_step(const Rational& goal, double step);

/// The nearest doubles.
std::vector<double> in_doubles(std::span<const Rational> plan);

}  // namespace kiteknot::mip
