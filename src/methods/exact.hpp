#pragma once
// The exact search on a model: lower, search, translate back. What a Study remembers goes in and
// out.

#include "kiteknot/solve.hpp"
#include "methods/memory.hpp"

namespace kiteknot::methods {

/// `relaxed`: over linear rows alone, as a search meets them first: what holds under a condition
/// that is open, and what generates rows, asks nothing.
Result search(const Model& model, const SolveOptions& options, Observer* observer, bool relaxed,
              Memory* memory = nullptr);

/// The same for a model of several goals.
Result search_in_order(const Model& model, const SolveOptions& options, Observer* observer,
                       bool relaxed, Memory* memory);

}  // namespace kiteknot::methods
