#include "lp/scaling.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::lp {

using linalg::Index;

double row_scale(std::span<const double> value) {
  double largest = 0.0;
  for (const double v : value) largest = std::max(largest, std::abs(v));
  return largest > 0.0 ? std::ldexp(1.0, -std::ilogb(largest)) : 1.0;
}

std::vector<double> column_scales(const linalg::Lines& rows,
                                  const std::vector<char>& free_to_scale) {
  const std::size_t n = free_to_scale.size();
  std::vector<double> scale(n, 1.0);
  if (std::none_of(free_to_scale.begin(), free_to_scale.end(), [](char c) { return c != 0; }))
    return scale;
  constexpr int kSweeps = 4;
  constexpr double kMostExponent = 60.0;
  std::vector<double> exponent(n, 0.0), sum(n);
  std::vector<int> count(n);
  for (int sweep = 0; sweep < kSweeps; ++sweep) {
    std::fill(sum.begin(), sum.end(), 0.0);
    std::fill(count.begin(), count.end(), 0);
    for (Index i = 0; i < rows.num_lines(); ++i) {
      const auto index = rows.index(i);
      const auto value = rows.value(i);
      const auto size = [&](std::size_t e) {
        return static_cast<double>(std::ilogb(value[e])) +
               exponent[static_cast<std::size_t>(index[e])];
      };
      double mean = 0.0;
      int entries = 0;
      for (std::size_t e = 0; e < index.size(); ++e)
        if (value[e] != 0.0) mean += size(e), ++entries;
      if (entries > 0) mean /= entries;
      for (std::size_t e = 0; e < index.size(); ++e) {
        if (value[e] == 0.0) continue;
        sum[static_cast<std::size_t>(index[e])] += size(e) - mean;
        ++count[static_cast<std::size_t>(index[e])];
      }
    }
    for (std::size_t j = 0; j < n; ++j)
      if (free_to_scale[j] && count[j] > 0)
        exponent[j] =
            std::clamp(std::round(exponent[j] - sum[j] / count[j]), -kMostExponent, kMostExponent);
  }
  constexpr double kSmallExponent = 3.0;
  for (std::size_t j = 0; j < n; ++j)
    if (std::abs(exponent[j]) > kSmallExponent)
      scale[j] = std::ldexp(1.0, static_cast<int>(exponent[j]));
  return scale;
}

}  // namespace kiteknot::lp
