#include "linalg/lu_dense.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

namespace kiteknot::linalg {

DenseTail::DenseTail(Index size) : size_(size), a_(at(size) * at(size), 0.0), column_(at(size)) {
  std::iota(column_.begin(), column_.end(), 0);
}

// row := row - multiplier * pivot row, the multiplier kept in the pivot's place.
void DenseTail::take(Index row, Index pivot) {
  const double* from = row_start(pivot_rows_[at(pivot)]);
  double* to = row_start(row);
  const double multiplier = to[pivot] / from[pivot];
  to[pivot] = multiplier;
  for (Index k = pivot + 1; k < size_; ++k) to[k] -= multiplier * from[k];
}

void DenseTail::take_four(Index row, Index pivot) {
  const double* from = row_start(pivot_rows_[at(pivot)]);
  double *a = row_start(row), *b = a + size_, *c = b + size_, *d = c + size_;
  const double diagonal = from[pivot];
  const double ma = a[pivot] / diagonal, mb = b[pivot] / diagonal, mc = c[pivot] / diagonal,
               md = d[pivot] / diagonal;
  a[pivot] = ma;
  b[pivot] = mb;
  c[pivot] = mc;
  d[pivot] = md;
  for (Index k = pivot + 1; k < size_; ++k) {
    const double v = from[k];
    a[k] -= ma * v;
    b[k] -= mb * v;
    c[k] -= mc * v;
    d[k] -= md * v;
  }
}

void DenseTail::swap_columns(Index a, Index b) {
  if (a == b) return;
  for (Index i = 0; i < size_; ++i) std::swap(row_start(i)[a], row_start(i)[b]);
  std::swap(column_[at(a)], column_[at(b)]);
}

void DenseTail::eliminate(double smallest_pivot) {
  for (Index first = 0; first < size_; first += kTile) {
    const Index end = std::min(first + kTile, size_);
    const auto earlier = static_cast<Index>(pivot_rows_.size());
    for (Index p = 0; p < earlier; ++p) {
      if (end - first == kTile)
        take_four(first, p);
      else
        for (Index i = first; i < end; ++i) take(i, p);
    }
    for (Index i = first; i < end; ++i) {
      for (Index p = earlier; p < static_cast<Index>(pivot_rows_.size()); ++p) take(i, p);
      const auto place = static_cast<Index>(pivot_rows_.size());
      Index best = place;
      for (Index k = place; k < size_; ++k)
        if (std::abs(row_start(i)[k]) > std::abs(row_start(i)[best])) best = k;
      if (place >= size_ || std::abs(row_start(i)[best]) < smallest_pivot) continue;
      swap_columns(place, best);
      pivot_rows_.push_back(i);
    }
  }
}

}  // namespace kiteknot::linalg
