#pragma once
// Sparse LU of a simplex basis: B is m x m with nnz entries, given by columns. Pivots are chosen by
// Markowitz count among entries that are large enough in their row (threshold pivoting), searching
// the few shortest rows and columns. Replaced columns are worked into U, and the row operations
// that keep it triangular are kept in a file of row etas. Solves with few nonzeros visit only the
// entries that can become nonzero, found beforehand by a search of the graph. Sources: Markowitz
// 1957, "The elimination form of the inverse and its application to linear programming"; Suhl and
// Suhl 1990, "Computing sparse LU factorizations for large-scale linear programming bases"; Forrest
// and Tomlin 1972, "Updated triangular factors of the basis to maintain sparsity in the product
// form simplex method"; Gilbert and Peierls 1988, "Sparse partial pivoting in time proportional to
// arithmetic operations".
//
//   Every column is identified by its pivot row, so that vectors live in row space on both sides:
//   after factor(), column c of B pivots in row pivot_row()[c].
//   B = L R_1 ... R_k U.   order_: pivot rows in pivot order, -1 where one has moved to the end.
//   U: for each pivot row p, diag[p]; line p of u_rows_: its entries towards later pivots; line p
//   of
//      u_columns_: the entries of its column in earlier rows.
//   L: line k of l_columns_: the multipliers below pivot row l_row_[k]; line p of l_rows_: what the
//      transposed solve adds to earlier pivots.
//
// factor() costs about the fill; solves cost the entries met, or O(m) on top where vectors are not
// sparse. One object serves one thread.

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

  /// Borders B by rows whose own column is a logical: row m + k gets the entries of lines[k]
  /// (indexed by pivot row, among the first m) and -1 in its own new column. The factor grows with
  /// it: O(m + entries), no elimination.
  void add_rows(std::span<const ColumnView> lines);

  /// Solves B x = b in place: b by rows, x by pivot rows. With `entering`, what replace() needs is
  /// kept.
  void ftran(WorkVector& x, double drop, bool entering = false);
  /// Solves B' y = c in place: c by pivot rows, y by rows.
  void btran(WorkVector& y, double drop);

  /// B's column that pivots in row r becomes the one of the last ftran with `entering`, whose
  /// result had `pivot` in r. False where the new diagonal is too small or disagrees with the
  /// pivot: factorise anew.
  [[nodiscard]] bool replace(Index r, double pivot);
  [[nodiscard]] int num_updates() const noexcept { return num_updates_; }
  /// Entries in L, U and the row etas.
  [[nodiscard]] Offset num_entries() const noexcept;
  [[nodiscard]] Offset num_factor_entries() const noexcept { return factor_entries_; }

 private:
  struct Eta {
    Index row = 0;
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
    [[nodiscard]] std::span<const Index> line(Index k) const {
      const auto b = start[static_cast<std::size_t>(k)], e = start[static_cast<std::size_t>(k) + 1];
      return {index.data() + b, static_cast<std::size_t>(e - b)};
    }
  };
  friend class Elimination;
  friend class Singletons;

  enum Kind { kFtran, kBtran };
  [[nodiscard]] bool sparse(const WorkVector& v, Kind kind) const;
  void learn_density(const WorkVector& v, Kind kind);
  void ftran_sparse(WorkVector& x, double drop, bool entering);
  void ftran_dense(WorkVector& x, double drop, bool entering);
  void btran_sparse(WorkVector& y, double drop);
  void btran_dense(WorkVector& y, double drop);
  /// All places that the starts lead to, every one before those it leads to; marks stay until
  /// forget().
  template <class Next>
  void reach(std::span<const Index> starts, const Next& next, std::vector<Index>& order);
  /// places_ := the rows of U that the starts lead to, in pivot order; no marks stay.
  void reach_rows(std::span<const Index> starts);
  void forget(std::span<const Index> places);
  void keep_spike(std::span<const double> x, std::span<const Index> places);

  Index m_ = 0;
  std::vector<Index> order_, position_;  // position_: of each pivot row in order_
  std::vector<Index> pivot_order_;       // order_ as factorised
  std::vector<Index> pivot_row_;         // of each column
  std::vector<double> diag_;             // by pivot row
  std::vector<Index> l_row_, l_line_;  // pivot row of each line of l_columns_, and back (-1: none)
  Fixed l_columns_, l_rows_;
  Fixed built_rows_;  // U as eliminated: line k belongs to order_[k]
  Lines u_rows_, u_columns_;
  std::vector<Eta> etas_;
  std::vector<Index> eta_index_;
  std::vector<double> eta_value_;
  std::vector<Index> spike_index_;  // of the last entering column, before U
  std::vector<double> spike_value_;
  std::vector<double> work_;  // m zeros between calls
  std::vector<char> mark_;    // m zeros between calls
  std::vector<Index> places_, more_places_, starts_;
  struct Frame {
    Index place, next;
  };
  std::vector<Frame> stack_;
  double expected_[2] = {0.0, 0.0};  // density of recent results, by kind
  int num_updates_ = 0;
  Offset factor_entries_ = 0;
};

}  // namespace kiteknot::linalg
