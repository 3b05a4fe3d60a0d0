// The elimination behind Lu::factor: right-looking, on the active part of the matrix kept by rows
// (with values) and by columns (pattern only).

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/at.hpp"
#include "base/check.hpp"
#include "base/tolerances.hpp"
#include "linalg/lu.hpp"
#include "linalg/lu_dense.hpp"
#include "linalg/lu_singletons.hpp"

namespace kiteknot::linalg {

// Doubly linked lists of lines by their number of active entries.
class CountLists {
 public:
  explicit CountLists(Index m)
      : head_(at(m) + 1, -1), next_(at(m), -1), last_(at(m), -1), count_(at(m), -1) {}
  void put(Index line, Index count) {
    take(line);
    count_[at(line)] = count;
    next_[at(line)] = head_[at(count)];
    if (next_[at(line)] >= 0) last_[at(next_[at(line)])] = line;
    last_[at(line)] = -1;
    head_[at(count)] = line;
  }
  void take(Index line) {
    if (count_[at(line)] < 0) return;
    const Index before = last_[at(line)], after = next_[at(line)];
    (before >= 0 ? next_[at(before)] : head_[at(count_[at(line)])]) = after;
    if (after >= 0) last_[at(after)] = before;
    count_[at(line)] = -1;
  }
  [[nodiscard]] Index first(Index count) const { return head_[at(count)]; }
  [[nodiscard]] Index next(Index line) const { return next_[at(line)]; }
  [[nodiscard]] bool active(Index line) const { return count_[at(line)] >= 0; }

 private:
  std::vector<Index> head_, next_, last_, count_;
};

class Elimination {
 public:
  /// What the singletons left of an m x m matrix.
  Elimination(Index m, const Singletons& kernel, const LuOptions& options)
      : m_(m),
        options_(options),
        rows_(at(m)),
        column_rows_(at(m)),
        row_lists_(m),
        column_lists_(m),
        row_largest_(at(m), -1.0),
        scattered_(at(m), 0.0),
        mark_(at(m), 0) {
    for (Index i = 0; i < m_; ++i) {
      if (!kernel.row_left(i)) continue;
      kernel.visit_row(i, [&](Index c, double v) {
        rows_[at(i)].push_back({c, v});
        column_rows_[at(c)].push_back(i);
        ++active_entries_;
      });
      row_lists_.put(i, static_cast<Index>(rows_[at(i)].size()));
    }
    for (Index c = 0; c < m_; ++c)
      if (kernel.column_left(c))
        column_lists_.put(c, static_cast<Index>(column_rows_[at(c)].size()));
  }

  LuReport run(Lu& lu) {
    for (auto done = static_cast<Index>(lu.order_.size()); done < m_; ++done) {
      if (nearly_full(m_ - done)) {
        eliminate_rest(lu);
        break;
      }
      const Pivot pivot = choose();
      if (pivot.row < 0) break;
      eliminate(pivot, lu);
    }
    LuReport report;
    for (Index c = 0; c < m_; ++c)
      if (lu.pivot_row_[at(c)] < 0) report.columns_without_pivot.push_back(c);
    for (Index i = 0; i < m_; ++i)
      if (row_lists_.active(i)) report.rows_without_pivot.push_back(i);
    return report;
  }

 private:
  struct Entry {
    Index column;
    double value;
  };
  struct Pivot {
    Index row = -1, column = -1;
  };

  double value_at(Index row, Index column) const {
    for (const Entry& e : rows_[at(row)])
      if (e.column == column) return e.value;
    return 0.0;
  }

  double largest(Index row) {
    double& stored = row_largest_[at(row)];
    if (stored < 0.0)
      for (const Entry& e : rows_[at(row)]) stored = std::max(stored, std::abs(e.value));
    return stored;
  }

  bool acceptable(Index row, double value) {
    return std::abs(value) >= options_.smallest_pivot &&
           std::abs(value) >= options_.pivot_threshold * largest(row);
  }

