#include "mip/structures/conflict_graph.hpp"

#include <algorithm>
#include <cmath>

#include "mip/domain/row_activity.hpp"

namespace kiteknot::mip {

ConflictGraph::ConflictGraph(const Domain& domain, const Implications& implied, WorkCounter& work) {
  const Problem& p = domain.problem();
  of_.resize(2 * at(p.num_columns()));
  const std::size_t most = 10 * static_cast<std::size_t>(p.rows().num_nonzeros()) + 1000;
  for (Index i = 0; i < p.num_rows() && literals_.size() < most && !work.interrupted(); ++i) {
    const RowView row = p.row(i);
    work.add(2 * static_cast<std::int64_t>(row.index.size()));
    if (std::isfinite(row.upper)) add_row(row, domain, true);
    if (std::isfinite(row.lower)) add_row(row, domain, false);
  }
  add_implied(domain, implied);
}

// A literal that sets a binary column excludes its other value. What rows have said already is
// left out.
void ConflictGraph::add_implied(const Domain& domain, const Implications& implied) {
  const auto free = [&](Index j) {
    return domain.problem().integer(j) && domain.lower(j) == 0.0 && domain.upper(j) == 1.0;
  };
  for (const Implication& i : implied) {
    if (!free(i.column) || !free(column_of(i.when))) continue;
    if (i.upper ? i.bound >= 1.0 : i.bound <= 0.0) continue;
    const Literal other = 2 * i.column + (i.upper ? 0 : 1);
    bool known = false;
    each_excluded(i.when, [&](Literal l) { known = known || l == other; });
    if (known) continue;
    const auto k = static_cast<Index>(num_cliques());
    for (const Literal l : {i.when, other}) {
      literals_.push_back(l);
      of_[at(l)].push_back(k);
    }
    starts_.push_back(literals_.size());
  }
}

// The row as sum of raises <= room, over the literals that raise it from its least value.
void ConflictGraph::add_row(const RowView& row, const Domain& domain, bool upper) {
  const Problem& p = domain.problem();
  const Activity range = activity(row, domain);
  if ((upper ? range.infinite_low : range.infinite_high) > 0) return;
  const double room =
      upper ? add_up(row.upper, -range.low) : add_up(range.high, -row.lower);  // rounded up
  items_.clear();
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    const Index j = row.index[k];
    if (!p.integer(j) || domain.lower(j) != 0.0 || domain.upper(j) != 1.0) continue;
    const Interval a = coefficient(row.value[k], row.exact);
    const double raise = a.low > 0.0 ? a.low : (a.high < 0.0 ? -a.high : 0.0);
    if (raise > 0.0) items_.push_back({raise, 2 * j + ((a.low > 0.0) == upper ? 0 : 1)});
  }
  std::sort(items_.begin(), items_.end(), [](const Item& a, const Item& b) {
    return a.raise != b.raise ? a.raise > b.raise : a.literal < b.literal;
  });
  const auto exclude = [&](std::size_t a, std::size_t b) {
    return add_down(items_[a].raise, items_[b].raise) > room;
  };
  std::size_t all = 0;  // every two of the first so many
  while (all + 1 < items_.size() && exclude(all, all + 1)) ++all;
  if (all == 0) return;
  add_clique(all + 1, -1);
  std::size_t prefix = all;
  for (std::size_t k = all + 1; k < items_.size(); ++k) {
    while (prefix > 0 && !exclude(prefix - 1, k)) --prefix;
    if (prefix == 0) return;
    add_clique(prefix, items_[k].literal);
  }
}

void ConflictGraph::add_clique(std::size_t prefix, Literal extra) {
  const auto k = static_cast<Index>(num_cliques());
  const auto take = [&](Literal l) {
    literals_.push_back(l);
    of_[at(l)].push_back(k);
  };
  for (std::size_t i = 0; i < prefix; ++i) take(items_[i].literal);
  if (extra >= 0) take(extra);
  starts_.push_back(literals_.size());
}

}  // namespace kiteknot::mip
