#pragma once
// Sparse LU of a simplex basis: B is m x m with nnz entries, given by columns. Pivots are chosen by
// Markowitz count among entries that are large enough in their row (threshold pivoting), searching
// the few shortest rows and columns. Sources: Markowitz 1957, "The elimination form of the inverse
// and its application to linear programming"; Suhl and Suhl 1990, "Computing sparse LU
// factorizations for large-scale linear programming bases". A replaced column is recorded as an eta
// column (product form: Dantzig and Orchard-Hays 1954).
//
//   Every column is identified by its pivot row, so that vectors live in row space on both sides:
//   after factor(), column c of B pivots in row pivot_row()[c].
//   U: for each pivot row p, diag[p], the rest of its row (towards later pivots), and by columns
//   too. L: for each pivot with eliminated rows, the multipliers, in pivot order; and by rows for
//   the
//      transposed solve.
//
// factor() costs about the fill; ftran/btran cost O(m + entries met). Const members may run
// concurrently on distinct vectors.

#include <vector>

#include "linalg/lines.hpp"
#include "linalg/work_vector.hpp"

namespace kiteknot::linalg {

struct ColumnView {
  std::span<const Index> index;
  std::span<const double> value;
};

struct LuOptions {
  double pivot_threshold =
      0.1;  ///< in (0, 1], relative to the row's largest; larger: stabler, denser
  double smallest_pivot = 1e-11;  ///< absolute; entries below it cannot be pivots
  int candidate_lines = 4;        ///< rows and columns searched for a better Markowitz count
};

struct [[nodiscard]] LuReport {
  std::vector<Index> columns_without_pivot;  ///< in order; empty: regular
  std::vector<Index> rows_without_pivot;     ///< as many as columns without a pivot
  [[nodiscard]] bool regular() const noexcept { return columns_without_pivot.empty(); }
};

class Lu {
 public:
  /// Factorises; where B is singular, the report names the dependent columns and the rows left
  /// over, and the factor must not be used.
  LuReport factor(std::span<const ColumnView> columns, const LuOptions& options = {});
  /// The row in which each column of the factorised matrix pivots; length m.
  [[nodiscard]] std::span<const Index> pivot_row() const noexcept { return pivot_row_; }

  /// Solves B x = b in place: b by rows, x by pivot rows.
  void ftran(WorkVector& x, double drop) const;
  /// Solves B' y = c in place: c by pivot rows, y by rows.
  void btran(WorkVector& y, double drop) const;

  /// B's column that pivots in row r becomes a new one, given as alpha = B^-1 times it; alpha[r] !=
  /// 0.
  void replace(Index r, const WorkVector& alpha);
  [[nodiscard]] int num_updates() const noexcept { return static_cast<int>(etas_.size()); }
  /// Entries in L, U and the update file.
  [[nodiscard]] Offset num_entries() const noexcept;
  [[nodiscard]] Offset num_factor_entries() const noexcept { return factor_entries_; }

 private:
  struct Eta {
    Index row = 0;
    double pivot = 0.0;
    Offset begin = 0, end = 0;
  };
  /// Lines fixed once built: start[k] .. start[k + 1].
  struct Fixed {
    std::vector<Offset> start;
    std::vector<Index> index;
    std::vector<double> value;
    void clear();
    void close() { start.push_back(static_cast<Offset>(index.size())); }
    void push(Index i, double v);
    /// The transpose: `line_id[k]` names line k; result has `count` lines.
    [[nodiscard]] Fixed transposed(std::span<const Index> line_id, Index count) const;
  };
  friend class Elimination;

  Index m_ = 0;
  std::vector<Index> order_;      // pivot rows in pivot order
  std::vector<Index> pivot_row_;  // of each column
  std::vector<double> diag_;      // by pivot row
  std::vector<Index> l_row_;      // pivot row of each line of l_columns_
  Fixed l_columns_, l_rows_;      // l_rows_: line p holds what btran adds to earlier pivots
  Fixed u_rows_, u_columns_;      // u_rows_: line k belongs to order_[k]; u_columns_: line p
  std::vector<Eta> etas_;
  std::vector<Index> eta_index_;
  std::vector<double> eta_value_;
  Offset factor_entries_ = 0;
};

}  // namespace kiteknot::linalg
