#pragma once
// The walks as methods.

#include "kiteknot/methods.hpp"

namespace kiteknot::methods {

/// In the order in which they are told.
std::vector<std::unique_ptr<Method>> make_walks();

}  // namespace kiteknot::methods
