#pragma once
// The last, nearly full part of an elimination as a full matrix. Row by row: the row at hand takes
// all earlier pivot rows, then pivots in its largest entry; a few rows at a time, so that each
// pivot row is read once for all of them (Golub and Van Loan 2013, "Matrix Computations", 3.2, by
// rows and in tiles).

#include <span>
#include <vector>

#include "base/at.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::linalg {

class DenseTail {
 public:
  explicit DenseTail(Index size);
  [[nodiscard]] Index size() const noexcept { return size_; }
  /// By place; a column's place changes in eliminate().
  [[nodiscard]] std::span<double> row(Index i) {
    return {a_.data() + at(i) * at(size_), at(size_)};
  }

  /// O(size^3). Entries smaller than that are no pivots. Afterwards, with r the row of pivot p, the
  /// places of row(r) hold: before p the multipliers of the earlier pivots, at p the diagonal,
  /// after p the row of U.
  void eliminate(double smallest_pivot);
  /// The rows that pivoted, in order, the p-th one in place p; all of them unless singular.
  [[nodiscard]] std::span<const Index> pivot_rows() const noexcept { return pivot_rows_; }
  /// The number that the column at a place had at first.
  [[nodiscard]] Index column_at(Index place) const { return column_[at(place)]; }

 private:
  static constexpr Index kTile = 4;
  double* row_start(Index i) { return a_.data() + at(i) * at(size_); }
  void take(Index row, Index pivot);
  void take_four(Index row, Index pivot);
  void swap_columns(Index a, Index b);

  Index size_;
  std::vector<double> a_;
  std::vector<Index> column_, pivot_rows_;
};

}  // namespace kiteknot::linalg
