#pragma once
// The range of a row's value over the bounds of a model, rounded outward.

#include "base/interval.hpp"
#include "mip/presolve/presolve_model.hpp"

namespace kiteknot::mip {

struct RowRange {
  double low = 0.0, high = 0.0;  ///< the finite parts
  Index infinite_low = 0, infinite_high = 0;

  [[nodiscard]] double least() const { return infinite_low > 0 ? -kInf : low; }
  [[nodiscard]] double most() const { return infinite_high > 0 ? kInf : high; }
};

/// What an entry adds to the least and the most; infinite where a bound is.
struct Reaches {
  double low = 0.0, high = 0.0;
};

inline Reaches reaches(const Interval& a, double lower, double upper) {
  const auto least = [](const Interval& factor, double end) {
    return std::min(multiply_down(factor.low, end), multiply_down(factor.high, end));
  };
  const auto most = [](const Interval& factor, double end) {
    return std::max(multiply_up(factor.low, end), multiply_up(factor.high, end));
  };
  const double low_end = a.low >= 0.0 ? lower : upper, high_end = a.low >= 0.0 ? upper : lower;
  return {std::isfinite(low_end) ? least(a, low_end) : -kInf,
          std::isfinite(high_end) ? most(a, high_end) : kInf};
}

inline Interval factor_of(const PresolveModel::Row& row, const Entry& e) {
  return coefficient(e.value, !row.firm);
}

inline RowRange range_of(const PresolveModel& model, const PresolveModel::Row& row) {
  RowRange range;
  for (const Entry& e : row.entries) {
    const auto& c = model.column(e.index);
    const Reaches r = reaches(factor_of(row, e), c.lower, c.upper);
    if (std::isfinite(r.low))
      range.low = add_down(range.low, r.low);
    else
      ++range.infinite_low;
    if (std::isfinite(r.high))
      range.high = add_up(range.high, r.high);
    else
      ++range.infinite_high;
  }
  return range;
}

}  // namespace kiteknot::mip
