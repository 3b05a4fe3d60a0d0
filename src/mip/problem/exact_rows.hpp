#pragma once
// Rows in fractions, whatever kind they belong to.

#include <span>

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

[[nodiscard]] bool within(const Rational& value, double lower, double upper);

/// Whether whole columns have a whole value each.
[[nodiscard]] bool is_whole(const Problem& problem, std::span<const Rational> point);

/// Whether the point meets the row, coefficients taken by their binary value. O(entries).
[[nodiscard]] bool row_holds(const RowView& row, std::span<const Rational> point);

/// Whether the row's value stays within its limits however far one goes this way. `known`: the
/// model's own numbers, where doubles are not; null: they are.
[[nodiscard]] bool row_recedes(const RowView& row, const lp::Exact* known,
                               std::span<const Rational> direction);

/// The limits of a row or column in the model's own numbers: a double may be infinite for want of
/// room.
[[nodiscard]] std::pair<Rational, Rational> exact_limits(const lp::Exact* known, double lower,
                                                         double upper);

/// Counts where the row may break. One whose own numbers doubles do not say may break either way:
/// an entry may be 0, or a limit infinite, for want of room.
void lock_row(const RowView& row, const lp::Exact* known, Locks& locks);

/// The row over the columns of an image; all of them are there.
[[nodiscard]] LinearRow carried(const RowView& row, const lp::Exact* known,
                                std::span<const Index> columns);

}  // namespace kiteknot::mip
