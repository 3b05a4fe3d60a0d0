#pragma once

#include <vector>

#include "mip/problem/rows.hpp"

namespace kiteknot::mip {

struct RowLimits {
  Index row = 0;
  double lower = 0.0, upper = 0.0;
};
/// In which limits a problem differs from the one it is told against; each row at most once.
using LimitChanges = std::vector<RowLimits>;

}  // namespace kiteknot::mip
