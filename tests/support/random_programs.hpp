#pragma once
// Small random linear and integer programs, all figures whole, and what is true about them by brute
// force.

#include <cmath>
#include <optional>
#include <vector>

#include "base/infinity.hpp"
#include "base/random.hpp"
#include "kiteknot/rational.hpp"
#include "lp/program.hpp"

namespace kiteknot::test {

struct ProgramShape {
  int columns = 4, rows = 4;
  double density = 0.6, infinite = 0.3, equal = 0.25;
};

inline lp::Program draw_program(Random& random, const ProgramShape& shape) {
  lp::Program p;
  const int n = static_cast<int>(random.between(1, shape.columns)),
            m = static_cast<int>(random.between(0, shape.rows));
  for (int j = 0; j < n; ++j) {
    const double low =
        random.chance(shape.infinite / 2) ? -kInf : static_cast<double>(random.between(-4, 3));
    const double base = std::isinf(low) ? static_cast<double>(random.between(-3, 3)) : low;
    const double high =
        random.chance(shape.infinite) ? kInf : base + static_cast<double>(random.between(0, 6));
    p.add_column(static_cast<double>(random.between(-6, 6)), low, high);
  }
  for (int i = 0; i < m; ++i) {
    std::vector<lp::Entry> entries;
    for (int j = 0; j < n; ++j)
      if (random.chance(shape.density))
        entries.push_back({j, static_cast<double>(random.between(-5, 5))});
    const double a = static_cast<double>(random.between(-9, 6));
    const double b = random.chance(shape.equal) ? a : a + static_cast<double>(random.between(0, 9));
    const auto side = random.between(0, 4);
    p.add_row(side == 0 ? -kInf : a, side == 1 ? kInf : b, entries, true);
  }
  return p;
}

}  // namespace kiteknot::test
