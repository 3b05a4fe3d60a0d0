#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {
namespace {

struct Shape {
  std::vector<Index> rows;
  std::uint64_t hash = 0;
};

Shape shape_of(const Draft& draft, Index j) {
  Shape s{draft.rows_of(j)};
  std::sort(s.rows.begin(), s.rows.end());
  s.hash = std::hash<double>()(draft.column(j).cost) + s.rows.size();
  for (const Index i : s.rows)
    s.hash = (s.hash ^ (static_cast<std::uint64_t>(i) * 0x9E3779B97F4A7C15U +
                        std::hash<double>()(draft.entry(i, j)))) *
             0x100000001B3U;
  return s;
}

bool equal(const Draft& draft, Index j, Index k, const std::vector<Index>& rows) {
  const Draft::Column &a = draft.column(j), &b = draft.column(k);
  if (a.cost != b.cost || a.integer != b.integer || rows.size() != draft.rows_of(k).size())
    return false;
  return std::all_of(rows.begin(), rows.end(),
                     [&](Index i) { return draft.entry(i, j) == draft.entry(i, k); });
}

}  // namespace

void join_equal_columns(Draft& draft, const Means& means) {
  std::unordered_map<std::uint64_t, std::vector<Index>>
      by_shape;  // looked up, never walked through
  for (Index j = 0; j < draft.num_columns(); ++j) {
    if (means.spent()) return;
    const Draft::Column& c = draft.column(j);
    // Endless ends would leave the halves undetermined.
    if (!draft.free_to_go(j) || c.fixed() || !std::isfinite(c.lower)) continue;
    const Shape shape = shape_of(draft, j);
    means.work.add(4 * static_cast<std::int64_t>(shape.rows.size()) + 4);
    std::vector<Index>& same = by_shape[shape.hash];
    const auto it = std::find_if(same.begin(), same.end(), [&](Index k) {
      return equal(draft, k, j, shape.rows) && exact_sum(draft.column(k).lower, c.lower) &&
             (std::isinf(draft.column(k).upper) || std::isinf(c.upper) ||
              exact_sum(draft.column(k).upper, c.upper));
    });
    if (it == same.end())
      same.push_back(j);
    else
      draft.join(*it, j);
  }
}

}  // namespace kiteknot::mip
