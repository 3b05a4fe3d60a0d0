#pragma once
// A plan for the exact search to begin with, where a problem is of a kind whose own way finds good
// ones at once.

#include <optional>
#include <string>
#include <vector>

#include "base/work.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::methods {

struct KindPlan {
  std::vector<Rational> columns;
  std::string by;      ///< "prices on needs"
  double bound = 0.0;  ///< no plan costs less than this, exactly; -infinity: not known
};
/// Nothing for problems of no such kind, small ones, and where the way found none. Its
/// work is a part of what the root relaxation costs.
std::optional<KindPlan> plan_of_kind(const mip::Problem& problem, std::uint64_t seed,
                                     const Interrupt& interrupt);

}  // namespace kiteknot::methods
