#include "mip/problem/exact_rows.hpp"

#include <cmath>

#include "lp/ray.hpp"

namespace kiteknot::mip {

bool within(const Rational& value, double lower, double upper) {
  return (std::isinf(lower) || value >= Rational::exactly(lower)) &&
         (std::isinf(upper) || value <= Rational::exactly(upper));
}

bool is_whole(const Problem& problem, std::span<const Rational> point) {
  for (Index j = 0; j < problem.num_columns(); ++j)
    if (problem.integer(j) && !point[at(j)].is_integer()) return false;
  return true;
}

bool row_holds(const RowView& row, std::span<const Rational> point) {
  Rational activity = 0;
  for (std::size_t k = 0; k < row.index.size(); ++k)
    if (const Rational& x = point[at(row.index[k])]; !x.is_zero())
      activity += Rational::exactly(row.value[k]) * x;
  return within(activity, row.lower, row.upper);
}

std::pair<Rational, Rational> exact_limits(const lp::Exact* known, double lower, double upper) {
  const auto as_it_is = [](double v) {
    return std::isfinite(v) ? Rational::exactly(v)
           : v > 0          ? Rational::infinity()
                            : Rational::minus_infinity();
  };
  return {known != nullptr && known->low_as == lower ? known->low : as_it_is(lower),
          known != nullptr && known->high_as == upper ? known->high : as_it_is(upper)};
}

bool row_recedes(const RowView& row, const lp::Exact* known, std::span<const Rational> direction) {
  Rational rate = 0;
  for (std::size_t k = 0; k < row.index.size(); ++k)
    rate += (known != nullptr && !known->values.empty() ? known->values[k]
                                                        : Rational::exactly(row.value[k])) *
            direction[at(row.index[k])];
  const auto [low, high] = exact_limits(known, row.lower, row.upper);
  return lp::recedes(rate, low, high);
}

void lock_row(const RowView& row, const lp::Exact* known, Locks& locks) {
  const bool above = std::isfinite(row.upper), below = std::isfinite(row.lower);
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    const Index j = row.index[k];
    if (known != nullptr || !row.exact) {
      locks.both(j);
    } else if (row.value[k] != 0.0) {
      if (row.value[k] > 0.0 ? above : below) ++locks.up[at(j)];
      if (row.value[k] > 0.0 ? below : above) ++locks.down[at(j)];
    }
  }
}

LinearRow carried(const RowView& row, const lp::Exact* known, std::span<const Index> columns) {
  LinearRow out{{}, row.lower, row.upper, row.exact};
  for (std::size_t k = 0; k < row.index.size(); ++k)
    out.entries.push_back({columns[at(row.index[k])], row.value[k]});
  if (known != nullptr) out.known = *known;
  return out;
}

}  // namespace kiteknot::mip
