#include "mip/presolve/components.hpp"

#include <algorithm>
#include <numeric>

namespace kiteknot::mip {
namespace {

// Sets that are joined. Galler and Fischer 1964, "An improved equivalence algorithm".
class Ties {
 public:
  explicit Ties(Index count) : of_(at(count)) { std::iota(of_.begin(), of_.end(), 0); }
  Index find(Index j) {
    while (of_[at(j)] != j) j = of_[at(j)] = of_[at(of_[at(j)])];
    return j;
  }
  void tie(std::span<const Index> columns) {
    for (const Index j : columns) of_[at(find(j))] = find(columns.front());
  }

 private:
  std::vector<Index> of_;
};

}  // namespace

std::vector<std::vector<Index>> components(const Problem& p) {
  // Conditions stand behind the columns: those of their own, and what waits for them.
  Ties ties(p.num_columns() + p.num_conditions());
  for (Index i = 0; i < p.num_rows(); ++i)
    if (!p.row(i).index.empty()) ties.tie(p.row(i).index);
  std::vector<char> used(at(p.num_columns()), 0);
  for (Index k = 0; k < p.num_conditional_rows(); ++k) {
    std::vector<Index> all(p.conditional_row(k).index.begin(), p.conditional_row(k).index.end());
    for (const Index j : all) used[at(j)] = 1;
    all.push_back(p.num_columns() + p.when(k).condition);
    ties.tie(all);
  }
  for (Index c = 0; c < p.num_conditions(); ++c)
    if (const Index j = p.column_of_condition(c); j >= 0) {
      const Index both[] = {j, p.num_columns() + c};
      ties.tie(both);
      used[at(j)] = 1;
    }
  for (const OrderedSet& set : p.ordered_sets()) {
    ties.tie(set.columns);
    for (const Index j : set.columns) used[at(j)] = 1;
  }
  std::vector<std::vector<Index>> parts(at(p.num_columns() + p.num_conditions()));
  for (Index j = 0; j < p.num_columns(); ++j)
    if (used[at(j)] || p.columns().size(j) > 0) parts[at(ties.find(j))].push_back(j);
  std::erase_if(parts, [](const auto& part) { return part.empty(); });
  std::stable_sort(parts.begin(), parts.end(),
                   [](const auto& a, const auto& b) { return a.size() < b.size(); });
  return parts;
}

Problem part_of(const Problem& p, std::span<const Index> columns) {
  Problem part;
  std::vector<Index> place(at(p.num_columns()), -1);
  for (const Index j : columns)
    place[at(j)] = part.add_column(p.lower(j), p.upper(j), p.integer(j), p.cost(j));
  const auto over_part = [&](const RowView& row) {
    LinearRow out{{}, row.lower, row.upper, row.exact};
    for (std::size_t k = 0; k < row.index.size(); ++k)
      out.entries.push_back({place[at(row.index[k])], row.value[k]});
    return out;
  };
  const auto here = [&](std::span<const Index> index) {
    return !index.empty() && place[at(index.front())] >= 0;
  };
  for (Index i = 0; i < p.num_rows(); ++i)
    if (here(p.row(i).index)) (void)part.add_row(over_part(p.row(i)));
  // Conditions that are of the part by a column; then all rows that wait for them, those without
  // entries too.
  std::vector<Index> condition(at(p.num_conditions()), -1);
  const auto condition_here = [&](Index c) {
    const Index j = p.column_of_condition(c);
    if (condition[at(c)] < 0) condition[at(c)] = part.add_condition(j < 0 ? -1 : place[at(j)]);
  };
  for (Index c = 0; c < p.num_conditions(); ++c)
    if (const Index j = p.column_of_condition(c); j >= 0 && place[at(j)] >= 0) condition_here(c);
  for (Index k = 0; k < p.num_conditional_rows(); ++k)
    if (here(p.conditional_row(k).index)) condition_here(p.when(k).condition);
  for (Index k = 0; k < p.num_conditional_rows(); ++k)
    if (const Index c = condition[at(p.when(k).condition)]; c >= 0)
      part.add_conditional_row({{c, p.when(k).holds}, over_part(p.conditional_row(k))});
  for (OrderedSet set : p.ordered_sets()) {
    if (!here(set.columns)) continue;
    for (Index& j : set.columns) j = place[at(j)];
    part.add_ordered_set(std::move(set));
  }
  return part;
}

}  // namespace kiteknot::mip
