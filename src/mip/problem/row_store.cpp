#include "mip/problem/row_store.hpp"

#include <cmath>

#include "kiteknot/errors.hpp"

namespace kiteknot::mip {

Index RowStore::add(const LinearRow& row, bool whole) {
  if (std::isnan(row.lower) || std::isnan(row.upper)) throw UsageError("a limit is not a number");
  for (const Entry& e : row.entries)
    if (!std::isfinite(e.value)) throw UsageError("a coefficient is not finite");
  const Index i = num_rows();
  rows_.add_line(static_cast<Index>(row.entries.size()));
  exact_.push_back(row.exact ? 1 : 0);
  whole_.push_back(whole ? 1 : 0);
  if (row.known) known_.emplace(i, *row.known);
  for (const Entry& e : row.entries) {
    rows_.push(i, e.index, e.value);
    columns_.push(e.index, i, e.value);
  }
  return i;
}

}  // namespace kiteknot::mip
