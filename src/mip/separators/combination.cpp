#include "mip/separators/combination.hpp"

#include <cmath>

namespace kiteknot::mip {
namespace {

// The least whole d up to `most` for which d v is nearly whole, by the convergents of v's continued
// fraction; 0: there is none. Hardy and Wright 1938, "An introduction to the theory of numbers",
// chapter X.
double denominator(double v, double most) {
  constexpr double kNear = 1e-9;
  double before = 0.0, d = 1.0, rest = v - std::floor(v);
  while (d <= most) {
    const double scaled = d * v;
    if (std::abs(scaled - std::round(scaled)) <= kNear * std::max(1.0, std::abs(scaled))) return d;
    if (rest < kNear) return 0.0;
    const double next = 1.0 / rest, whole = std::floor(next);
    rest = next - whole;
    const double after = whole * d + before;
    before = d;
    d = after;
  }
  return 0.0;
}

}  // namespace

double RowCombination::make_whole(const SumVariables& variables) {
  constexpr double kMostFactor = 1e6, kMostMultiplier = 1e8;
  double factor = 1.0, largest = 0.0;
  whole_.clear();
  for (const Index i : rows_.list()) {
    if (rows_[i] == 0.0) continue;
    whole_.emplace_back(i, rows_[i] * variables.row_scale(i));
    largest = std::max(largest, std::abs(whole_.back().second));
  }
  for (const auto& [unused, y] : whole_) {
    const double d = denominator(y * factor, kMostFactor / factor);
    factor *= d;
    if (d == 0.0 || factor * largest > kMostMultiplier) return 1.0;
  }
  clear();
  for (const auto& [i, y] : whole_) {
    const double by = std::round(y * factor) / variables.row_scale(i);
    if (by != 0.0) add(variables.program(), i, by);
  }
  return factor;
}

}  // namespace kiteknot::mip
