#pragma once
// What cuts are made of: the relaxation's rows with multipliers. With r_i the value of row i,
//   sum_i y_i (a_i x - r_i) = 0
// holds at every point, whatever the multipliers are, so they need not be exact.

#include "base/check.hpp"
#include "linalg/work_vector.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

/// The variables of such sums, as the simplex object has them: columns first, then rows' values.
class SumVariables {
 public:
  explicit SumVariables(const Relaxation& relaxation)
      : relaxation_(relaxation),
        program_(relaxation.simplex().program()),
        columns_(program_.num_columns()) {
    KITEKNOT_ASSERT(relaxation.simplex().row_values().size() == at(program_.num_rows()),
                    "rows are summed after a solve that has all of them");
  }
  [[nodiscard]] const lp::Program& program() const noexcept { return program_; }
  [[nodiscard]] Index num_columns() const noexcept { return columns_; }
  [[nodiscard]] Index num() const noexcept { return columns_ + program_.num_rows(); }
  [[nodiscard]] double lower(Index k) const {
    return k < columns_ ? program_.lower(k) : program_.row_lower(k - columns_);
  }
  [[nodiscard]] double upper(Index k) const {
    return k < columns_ ? program_.upper(k) : program_.row_upper(k - columns_);
  }
  /// After the last solve.
  [[nodiscard]] double value(Index k) const {
    return k < columns_ ? relaxation_.simplex().column_values()[at(k)]
                        : relaxation_.simplex().row_values()[at(k - columns_)];
  }
  /// A power of two whose multiples the variable takes; 0: any value.
  [[nodiscard]] double step(Index k) const {
    return k < columns_ ? (relaxation_.whole(k) ? 1.0 : 0.0) : relaxation_.row_step(k - columns_);
  }
  [[nodiscard]] double unit(Index column) const { return relaxation_.unit(column); }
  [[nodiscard]] double row_scale(Index row) const { return relaxation_.row_scale(row); }

 private:
  const Relaxation& relaxation_;
  const lp::Program& program_;
  Index columns_;
};

/// The sum, in plain arithmetic; sparse.
class RowCombination {
 public:
  /// For so many columns and rows; clears.
  void reset(Index columns, Index rows) {
    if (columns_.length() != columns) columns_.reset(columns);
    if (rows_.length() != rows) rows_.reset(rows);
    clear();
  }
  void clear() {
    columns_.clear();
    rows_.clear();
  }
  /// Where one factor makes the multipliers of all rows (as they were before scaling) whole, it is
  /// applied: sums of whole data are exact then. Returns the factor. O(entries of the rows).
  double make_whole(const SumVariables& variables);
  /// O(entries of the row).
  void add(const lp::Program& program, Index row, double by) {
    rows_.add(row, by);
    const auto index = program.rows().index(row);
    const auto value = program.rows().value(row);
    for (std::size_t k = 0; k < index.size(); ++k) columns_.add(index[k], by * value[k]);
  }
  [[nodiscard]] const linalg::WorkVector& columns() const noexcept { return columns_; }
  [[nodiscard]] const linalg::WorkVector& multipliers() const noexcept { return rows_; }

 private:
  linalg::WorkVector columns_, rows_;
  std::vector<std::pair<Index, double>> whole_;
};

}  // namespace kiteknot::mip
