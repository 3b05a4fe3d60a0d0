#pragma once
// A linear program as data:   minimise c'x   where   L <= A x <= U,   l <= x <= u
// A is m x n, nnz entries, kept by rows and by columns so that either can be walked; both grow and
// shrink in place. Infinite limits are IEEE infinities. Bad numbers (NaN, infinite coefficients,
// lower above upper) are refused at the door with UsageError.

#include <unordered_map>
#include <vector>

#include "base/at.hpp"
#include "kiteknot/rational.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::lp {

using linalg::Index;
using linalg::Lines;
using linalg::Offset;

struct Entry {
  Index index = 0;  ///< a column (in a row) or a row (in a column)
  double value = 0.0;
};

/// What a row's or column's doubles stand for, where no double can say it. The limits count as long
/// as the present ones are these doubles; `values` go with the row's entries, empty where these are
/// exact.
struct Exact {
  double low_as = 0.0, high_as = 0.0;
  Rational low, high;
  std::vector<Rational> values{};
  /// Of an entry that the row holds as a double; without values those are exact.
  [[nodiscard]] Rational entry(std::size_t k, double as) const {
    return values.empty() ? Rational::exactly(as) : values[k];
  }
};

class Program {
 public:
  [[nodiscard]] Index num_columns() const noexcept { return columns_.num_lines(); }
  [[nodiscard]] Index num_rows() const noexcept { return rows_.num_lines(); }
  [[nodiscard]] Offset num_nonzeros() const noexcept { return rows_.num_nonzeros(); }
  [[nodiscard]] const Lines& columns() const noexcept { return columns_; }
  [[nodiscard]] const Lines& rows() const noexcept { return rows_; }
  [[nodiscard]] double cost(Index j) const { return cost_[at(j)]; }
  [[nodiscard]] std::span<const double> costs() const noexcept { return cost_; }
  [[nodiscard]] std::span<const double> lower() const noexcept { return lower_; }
  [[nodiscard]] std::span<const double> upper() const noexcept { return upper_; }
  [[nodiscard]] double lower(Index j) const { return lower_[at(j)]; }
  [[nodiscard]] double upper(Index j) const { return upper_[at(j)]; }
  [[nodiscard]] std::span<const double> row_lower() const noexcept { return row_lower_; }
  [[nodiscard]] std::span<const double> row_upper() const noexcept { return row_upper_; }
  [[nodiscard]] double row_lower(Index i) const { return row_lower_[at(i)]; }
  [[nodiscard]] double row_upper(Index i) const { return row_upper_[at(i)]; }
  /// Whether the row's coefficients are the model's own numbers, or only within half a unit in the
  /// last place of them. Its limits are the caller's to round outward.
  [[nodiscard]] bool row_exact(Index i) const { return row_exact_[at(i)] != 0; }
  [[nodiscard]] bool cost_exact() const noexcept { return cost_exact_; }

  // The model's own numbers: doubles where they are exact, else what was said of them.
  void set_exact_row(Index i, Exact row);
  void set_exact_bounds(Index j, Exact bounds);
  void set_exact_costs(std::vector<Rational> costs);
  [[nodiscard]] bool row_known(Index i) const;
  [[nodiscard]] bool cost_known() const noexcept { return cost_exact_ || !exact_cost_.empty(); }
  [[nodiscard]] Rational exact_lower(Index j) const;
  [[nodiscard]] Rational exact_upper(Index j) const;
  [[nodiscard]] Rational exact_row_lower(Index i) const;
  [[nodiscard]] Rational exact_row_upper(Index i) const;
  [[nodiscard]] Rational exact_cost(Index j) const;
  /// Of the k-th entry of a row.
  [[nodiscard]] Rational exact_value(Index i, std::size_t k) const;

  /// Entries name rows; O(entries).
  Index add_column(double cost, double lower, double upper, const std::vector<Entry>& entries = {});
  /// Entries name columns, each at most once; O(entries).
  Index add_row(double lower, double upper, const std::vector<Entry>& entries, bool exact = false);
  /// Another row in the place of one. O(entries of the columns of both).
  void set_row(Index i, double lower, double upper, const std::vector<Entry>& entries, bool exact);
  void set_cost(Index j, double cost);
  void set_cost_exact(bool exact) noexcept { cost_exact_ = exact; }
  void set_bounds(Index j, double lower, double upper);
  void set_row_limits(Index i, double lower, double upper);
  /// Rows (columns) whose mark is nonzero go away, the others move up in order. O(nnz).
  void remove_rows(const std::vector<char>& gone);
  void remove_columns(const std::vector<char>& gone);

 private:
  Lines rows_, columns_;
  std::vector<double> cost_, lower_, upper_, row_lower_, row_upper_;
  std::vector<char> row_exact_;
  std::unordered_map<Index, Exact> exact_row_, exact_bounds_;
  std::vector<Rational> exact_cost_;
  bool cost_exact_ = true;
};

}  // namespace kiteknot::lp
