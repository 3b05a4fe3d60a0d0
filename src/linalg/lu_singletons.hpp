#pragma once
// The part of an elimination that needs no arithmetic: pivots that are alone in their column (their
// row goes to U as it is) or in their row (their column goes to L, divided). Most simplex bases are
// eaten up by them almost whole (Orchard-Hays 1968, chapter 5); what is left is the kernel, which
// lu_factor.cpp eliminates.

#include <vector>

#include "base/at.hpp"
#include "linalg/lu.hpp"

namespace kiteknot::linalg {

class Singletons {
 public:
  Singletons(std::span<const ColumnView> columns, double smallest_pivot);
  /// Takes singletons into the factor until none is left. O(nnz).
  void run(Lu& lu);

  [[nodiscard]] bool row_left(Index i) const { return row_count_[at(i)] >= 0; }
  [[nodiscard]] bool column_left(Index c) const { return column_count_[at(c)] >= 0; }
  /// Calls with (column, value) for what is left of a row.
  template <class Visit>
  void visit_row(Index i, const Visit& visit) const {
    for (auto e = at(row_start_[at(i)]); e < at(row_start_[at(i) + 1]); ++e)
      if (column_left(column_[e])) visit(column_[e], value_[e]);
  }

 private:
  void take_column(Index c, Lu& lu);
  void take_row(Index i, Lu& lu);
  void pivot(Index i, Index c, double diagonal, Lu& lu);
  void leave_row(Index i, Index c);
  void leave_column(Index c, Index i);

  std::span<const ColumnView> columns_;
  double smallest_pivot_;
  std::vector<Offset> row_start_;
  std::vector<Index> column_;
  std::vector<double> value_;
  std::vector<Index> row_count_, column_count_;  // entries left; -1: has pivoted
  std::vector<Offset> row_sum_, column_sum_;     // of the numbers of those entries' lines
  std::vector<Index> single_rows_, single_columns_;
};

}  // namespace kiteknot::linalg
