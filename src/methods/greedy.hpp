#pragma once
#include <memory>

#include "kiteknot/methods.hpp"

namespace kiteknot {
std::unique_ptr<Method> make_greedy();
}  // namespace kiteknot
