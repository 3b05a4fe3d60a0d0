#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {
namespace {

// Both rows divided by their first entry are the same, to the last digit.
bool proportional(const PresolveModel::Row& a, const PresolveModel::Row& b) {
  if (a.entries.size() != b.entries.size()) return false;
  const double first_a = a.entries.front().value, first_b = b.entries.front().value;
  for (std::size_t k = 0; k < a.entries.size(); ++k) {
    if (a.entries[k].index != b.entries[k].index) return false;
    const auto left = exact_product(a.entries[k].value, first_b);
    const auto right = exact_product(b.entries[k].value, first_a);
    if (!left || !right || *left != *right) return false;
  }
  return true;
}

// b's limits, in units of a, go to a; b goes. False where a double does not say them.
bool merge(PresolveModel& model, Index a, Index b) {
  const double first_a = model.row(a).entries.front().value;
  const double first_b = model.row(b).entries.front().value;
  const auto in_units = [&](double limit) -> std::optional<double> {
    if (std::isinf(limit)) return (first_a > 0.0) == (first_b > 0.0) ? limit : -limit;
    const auto product = exact_product(limit, first_a);
    return product ? exact_quotient(*product, first_b) : std::nullopt;
  };
  const auto one = in_units(model.row(b).lower), other = in_units(model.row(b).upper);
  if (!one || !other) return false;
  const double lower = std::max(model.row(a).lower, std::min(*one, *other));
  const double upper = std::min(model.row(a).upper, std::max(*one, *other));
  (void)model.set_limits(a, lower, upper);
  model.drop_row(b);
  return true;
}

std::uint64_t hash_of(const PresolveModel::Row& row) {
  std::uint64_t h = row.entries.size();
  for (const Entry& e : row.entries) {
    const auto shape = static_cast<std::uint64_t>(
        std::llround(1e6 * std::clamp(e.value / row.entries.front().value, -1e9, 1e9)));
    h = (h ^ (static_cast<std::uint64_t>(e.index) * 0x9E3779B97F4A7C15U + shape)) * 0x100000001B3U;
  }
  return h;
}

void merge_proportional(PresolveModel& model, const PresolveBudget& budget) {
  std::unordered_map<std::uint64_t, std::vector<Index>>
      by_shape;  // looked up, never walked through
  for (Index i = 0; i < model.num_rows(); ++i) {
    const PresolveModel::Row& row = model.row(i);
    if (row.gone || row.firm || row.entries.empty()) continue;
    budget.work.add(2 * static_cast<std::int64_t>(row.entries.size()));
    if (budget.spent()) return;
    std::vector<Index>& same = by_shape[hash_of(row)];
    const auto it = std::find_if(same.begin(), same.end(), [&](Index k) {
      return proportional(model.row(k), model.row(i)) && merge(model, k, i);
    });
    if (it == same.end()) same.push_back(i);
    if (!model.possible()) return;
  }
}

// Of a'x >= low: with the row's own sign or turned round.
struct AtLeast {
  double sign = 1.0, low = 0.0;
};

std::vector<AtLeast> sides_of(const PresolveModel::Row& row) {
  std::vector<AtLeast> sides;
  if (std::isfinite(row.lower)) sides.push_back({1.0, row.lower});
  if (std::isfinite(row.upper)) sides.push_back({-1.0, -row.upper});
  return sides;
}

// Whether a'x >= low follows from b'x >= low_b: x >= 0 and a >= b in every column.
bool follows(const PresolveModel& model, const PresolveModel::Row& a, AtLeast side,
             const PresolveModel::Row& b, AtLeast from) {
  if (side.low > from.low) return false;
  std::size_t i = 0, k = 0;
  while (i < a.entries.size() || k < b.entries.size()) {
    constexpr Index kEnd = std::numeric_limits<Index>::max();
    const Index ja = i < a.entries.size() ? a.entries[i].index : kEnd;
    const Index jb = k < b.entries.size() ? b.entries[k].index : kEnd;
    const double va = ja <= jb ? side.sign * a.entries[i].value : 0.0;
    const double vb = jb <= ja ? from.sign * b.entries[k].value : 0.0;
    if (va < vb || (va != vb && model.column(std::min(ja, jb)).lower < 0.0)) return false;
    i += ja <= jb ? 1 : 0;
    k += jb <= ja ? 1 : 0;
  }
  return true;
}

// Whether one row has all that another says on its open side: then the other opens.
bool drop_if_weaker(PresolveModel& model, Index weak, Index strong) {
  const PresolveModel::Row &a = model.row(weak), &b = model.row(strong);
  const std::vector<AtLeast> sides = sides_of(a);
  if (sides.size() != 1) return false;
  for (const AtLeast& from : sides_of(b))
    if (follows(model, a, sides[0], b, from)) {
      model.drop_row(weak);
      return true;
    }
  return false;
}

}  // namespace

void drop_dominated_rows(PresolveModel& model, const PresolveBudget& budget) {
  merge_proportional(model, budget);
  for (Index i = 0; i < model.num_rows(); ++i) {
    if (!model.possible()) return;
    const PresolveModel::Row& row = model.row(i);
    if (row.gone || row.firm || row.entries.empty()) continue;
    // Among the rows that share its rarest column; the other's entries are all there or all here.
    const auto rarest = std::min_element(
        row.entries.begin(), row.entries.end(), [&](const Entry& a, const Entry& b) {
          return model.column(a.index).rows.size() < model.column(b.index).rows.size();
        });
    for (const Index other : model.rows_of(rarest->index)) {
      if (budget.spent()) return;
      if (other == i || model.row(other).firm ||
          model.row(other).entries.size() < row.entries.size())
        continue;
      budget.work.add(2 * static_cast<std::int64_t>(row.entries.size()) + 4);
      if (drop_if_weaker(model, other, i)) continue;
      if (drop_if_weaker(model, i, other)) break;
    }
  }
}

}  // namespace kiteknot::mip
