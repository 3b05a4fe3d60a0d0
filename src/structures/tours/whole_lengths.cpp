#include "structures/tours/whole_lengths.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::structures::tours {
namespace {

constexpr double kFinest = 1e6;
constexpr double kMost = 4503599627370496.0;  // 2^52, of a tour

// The fewest decimals, up to six, that say all lengths.
double units_of(const Distances& d, bool& rounded) {
  double units = 1.0;
  for (Index i = 0; i < d.size(); ++i)
    for (Index j = 0; j < d.size(); ++j) {
      if (i == j || !std::isfinite(d(i, j))) continue;
      const double v = d(i, j);
      while (units < kFinest && std::round(v * units) / units != v) units *= 10.0;
      if (units == kFinest && std::round(v * units) / units != v) {
        rounded = true;
        return units;
      }
    }
  return units;
}

}  // namespace

WholeLengths::WholeLengths(const Distances& distances) : distances_(distances) {
  const Index n = size();
  if (distances.has_places())
    units_ = distances.in_millionths() ? kFinest : 1.0;
  else
    units_ = units_of(distances, rounded_);
  double longest = 0.0;
  if (distances.has_places()) {  // twice the way to any one stop is no less than any leg
    for (Index i = 1; i < n; ++i) longest = std::max(longest, 2.0 * distances(0, i) + 4.0);
  } else {
    for (Index i = 0; i < n; ++i)
      for (Index j = 0; j < n; ++j)
        if (i != j && std::isfinite(distances(i, j)))
          longest = std::max(longest, std::abs(distances(i, j)));
  }
  longest = std::ceil(longest * units_);
  longest_ = longest < kMost ? static_cast<std::int64_t>(longest) : std::int64_t{1} << 52;
}

bool WholeLengths::fits() const noexcept {
  return static_cast<double>(longest_) * static_cast<double>(size()) < kMost;
}

std::int64_t length(const WholeLengths& lengths, const std::vector<Index>& tour) {
  std::int64_t sum = 0;
  for (std::size_t k = 0; k < tour.size(); ++k)
    sum += lengths(tour[k], tour[k + 1 == tour.size() ? 0 : k + 1]);
  return sum;
}

}  // namespace kiteknot::structures::tours
