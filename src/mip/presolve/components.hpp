#pragma once
// Parts of a problem that no row ties to each other: each has its own best plan, and together they
// are one of the whole.

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// The columns of each part, the smallest part first. Columns that stand in no row are left out.
/// O(nonzeros).
std::vector<std::vector<Index>> components(const Problem& problem);

/// The problem over these columns, in this order, which are one of its components.
Problem part_of(const Problem& problem, std::span<const Index> columns);

}  // namespace kiteknot::mip
