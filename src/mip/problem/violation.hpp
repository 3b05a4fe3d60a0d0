#pragma once

#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// How far a row's value lies outside its limits beyond the engine's tolerance; 0 where it is met.
inline double row_violation(const RowView& row, std::span<const double> point) {
  double value = 0.0, size = 1.0;
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    const double term = row.value[k] * point[at(row.index[k])];
    value += term;
    size += std::abs(term);
  }
  const double outside = std::max({row.lower - value, value - row.upper, 0.0});
  return outside > Tolerances{}.integrality * size ? outside : 0.0;
}

}  // namespace kiteknot::mip
