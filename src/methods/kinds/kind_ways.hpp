#pragma once
// The own ways of special kinds, as methods.

#include "kiteknot/methods.hpp"
#include "methods/kinds/special_kinds.hpp"

namespace kiteknot::methods {

/// All of them, in the order in which they are told.
std::vector<std::unique_ptr<Method>> make_kind_ways();
/// The names of those for a kind.
std::vector<std::string> ways_of(const SpecialKind& kind);
/// The kind of a model; none where it is too large to be looked at in passing.
SpecialKind special_kind_of(const Model& model);

}  // namespace kiteknot::methods
