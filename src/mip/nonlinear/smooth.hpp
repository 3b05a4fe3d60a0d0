#pragma once
// Constraints that have derivatives, as local search sees them: low <= g(x) <= high, each over a
// few columns. Values are near; nothing is proven from them.

#include <span>

#include "base/interval.hpp"
#include "mip/problem/rows.hpp"

namespace kiteknot::mip {

class SmoothRows {
 public:
  /// Over how many columns one constraint may go.
  static constexpr std::size_t kMostColumns = 3;
  virtual ~SmoothRows() = default;
  [[nodiscard]] virtual Index size() const = 0;
  [[nodiscard]] virtual std::span<const Index> columns(Index k) const = 0;
  [[nodiscard]] virtual Interval limits(Index k) const = 0;
  /// The gradient by the constraint's columns, in their order.
  virtual double value(Index k, std::span<const double> point,
                       std::span<double> gradient) const = 0;
  /// Adds scale times the second derivatives, a square by the constraint's columns.
  virtual void curvature(Index k, std::span<const double> point, double scale,
                         std::span<double> square) const = 0;
  /// What the constraint alone leaves of its first column, by the bounds of all columns.
  virtual Interval leaves(Index k, std::span<const double> lower,
                          std::span<const double> upper) const = 0;
  /// Sets the columns that follow from others, in an order in which all are known.
  virtual void fill_in(std::span<double> point) const = 0;
};

}  // namespace kiteknot::mip
