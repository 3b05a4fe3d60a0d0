#pragma once
// Better plans near a known one.

#include <optional>
#include <vector>

#include "base/work.hpp"
#include "mip/problem.hpp"

namespace kiteknot::mip {

/// Repairs and improves a point of whole columns by moves of one column by one step, or of two at
/// once, while the goal falls (2-exchange; Croes 1958, "A method for solving traveling-salesman
/// problems", for the idea of pairs). A point that breaks rows is first brought back by the single
/// moves that lose least of the goal for what they mend. Empty where nothing feasible comes out, or
/// the problem has more than linear rows over whole columns. Stops after `most_work` entries
/// touched; O(nonzeros) besides.
std::optional<std::vector<double>> exchange(const Problem& problem, std::vector<double> point,
                                            std::int64_t most_work, WorkCounter& work);

}  // namespace kiteknot::mip