  // Singletons first (no fill at all); else the least (row count - 1)(column count - 1) met in the
  // shortest lines. Lines whose entries are all too small are skipped for good: they stay without a
  // pivot.
  Pivot choose() {
    for (Index c = column_lists_.first(1); c >= 0; c = column_lists_.next(c)) {
      const Index row = column_rows_[at(c)].front();
      if (std::abs(value_at(row, c)) >= options_.smallest_pivot) return {row, c};
    }
    for (Index i = row_lists_.first(1); i >= 0; i = row_lists_.next(i))
      if (std::abs(rows_[at(i)].front().value) >= options_.smallest_pivot)
        return {i, rows_[at(i)].front().column};

    Pivot best;
    auto best_cost = std::numeric_limits<Offset>::max();
    int searched = 0;
    for (Index count = 2; count <= m_; ++count) {
      const Offset least = Offset{count - 1} * (count - 1);
      if (best.row >= 0 && best_cost <= least) return best;
      for (Index c = column_lists_.first(count); c >= 0; c = column_lists_.next(c)) {
        for (Index row : column_rows_[at(c)]) {
          const Offset cost = Offset{count - 1} * (static_cast<Offset>(rows_[at(row)].size()) - 1);
          if (cost >= best_cost || !acceptable(row, value_at(row, c))) continue;
          best = {row, c};
          best_cost = cost;
        }
        if (++searched >= options_.candidate_lines && best.row >= 0) return best;
      }
      for (Index i = row_lists_.first(count); i >= 0; i = row_lists_.next(i)) {
        for (const Entry& e : rows_[at(i)]) {
          const Offset cost =
              Offset{count - 1} * (static_cast<Offset>(column_rows_[at(e.column)].size()) - 1);
          if (cost >= best_cost || !acceptable(i, e.value)) continue;
          best = {i, e.column};
          best_cost = cost;
        }
        if (++searched >= options_.candidate_lines && best.row >= 0) return best;
      }
    }
    return best;
  }

  [[nodiscard]] bool nearly_full(Index left) const {
    constexpr Index kLeast = 16;
    constexpr double kShare = 0.7;
    return left >= kLeast && static_cast<double>(active_entries_) >= kShare * left * left;
  }

  // The rest as a full matrix.
  void eliminate_rest(Lu& lu) {
    std::vector<Index> rows, columns, place(at(m_), -1);
    for (Index i = 0; i < m_; ++i) {
      if (row_lists_.active(i)) rows.push_back(i);
      if (!column_lists_.active(i)) continue;
      place[at(i)] = static_cast<Index>(columns.size());
      columns.push_back(i);
    }
    DenseTail tail(static_cast<Index>(rows.size()));
    for (std::size_t r = 0; r < rows.size(); ++r)
      for (const Entry& e : rows_[at(rows[r])])
        tail.row(static_cast<Index>(r))[at(place[at(e.column)])] = e.value;
    tail.eliminate(options_.smallest_pivot);
    const double drop = Tolerances{}.drop;
    const auto pivots = tail.pivot_rows();
    for (Index p = 0; p < static_cast<Index>(pivots.size()); ++p) {
      const Index row = rows[at(pivots[at(p)])];
      const std::span<const double> own = tail.row(pivots[at(p)]);
      lu.diag_[at(row)] = own[at(p)];
      lu.pivot_row_[at(columns[at(tail.column_at(p))])] = row;
      lu.order_.push_back(row);
      row_lists_.take(row);
      for (Index k = p + 1; k < tail.size(); ++k)
        if (std::abs(own[at(k)]) > drop)
          lu.built_rows_.push(columns[at(tail.column_at(k))], own[at(k)]);
      lu.built_rows_.close();
      bool any = false;
      for (Index later = p + 1; later < static_cast<Index>(pivots.size()); ++later) {
        const double multiplier = tail.row(pivots[at(later)])[at(p)];
        if (multiplier == 0.0) continue;
        lu.l_columns_.push(rows[at(pivots[at(later)])], multiplier);
        any = true;
      }
      if (!any) continue;
      lu.l_columns_.close();
      lu.l_row_.push_back(row);
    }
  }

  static void erase(std::vector<Index>& list, Index what) {
    const auto it = std::find(list.begin(), list.end(), what);
    *it = list.back();
    list.pop_back();
  }

  void forget(Index row, Index column) {
    --active_entries_;
    erase(column_rows_[at(column)], row);
    if (column_lists_.active(column))
      column_lists_.put(column, static_cast<Index>(column_rows_[at(column)].size()));
  }

  void eliminate(const Pivot& pivot, Lu& lu) {
    const double diagonal = value_at(pivot.row, pivot.column);
    lu.diag_[at(pivot.row)] = diagonal;
    lu.pivot_row_[at(pivot.column)] = pivot.row;
    lu.order_.push_back(pivot.row);
    row_lists_.take(pivot.row);
    column_lists_.take(pivot.column);

    std::vector<Entry>& source = rows_[at(pivot.row)];
    for (const Entry& e : source) {
      forget(pivot.row, e.column);
      if (e.column == pivot.column) continue;
      lu.built_rows_.push(e.column, e.value);
      scattered_[at(e.column)] = e.value;
    }
    lu.built_rows_.close();

    std::vector<Index>& targets = column_rows_[at(pivot.column)];
    if (!targets.empty()) {
      for (Index row : targets) subtract(row, pivot, diagonal, source, lu);
      lu.l_columns_.close();
      lu.l_row_.push_back(pivot.row);
      targets.clear();
    }
    for (const Entry& e : source) scattered_[at(e.column)] = 0.0;
    source.clear();
  }

