#include "linalg/lu.hpp"

#include <cmath>

#include "base/check.hpp"

namespace kiteknot::linalg {
namespace {
std::size_t at(Index i) {
  return static_cast<std::size_t>(i);
}
std::size_t at(Offset i) {
  return static_cast<std::size_t>(i);
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
  return factor_entries_ + static_cast<Offset>(eta_index_.size());
}

// 1. x := L^-1 x, skipping zero pivots   2. x := U^-1 x   3. the replaced columns, oldest first.
void Lu::ftran(WorkVector& work, double drop) const {
  const std::span<double> x = work.values();
  for (std::size_t k = 0; k < l_row_.size(); ++k) {
    const double pivot = x[at(l_row_[k])];
    if (pivot == 0.0) continue;
    for (Offset e = l_columns_.start[k]; e < l_columns_.start[k + 1]; ++e)
      x[at(l_columns_.index[at(e)])] -= l_columns_.value[at(e)] * pivot;
  }
  for (std::size_t k = order_.size(); k-- > 0;) {
    const Index p = order_[k];
    if (x[at(p)] == 0.0) continue;
    const double value = x[at(p)] / diag_[at(p)];
    x[at(p)] = value;
    for (Offset e = u_columns_.start[at(p)]; e < u_columns_.start[at(p) + 1]; ++e)
      x[at(u_columns_.index[at(e)])] -= u_columns_.value[at(e)] * value;
  }
  for (const Eta& eta : etas_) {
    if (x[at(eta.row)] == 0.0) continue;
    const double value = x[at(eta.row)] / eta.pivot;
    x[at(eta.row)] = value;
    for (Offset e = eta.begin; e < eta.end; ++e)
      x[at(eta_index_[at(e)])] -= eta_value_[at(e)] * value;
  }
  work.relist(drop);
}

// The transposed steps in reverse order.
void Lu::btran(WorkVector& work, double drop) const {
  const std::span<double> y = work.values();
  for (std::size_t k = etas_.size(); k-- > 0;) {
    const Eta& eta = etas_[k];
    double value = y[at(eta.row)];
    for (Offset e = eta.begin; e < eta.end; ++e)
      value -= eta_value_[at(e)] * y[at(eta_index_[at(e)])];
    y[at(eta.row)] = value / eta.pivot;
  }
  for (std::size_t k = 0; k < order_.size(); ++k) {
    const Index p = order_[k];
    if (y[at(p)] == 0.0) continue;
    const double value = y[at(p)] / diag_[at(p)];
    y[at(p)] = value;
    for (Offset e = u_rows_.start[k]; e < u_rows_.start[k + 1]; ++e)
      y[at(u_rows_.index[at(e)])] -= u_rows_.value[at(e)] * value;
  }
  if (!l_row_.empty()) {
    for (std::size_t k = order_.size(); k-- > 0;) {
      const Index p = order_[k];
      const double value = y[at(p)];
      if (value == 0.0) continue;
      for (Offset e = l_rows_.start[at(p)]; e < l_rows_.start[at(p) + 1]; ++e)
        y[at(l_rows_.index[at(e)])] -= l_rows_.value[at(e)] * value;
    }
  }
  work.relist(drop);
}

void Lu::replace(Index r, const WorkVector& alpha) {
  KITEKNOT_CHECK(alpha[r] != 0.0, "a replacing column needs a pivot");
  Eta eta{r, alpha[r], static_cast<Offset>(eta_index_.size()), 0};
  for (Index i : alpha.list()) {
    if (i == r || alpha[i] == 0.0) continue;
    eta_index_.push_back(i);
    eta_value_.push_back(alpha[i]);
  }
  eta.end = static_cast<Offset>(eta_index_.size());
  etas_.push_back(eta);
}

}  // namespace kiteknot::linalg
