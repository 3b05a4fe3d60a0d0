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
  std::vector<char> used(at(p.num_columns()), 0);
  std::vector<Index> all;
  for (const auto& kind : p.kinds().all())
    kind->visit(p, [&](std::span<const Index> columns, std::span<const Index> conditions) {
      all.assign(columns.begin(), columns.end());
      for (const Index j : columns) used[at(j)] = 1;
      for (const Index c : conditions) all.push_back(p.num_columns() + c);
      if (!all.empty()) ties.tie(all);
    });
  for (Index c = 0; c < p.num_conditions(); ++c)
    if (const Index j = p.column_of_condition(c); j >= 0) {
      const Index both[] = {j, p.num_columns() + c};
      ties.tie(both);
      used[at(j)] = 1;
    }
  std::vector<std::vector<Index>> parts(at(p.num_columns() + p.num_conditions()));
  for (Index j = 0; j < p.num_columns(); ++j)
    if (used[at(j)]) parts[at(ties.find(j))].push_back(j);
  std::erase_if(parts, [](const auto& part) { return part.empty(); });
  std::stable_sort(parts.begin(), parts.end(),
                   [](const auto& a, const auto& b) { return a.size() < b.size(); });
  return parts;
}

Problem part_of(const Problem& p, std::span<const Index> columns) {
  Problem part;
  Image image{std::vector<Index>(at(p.num_columns()), -1),
              std::vector<Index>(at(p.num_conditions()), -1)};
  for (const Index j : columns)
    image.column[at(j)] = part.add_column(p.lower(j), p.upper(j), p.integer(j), p.cost(j));
  // Conditions that are of the part by a column, or by what waits for them.
  std::vector<char> here(at(p.num_conditions()), 0);
  for (Index c = 0; c < p.num_conditions(); ++c)
    if (const Index j = p.column_of_condition(c); j >= 0) here[at(c)] = image.column[at(j)] >= 0;
  for (const auto& kind : p.kinds().all())
    kind->visit(p, [&](std::span<const Index> of, std::span<const Index> conditions) {
      if (!of.empty() && image.column[at(of.front())] >= 0)
        for (const Index c : conditions) here[at(c)] = 1;
    });
  for (Index c = 0; c < p.num_conditions(); ++c)
    if (here[at(c)]) {
      const Index j = p.column_of_condition(c);
      image.condition[at(c)] = part.add_condition(j < 0 ? -1 : image.column[at(j)]);
    }
  for (const auto& kind : p.kinds().all()) kind->carry(p, image, part);
  return part;
}

}  // namespace kiteknot::mip
