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

Shape shape_of(const PresolveModel& model, Index j) {
  Shape s{model.rows_of(j)};
  std::sort(s.rows.begin(), s.rows.end());
  s.hash = std::hash<double>()(model.column(j).cost) + s.rows.size();
  for (const Index i : s.rows)
    s.hash = (s.hash ^ (static_cast<std::uint64_t>(i) * 0x9E3779B97F4A7C15U +
                        std::hash<double>()(model.entry(i, j)))) *
             0x100000001B3U;
  return s;
}

bool equal(const PresolveModel& model, Index j, Index k, const std::vector<Index>& rows) {
  const PresolveModel::Column &a = model.column(j), &b = model.column(k);
  if (a.cost != b.cost || a.integer != b.integer || rows.size() != model.rows_of(k).size())
    return false;
  return std::all_of(rows.begin(), rows.end(),
                     [&](Index i) { return model.entry(i, j) == model.entry(i, k); });
}

}  // namespace

void join_duplicate_columns(PresolveModel& model, const PresolveBudget& budget) {
  std::unordered_map<std::uint64_t, std::vector<Index>>
      by_shape;  // looked up, never walked through
  for (Index j = 0; j < model.num_columns(); ++j) {
    if (budget.spent()) return;
    const PresolveModel::Column& c = model.column(j);
    // Endless ends would leave the halves undetermined.
    if (!model.free_to_go(j) || c.fixed() || !std::isfinite(c.lower)) continue;
    const Shape shape = shape_of(model, j);
    budget.work.add(4 * static_cast<std::int64_t>(shape.rows.size()) + 4);
    std::vector<Index>& same = by_shape[shape.hash];
    const auto it = std::find_if(same.begin(), same.end(), [&](Index k) {
      return equal(model, k, j, shape.rows) && exact_sum(model.column(k).lower, c.lower) &&
             (std::isinf(model.column(k).upper) || std::isinf(c.upper) ||
              exact_sum(model.column(k).upper, c.upper));
    });
    if (it == same.end())
      same.push_back(j);
    else
      model.join(*it, j);
  }
}

}  // namespace kiteknot::mip
