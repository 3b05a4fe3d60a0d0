#include "linalg/lu_singletons.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::linalg {

Singletons::Singletons(std::span<const ColumnView> columns, double smallest_pivot)
    : columns_(columns), smallest_pivot_(smallest_pivot) {
  const std::size_t m = columns.size();
  row_start_.assign(m + 1, 0);
  row_sum_.assign(m, 0);
  column_sum_.assign(m, 0);
  column_count_.assign(m, 0);
  for (std::size_t c = 0; c < m; ++c)
    for (std::size_t e = 0; e < columns[c].index.size(); ++e) {
      if (columns[c].value[e] == 0.0) continue;
      const Index i = columns[c].index[e];
      ++row_start_[at(i) + 1];
      ++column_count_[c];
      row_sum_[at(i)] += static_cast<Offset>(c);
      column_sum_[c] += i;
    }
  for (std::size_t i = 0; i < m; ++i) {
    row_count_.push_back(static_cast<Index>(row_start_[i + 1]));
    row_start_[i + 1] += row_start_[i];
    if (row_count_[i] == 1) single_rows_.push_back(static_cast<Index>(i));
  }
  column_.resize(at(row_start_.back()));
  value_.resize(column_.size());
  std::vector<Offset> next(row_start_.begin(), row_start_.end() - 1);
  for (std::size_t c = 0; c < m; ++c) {
    if (column_count_[c] == 1) single_columns_.push_back(static_cast<Index>(c));
    for (std::size_t e = 0; e < columns[c].index.size(); ++e) {
      if (columns[c].value[e] == 0.0) continue;
      const auto to = at(next[at(columns[c].index[e])]++);
      column_[to] = static_cast<Index>(c);
      value_[to] = columns[c].value[e];
    }
  }
}

void Singletons::run(Lu& lu) {
  while (!single_columns_.empty() || !single_rows_.empty()) {
    if (!single_columns_.empty()) {
      const Index c = single_columns_.back();
      single_columns_.pop_back();
      if (column_count_[at(c)] == 1) take_column(c, lu);
    } else {
      const Index i = single_rows_.back();
      single_rows_.pop_back();
      if (row_count_[at(i)] == 1) take_row(i, lu);
    }
  }
}

void Singletons::pivot(Index i, Index c, double diagonal, Lu& lu) {
  lu.diag_[at(i)] = diagonal;
  lu.pivot_row_[at(c)] = i;
  lu.order_.push_back(i);
  row_count_[at(i)] = -1;
  column_count_[at(c)] = -1;
}

void Singletons::leave_row(Index i, Index c) {
  row_sum_[at(i)] -= c;
  if (--row_count_[at(i)] == 1) single_rows_.push_back(i);
}

void Singletons::leave_column(Index c, Index i) {
  column_sum_[at(c)] -= i;
  if (--column_count_[at(c)] == 1) single_columns_.push_back(c);
}

void Singletons::take_column(Index c, Lu& lu) {
  const auto i = static_cast<Index>(column_sum_[at(c)]);
  double diagonal = 0.0;
  visit_row(i, [&](Index column, double v) { diagonal = column == c ? v : diagonal; });
  if (std::abs(diagonal) < smallest_pivot_) return;
  pivot(i, c, diagonal, lu);
  visit_row(i, [&](Index column, double v) {
    lu.built_rows_.push(column, v);
    leave_column(column, i);
  });
  lu.built_rows_.close();
}

void Singletons::take_row(Index i, Lu& lu) {
  const auto c = static_cast<Index>(row_sum_[at(i)]);
  const ColumnView& view = columns_[at(c)];
  const auto own = std::find(view.index.begin(), view.index.end(), i);
  const double diagonal = view.value[static_cast<std::size_t>(own - view.index.begin())];
  if (std::abs(diagonal) < smallest_pivot_) return;
  pivot(i, c, diagonal, lu);
  lu.built_rows_.close();
  bool any = false;
  for (std::size_t e = 0; e < view.index.size(); ++e) {
    const Index row = view.index[e];
    if (!row_left(row) || view.value[e] == 0.0) continue;
    lu.l_columns_.push(row, view.value[e] / diagonal);
    leave_row(row, c);
    any = true;
  }
  if (!any) return;
  lu.l_columns_.close();
  lu.l_row_.push_back(i);
}

}  // namespace kiteknot::linalg
