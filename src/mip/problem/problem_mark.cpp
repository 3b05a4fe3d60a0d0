#include "mip/problem/problem_mark.hpp"

#include <algorithm>

namespace kiteknot::mip {
namespace {

void add_exact(Mark& mark, const lp::Exact& exact) {
  mark.add(exact.low_as);
  mark.add(exact.high_as);
  for (const Rational* value : {&exact.low, &exact.high}) mark.add(value->text());
  for (const Rational& value : exact.values) mark.add(value.text());
}

}  // namespace

void add_row(Mark& mark, const RowView& row, const lp::Exact* known) {
  mark.add(row.index);
  mark.add(row.value);
  mark.add(row.lower);
  mark.add(row.upper);
  mark.add(row.exact);
  if (known != nullptr) add_exact(mark, *known);
}

std::optional<std::uint64_t> mark_of(const Problem& p) {
  Mark mark;
  for (Index j = 0; j < p.num_columns(); ++j) {
    mark.add(p.lower(j));
    mark.add(p.upper(j));
    mark.add(p.cost(j));
    mark.add(p.integer(j));
    mark.add(p.condition_of_column(j));
    if (const auto known = p.known_bounds().find(j); known != p.known_bounds().end())
      add_exact(mark, known->second);
  }
  for (const Rational& cost : p.known_costs()) mark.add(cost.text());
  mark.add(p.cost_exact());
  mark.add(p.goal_step());
  for (const auto& kind : p.kinds().all()) {
    if (!kind->any(p)) continue;
    mark.add(kind->name());
    if (!kind->mark(p, mark)) return std::nullopt;
  }
  return mark.value();
}

}  // namespace kiteknot::mip
