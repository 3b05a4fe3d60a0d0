#pragma once

#include "kiteknot/explain.hpp"

namespace kiteknot {

/// Throws UsageError with the nearest name where the options name a rule that is not there, or a
/// weight that is none.
void check_rule_names(const Model& model, const LooseningOptions& options);

}  // namespace kiteknot
