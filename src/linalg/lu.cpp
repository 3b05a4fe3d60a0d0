// Solves with the factor; the elimination is in lu_factor.cpp, the update in lu_update.cpp.

#include "linalg/lu.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"

namespace kiteknot::linalg {
namespace {

constexpr double kSparseInput =
    0.05;  // share of nonzeros up to which a vector is searched, not scanned
constexpr double kSparseResult = 0.10;  // the same for what recent results had
constexpr double kForget = 0.1;         // weight of the newest result

// One step of a triangular solve: v_p := v_p / diagonal, then line p times it leaves the other
// places.
void divide_and_subtract(std::span<double> v, Index p, double diagonal, const Lines& lines) {
  const double value = v[at(p)] / diagonal;
  v[at(p)] = value;
  const auto index = lines.index(p);
  const auto entry = lines.value(p);
  for (std::size_t e = 0; e < index.size(); ++e) v[at(index[e])] -= entry[e] * value;
}

}  // namespace

void Lu::Fixed::clear() {
  start.assign(1, 0);
  index.clear();
  value.clear();
}

void Lu::Fixed::push(Index i, double v) {
  index.push_back(i);
  value.push_back(v);
}

Lu::Fixed Lu::Fixed::transposed(std::span<const Index> line_id, Index count) const {
  Fixed t;
  t.start.assign(at(count) + 1, 0);
  for (Index i : index) ++t.start[at(i) + 1];
  for (Index i = 0; i < count; ++i) t.start[at(i) + 1] += t.start[at(i)];
  t.index.resize(index.size());
  t.value.resize(value.size());
  std::vector<Offset> next(t.start.begin(), t.start.end() - 1);
  for (std::size_t k = 0; k < line_id.size(); ++k)
    for (Offset e = start[k]; e < start[k + 1]; ++e) {
      const auto to = at(next[at(index[at(e)])]++);
      t.index[to] = line_id[k];
      t.value[to] = value[at(e)];
    }
  return t;
}

Offset Lu::num_entries() const noexcept {
  return u_columns_.num_nonzeros() + m_ +
         static_cast<Offset>(l_columns_.index.size() + eta_index_.size());
}

bool Lu::sparse(const WorkVector& v, Kind kind) const {
  return static_cast<double>(v.list().size()) <= kSparseInput * m_ &&
         expected_[kind] <= kSparseResult;
}

void Lu::learn_density(const WorkVector& v, Kind kind) {
  const double density = static_cast<double>(v.list().size()) / std::max<Index>(m_, 1);
  expected_[kind] += kForget * (density - expected_[kind]);
}

// Depth-first search; places are written when left, so the list ends up in reverse order.
template <class Next>
void Lu::reach(std::span<const Index> starts, const Next& next, std::vector<Index>& order) {
  order.clear();
  for (const Index start : starts) {
    if (mark_[at(start)]) continue;
    mark_[at(start)] = 1;
    stack_.push_back({start, 0});
    while (!stack_.empty()) {
      Frame& frame = stack_.back();
      const std::span<const Index> to = next(frame.place);
      Index child = -1;
      while (at(frame.next) < to.size() && child < 0) {
        const Index candidate = to[at(frame.next++)];
        if (!mark_[at(candidate)]) child = candidate;
      }
      if (child < 0) {
        order.push_back(frame.place);
        stack_.pop_back();
      } else {
        mark_[at(child)] = 1;
        stack_.push_back({child, 0});
      }
    }
  }
  std::reverse(order.begin(), order.end());
}

void Lu::reach_rows(std::span<const Index> starts) {
  reach(
      starts, [&](Index p) { return u_rows_.index(p); }, places_);
  forget(places_);
}

void Lu::forget(std::span<const Index> places) {
  for (const Index i : places) mark_[at(i)] = 0;
}

void Lu::keep_spike(std::span<const double> x, std::span<const Index> places) {
  spike_index_.clear();
  spike_value_.clear();
  for (const Index i : places) {
    if (x[at(i)] == 0.0) continue;
    spike_index_.push_back(i);
    spike_value_.push_back(x[at(i)]);
  }
}

void Lu::ftran(WorkVector& x, double drop, bool entering) {
  if (sparse(x, kFtran))
    ftran_sparse(x, drop, entering);
  else
    ftran_dense(x, drop, entering);
  learn_density(x, kFtran);
}

void Lu::btran(WorkVector& y, double drop) {
  if (sparse(y, kBtran))
    btran_sparse(y, drop);
  else
    btran_dense(y, drop);
  learn_density(y, kBtran);
}

// 1. x := L^-1 x   2. the row etas, oldest first   3. x := U^-1 x
void Lu::ftran_dense(WorkVector& work, double drop, bool entering) {
  const std::span<double> x = work.values();
  for (std::size_t k = 0; k < l_row_.size(); ++k) {
    const double pivot = x[at(l_row_[k])];
    if (pivot == 0.0) continue;
    for (Offset e = l_columns_.start[k]; e < l_columns_.start[k + 1]; ++e)
      x[at(l_columns_.index[at(e)])] -= l_columns_.value[at(e)] * pivot;
  }
  for (const Eta& eta : etas_) {
    double value = x[at(eta.row)];
    for (Offset e = eta.begin; e < eta.end; ++e)
      value -= eta_value_[at(e)] * x[at(eta_index_[at(e)])];
    x[at(eta.row)] = value;
  }
  if (entering) {
    places_.clear();
    for (Index i = 0; i < m_; ++i)
      if (std::abs(x[at(i)]) > drop) places_.push_back(i);
    keep_spike(x, places_);
  }
  for (std::size_t k = order_.size(); k-- > 0;) {
    const Index p = order_[k];
    if (p < 0 || x[at(p)] == 0.0) continue;
    divide_and_subtract(x, p, diag_[at(p)], u_columns_);
  }
  work.relist(drop);
}

void Lu::ftran_sparse(WorkVector& work, double drop, bool entering) {
  const std::span<double> x = work.values();
  const auto below = [&](Index p) {
    return l_line_[at(p)] < 0 ? std::span<const Index>{} : l_columns_.line(l_line_[at(p)]);
  };
  reach(work.list(), below, places_);
  for (const Index p : places_) {
    const Index k = l_line_[at(p)];
    if (k < 0 || x[at(p)] == 0.0) continue;
    for (Offset e = l_columns_.start[at(k)]; e < l_columns_.start[at(k) + 1]; ++e)
      x[at(l_columns_.index[at(e)])] -= l_columns_.value[at(e)] * x[at(p)];
  }
  for (const Eta& eta : etas_) {
    double value = x[at(eta.row)];
    for (Offset e = eta.begin; e < eta.end; ++e)
      value -= eta_value_[at(e)] * x[at(eta_index_[at(e)])];
    x[at(eta.row)] = value;
    if (value != 0.0 && !mark_[at(eta.row)]) {
      mark_[at(eta.row)] = 1;
      places_.push_back(eta.row);
    }
  }
  forget(places_);
  if (entering) keep_spike(x, places_);
  reach(
      places_, [&](Index p) { return u_columns_.index(p); }, more_places_);
  for (const Index p : more_places_) {
    if (x[at(p)] == 0.0) continue;
    divide_and_subtract(x, p, diag_[at(p)], u_columns_);
  }
  forget(more_places_);
  work.relist(more_places_, drop);
}

// The transposed steps in reverse order.
void Lu::btran_dense(WorkVector& work, double drop) {
  const std::span<double> y = work.values();
  for (const Index p : order_) {
    if (p < 0 || y[at(p)] == 0.0) continue;
    divide_and_subtract(y, p, diag_[at(p)], u_rows_);
  }
  for (std::size_t k = etas_.size(); k-- > 0;) {
    const double value = y[at(etas_[k].row)];
    if (value == 0.0) continue;
    for (Offset e = etas_[k].begin; e < etas_[k].end; ++e)
      y[at(eta_index_[at(e)])] -= eta_value_[at(e)] * value;
  }
  // Rows of L^T in the order of factorisation: l_row_ holds the pivots with multipliers, and every
  // row can add to earlier ones.
  for (std::size_t k = pivot_order_.size(); k-- > 0;) {
    const Index p = pivot_order_[k];
    const double value = y[at(p)];
    if (value == 0.0) continue;
    for (Offset e = l_rows_.start[at(p)]; e < l_rows_.start[at(p) + 1]; ++e)
      y[at(l_rows_.index[at(e)])] -= l_rows_.value[at(e)] * value;
  }
  work.relist(drop);
}

void Lu::btran_sparse(WorkVector& work, double drop) {
  const std::span<double> y = work.values();
  reach(
      work.list(), [&](Index p) { return u_rows_.index(p); }, places_);
  for (const Index p : places_) {
    if (y[at(p)] == 0.0) continue;
    divide_and_subtract(y, p, diag_[at(p)], u_rows_);
  }
  for (std::size_t k = etas_.size(); k-- > 0;) {
    const double value = y[at(etas_[k].row)];
    if (value == 0.0) continue;
    for (Offset e = etas_[k].begin; e < etas_[k].end; ++e) {
      const Index i = eta_index_[at(e)];
      y[at(i)] -= eta_value_[at(e)] * value;
      if (mark_[at(i)]) continue;
      mark_[at(i)] = 1;
      places_.push_back(i);
    }
  }
  forget(places_);
  reach(
      places_, [&](Index p) { return l_rows_.line(p); }, more_places_);
  for (const Index p : more_places_) {
    if (y[at(p)] == 0.0) continue;
    for (Offset e = l_rows_.start[at(p)]; e < l_rows_.start[at(p) + 1]; ++e)
      y[at(l_rows_.index[at(e)])] -= l_rows_.value[at(e)] * y[at(p)];
  }
  forget(more_places_);
  work.relist(more_places_, drop);
}

}  // namespace kiteknot::linalg
