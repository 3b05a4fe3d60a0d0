#pragma once
// What local search alone finds of a nonlinear model: from the relaxed point, and from many.

#include <memory>

#include "kiteknot/methods.hpp"

namespace kiteknot::methods {

/// From the relaxed point; whole decisions are rounded at its local optimum and the others looked
/// for again.
std::unique_ptr<Method> make_local();
/// The same from points drawn in the box, and how often which local optimum was met.
std::unique_ptr<Method> make_local_from_many();

}  // namespace kiteknot::methods
