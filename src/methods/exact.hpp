#pragma once
// The exact search on a model: lower, search, translate back. What a Study remembers goes in and
// out.

#include "kiteknot/solve.hpp"
#include "methods/memory.hpp"

namespace kiteknot::methods {

Result search(const Model& model, const SolveOptions& options, Observer* observer, bool relaxed,
              Memory* memory = nullptr);

/// The same for a model of several goals.
Result search_in_order(const Model& model, const SolveOptions& options, Observer* observer,
                       bool relaxed, Memory* memory);

}  // namespace kiteknot::methods
