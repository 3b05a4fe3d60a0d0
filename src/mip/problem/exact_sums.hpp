#pragma once
// Whether plain sums over a problem are exact. Whole figures whose sizes add up to less than 2^52
// stay exact in doubles, in whatever order they are added: whoever sums the goal or a row without
// outward rounding asks here first.

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// Whether the goal and all rows are sums of whole figures over whole columns that stay exact while
/// every column is at most reach[j] in size. Linear rows only. O(nonzeros).
[[nodiscard]] bool sums_are_exact(const Problem& problem, std::span<const double> reach);

/// ... while every column stays within its bounds.
[[nodiscard]] bool sums_are_exact(const Problem& problem);

/// Whether doubles say every number of the problem, so that its points can be judged by itself.
[[nodiscard]] bool said_by_doubles(const Problem& problem);

}  // namespace kiteknot::mip
