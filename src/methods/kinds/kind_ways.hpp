#pragma once
// The own ways of special kinds, as methods.

#include "kiteknot/methods.hpp"
#include "methods/kinds/special_kind.hpp"

namespace kiteknot::methods {

/// All of them, in the order in which they are told.
std::vector<std::unique_ptr<Method>> make_kind_ways();
/// The kind of a model; none where it is too large to be looked at in passing.
FoundKind kind_of(const Model& model);

}  // namespace kiteknot::methods
