#pragma once
// Solving a model to proof.

#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// Branch and bound to the proven best plan, or to the limits in `options`; every outcome is a
/// value. Throws UsageError for options that make no sense or are another model's, for a generator
/// that is used wrongly, and for a model that cannot be stated linearly; whatever an observer or a
/// generator throws comes through.
Result solve(const Model& model, const SolveOptions& options = {}, Observer* observer = nullptr);

/// The same with whole decisions allowed to be fractional. Shadow prices and reduced costs are
/// filled in.
Result solve_relaxed(const Model& model, const SolveOptions& options = {},
                     Observer* observer = nullptr);

}  // namespace kiteknot
#pragma GCC visibility pop
