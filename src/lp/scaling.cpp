#include "lp/scaling.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>

namespace kiteknot::lp {

using linalg::Index;

namespace {

// ilogb of a normal number, without the call; numbers below those count as the least of them.
double exponent_of(double v) {
  constexpr int kBias = 1023, kMantissa = 52, kMask = 0x7ff;
  return static_cast<double>(
      static_cast<int>(std::bit_cast<std::uint64_t>(v) >> kMantissa & kMask) - kBias);
}

}  // namespace

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
  std::vector<int> count(n, 0);
  // Sizes of all entries, row by row, taken out of the doubles once.
  std::vector<double> size;
  size.reserve(static_cast<std::size_t>(rows.num_nonzeros()));
  for (Index i = 0; i < rows.num_lines(); ++i)
    for (std::size_t e = 0; e < rows.index(i).size(); ++e) {
      size.push_back(exponent_of(rows.value(i)[e]));
      if (rows.value(i)[e] != 0.0) ++count[static_cast<std::size_t>(rows.index(i)[e])];
    }
  for (int sweep = 0; sweep < kSweeps; ++sweep) {
    std::fill(sum.begin(), sum.end(), 0.0);
    const double* own = size.data();
    for (Index i = 0; i < rows.num_lines(); ++i) {
      const auto index = rows.index(i);
      const auto value = rows.value(i);
      double mean = 0.0;
      int entries = 0;
      for (std::size_t e = 0; e < index.size(); ++e)
        if (value[e] != 0.0)
          mean += own[e] + exponent[static_cast<std::size_t>(index[e])], ++entries;
      if (entries > 0) mean /= entries;
      for (std::size_t e = 0; e < index.size(); ++e)
        if (value[e] != 0.0)
          sum[static_cast<std::size_t>(index[e])] +=
              own[e] + exponent[static_cast<std::size_t>(index[e])] - mean;
      own += index.size();
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
