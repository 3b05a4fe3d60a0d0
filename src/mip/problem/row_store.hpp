#pragma once
// Rows by rows and by columns: the linear ones of a problem, its indicator rows, those generated
// while searching are one store each. Limits are kept apart, since they differ between variants.

#include <unordered_map>

#include "mip/problem/rows.hpp"

namespace kiteknot::mip {

class RowStore {
 public:
  void add_columns(Index count) { columns_.add_lines(count); }
  /// `whole`: the row's value moves in whole steps. Throws UsageError for a coefficient that is not
  /// finite.
  Index add(const LinearRow& row, bool whole);

  [[nodiscard]] Index num_rows() const noexcept { return rows_.num_lines(); }
  [[nodiscard]] const Lines& rows() const noexcept { return rows_; }
  [[nodiscard]] const Lines& columns() const noexcept { return columns_; }
  [[nodiscard]] bool exact(Index i) const { return exact_[at(i)] != 0; }
  [[nodiscard]] bool whole(Index i) const { return whole_[at(i)] != 0; }
  [[nodiscard]] RowView view(Index i, double lower, double upper) const {
    return {rows_.index(i), rows_.value(i), lower, upper, exact(i)};
  }
  /// The model's own numbers where no double is.
  [[nodiscard]] const lp::Exact* known(Index i) const {
    const auto it = known_.find(i);
    return it == known_.end() ? nullptr : &it->second;
  }

 private:
  Lines rows_, columns_;
  std::vector<char> exact_, whole_;
  std::unordered_map<Index, lp::Exact> known_;
};

/// Limits of the rows of a store.
struct Sides {
  std::vector<double> lower, upper;
};

}  // namespace kiteknot::mip
