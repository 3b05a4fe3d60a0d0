#pragma once
// Better plans near a known one.

#include <optional>
#include <vector>

#include "base/work.hpp"
#include "mip/heuristics/point_receiver.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// Repairs and improves a point of whole columns by moves of one column by one step, or of two at
/// once, while the goal falls (2-exchange; Croes 1958, "A method for solving traveling-salesman
/// problems", for the idea of pairs). A point that breaks rows is first brought back by the single
/// moves that lose least of the goal for what they mend. Empty where nothing feasible comes out, or
/// the problem has more than linear rows over whole columns. Stops after `most_work` entries
/// touched; O(nonzeros) besides.
std::optional<std::vector<double>> exchange(const Problem& problem, std::vector<double> point,
                                            std::int64_t most_work, WorkCounter& work);

/// Offers the points around a relaxed one: all columns rounded but a few with the smallest reduced
/// costs, which take every combination of their two nearest values (the core of Balas and Zemel
/// 1980, "An algorithm for large zero-one knapsack problems"; in the order of a Gray code, so that
/// one column moves at a time). Nothing where the problem has more than linear rows over whole
/// columns.
void best_in_core(const Problem& problem, std::span<const double> point,
                  std::span<const double> reduced_costs, PointReceiver& receiver,
                  WorkCounter& work);

}  // namespace kiteknot::mip
