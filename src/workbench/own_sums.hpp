#pragma once
// A rule that a person adds to a tableau: whether whole plans get lost by it.

#include "kiteknot/workbench.hpp"

namespace kiteknot::workbench {

/// Looks for the whole plan that breaks the sum most, within the branches of the copy at hand, by
/// the exact search; fills `whole` and `lost`.
void look_for_lost_plans(const BenchState& state, deeds::Added& added);

}  // namespace kiteknot::workbench
