#pragma once
// Whether two problems are the same, so that what was proven of one holds for the other: every
// number that either states goes into one mark. Accidents only: nobody is kept from forging one.

#include <optional>

#include "base/mark.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// Of bounds, costs, rows and all other kinds; nothing where some kind cannot say all that it asks
/// (ConstraintKind::mark). O(nonzeros).
[[nodiscard]] std::optional<std::uint64_t> mark_of(const Problem& problem);

/// `known`: the model's own numbers of the row; null: the doubles are.
void add_row(Mark& mark, const RowView& row, const lp::Exact* known);

}  // namespace kiteknot::mip
