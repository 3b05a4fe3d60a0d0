#pragma once
#include <limits>

namespace kiteknot {

/// An end that a bound does not have; also "none found yet" where a least value is looked for.
inline constexpr double kInf = std::numeric_limits<double>::infinity();

}  // namespace kiteknot