  // row := row - multiplier * source, where source is scattered.
  void subtract(Index row, const Pivot& pivot, double diagonal, const std::vector<Entry>& source,
                Lu& lu) {
    std::vector<Entry>& entries = rows_[at(row)];
    const auto own = std::find_if(entries.begin(), entries.end(),
                                  [&](const Entry& e) { return e.column == pivot.column; });
    const double multiplier = own->value / diagonal;
    *own = entries.back();
    entries.pop_back();
    --active_entries_;
    lu.l_columns_.push(row, multiplier);
    const double drop = Tolerances{}.drop;
    for (std::size_t k = 0; k < entries.size();) {
      Entry& e = entries[k];
      const double other = scattered_[at(e.column)];
      if (other != 0.0) {
        mark_[at(e.column)] = 1;
        e.value -= multiplier * other;
        if (std::abs(e.value) <= drop) {
          forget(row, e.column);
          e = entries.back();
          entries.pop_back();
          continue;
        }
      }
      ++k;
    }
    for (const Entry& e : source) {
      if (e.column == pivot.column) continue;
      if (mark_[at(e.column)]) {
        mark_[at(e.column)] = 0;
        continue;
      }
      entries.push_back({e.column, -multiplier * e.value});
      column_rows_[at(e.column)].push_back(row);
      ++active_entries_;
      column_lists_.put(e.column, static_cast<Index>(column_rows_[at(e.column)].size()));
    }
    row_largest_[at(row)] = -1.0;
    row_lists_.put(row, static_cast<Index>(entries.size()));
  }

  Index m_;
  Offset active_entries_ = 0;
  const LuOptions& options_;
  std::vector<std::vector<Entry>> rows_;         // active entries of each row
  std::vector<std::vector<Index>> column_rows_;  // rows of the active entries of each column
  CountLists row_lists_, column_lists_;
  std::vector<double> row_largest_;  // -1: not known
  std::vector<double> scattered_;    // the pivot row, by column
  std::vector<char> mark_;
};

LuReport Lu::factor(std::span<const ColumnView> columns, const LuOptions& options) {
  m_ = static_cast<Index>(columns.size());
  etas_.clear();
  eta_index_.clear();
  eta_value_.clear();
  num_updates_ = 0;
  built_rows_.clear();
  l_columns_.clear();
  l_row_.clear();
  order_.clear();
  diag_.assign(at(m_), 0.0);
  pivot_row_.assign(at(m_), -1);
  Singletons singletons(columns, options.smallest_pivot);
  singletons.run(*this);
  LuReport report;
  if (static_cast<Index>(order_.size()) < m_)
    report = Elimination(m_, singletons, options).run(*this);
  factor_entries_ = 0;
  if (!report.regular()) return report;

  // Columns get the names of their pivot rows; lines the names of their pivots.
  for (Index& column : built_rows_.index) column = pivot_row_[at(column)];
  constexpr Index kRoom = 4;  // free places for the columns that updates will bring
  const Fixed columns_of_u = built_rows_.transposed(order_, m_);
  std::vector<Index> own(at(m_));
  for (Index i = 0; i < m_; ++i) own[at(i)] = i;
  const Fixed rows_of_u = columns_of_u.transposed(own, m_);
  u_columns_.build(columns_of_u.start, columns_of_u.index, columns_of_u.value, kRoom);
  u_rows_.build(rows_of_u.start, rows_of_u.index, rows_of_u.value, kRoom);
  l_rows_ = l_columns_.transposed(l_row_, m_);
  l_line_.assign(at(m_), -1);
  for (std::size_t k = 0; k < l_row_.size(); ++k) l_line_[at(l_row_[k])] = static_cast<Index>(k);
  position_.assign(at(m_), 0);
  for (std::size_t k = 0; k < order_.size(); ++k) position_[at(order_[k])] = static_cast<Index>(k);
  pivot_order_ = order_;
  work_.assign(at(m_), 0.0);
  mark_.assign(at(m_), 0);
  factor_entries_ = num_entries();
  return report;
}

}  // namespace kiteknot::linalg
