#pragma once
// Branch and bound by hand: which copies are open, and what closes one.

#include "kiteknot/workbench.hpp"

namespace kiteknot::workbench {

/// Closed itself, or below a copy that is.
bool is_done(const BenchState& state, std::int32_t number);
/// The other side of a copy's condition: whether it was opened too.
bool has_other_side(const BenchState& state, const BranchCopy& copy);
/// Marks copies that are divided into others in whole.
void mark_divided(BenchState& state);
/// No plan with this bound is better than the best one; bounds count in the goal's steps.
bool cannot_beat(const BenchState& state, const Rational& bound);
/// Closes a copy with the reason that there is; false where there is none.
bool close(BenchState& state, std::int32_t number);

}  // namespace kiteknot::workbench
