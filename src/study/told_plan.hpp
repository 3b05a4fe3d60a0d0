#pragma once
// The plan that a solve tells, as an answer of the first goal alone: what is asked around a plan is
// asked around this one.

#include "kiteknot/study.hpp"

namespace kiteknot {

/// `first` becomes the model with its first goal only; where that goal yields to later ones, these
/// are kept as good as they are told. Throws UsageError where the told plan is even so not the
/// best for the first goal.
Result told_plan(Study& study, const Model& model, Model& first, const SolveOptions& options);

}  // namespace kiteknot
