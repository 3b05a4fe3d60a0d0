#pragma once
// A problem that is one knapsack: whole columns between bounds, one row, nothing else. It is solved
// by a dynamic program over a core that grows from the break item outward (Pisinger 1997, "A
// minimal algorithm for the 0-1 knapsack problem"), in 64-bit integers.

#include <optional>
#include <vector>

#include "base/work.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// The best point, proven; nothing where the problem is not exactly a knapsack (equations and rows
/// with two limits that both count are not), has no plan, or would take more than `most_states`
/// kept states (12 bytes each), or where the user's limits end it.
std::optional<std::vector<double>> solve_knapsack(const Problem& problem, std::int64_t most_states,
                                                  WorkCounter& work);

}  // namespace kiteknot::mip
