#include "mip/separators/cliques.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {

void CliqueCuts::look(const SeparationContext& where, std::vector<LinearRow>& found) {
  constexpr double kFraction = 1e-6, kLeastOver = 1e-3;
  constexpr std::int64_t kMostWork = 5'000'000;
  if (!conflict_graph_) conflict_graph_.emplace(where.domain, where.implied, where.work);
  if (conflict_graph_->num_cliques() == 0) return;
  const Problem& p = where.domain.problem();
  const std::size_t literals = 2 * at(p.num_columns());
  value_.assign(literals, 0.0);
  excluded_by_.assign(literals, 0);
  seen_.assign(literals, 0);
  stamp_ = 0;
  starts_.clear();
  for (Index j = 0; j < p.num_columns(); ++j)
    for (const Literal l : {2 * j, 2 * j + 1}) {
      if (conflict_graph_->cliques_of(l).empty()) continue;
      const double v = std::clamp(where.point[at(j)], 0.0, 1.0);
      value_[at(l)] = is_no(l) ? 1.0 - v : v;
      if (value_[at(l)] > kFraction && value_[at(l)] < 1.0 - kFraction)
        starts_.emplace_back(-value_[at(l)], l);
    }
  std::sort(starts_.begin(), starts_.end());
  const std::int64_t until = where.work.units() + kMostWork;
  for (const auto& [unused, start] : starts_) {
    grow(start, where.work);
    double sum = 0.0;
    for (const Literal l : clique_) sum += value_[at(l)];
    if (sum > 1.0 + kLeastOver) found.push_back(as_row());
    for (const Literal l : touched_) excluded_by_[at(l)] = 0;
    touched_.clear();
    if (where.work.units() > until || where.work.interrupted()) return;
  }
}

// Literals above 0 first, the largest first; then those at 0.
void CliqueCuts::grow(Literal start, WorkCounter& work) {
  clique_.clear();
  join(start, work);
  candidates_ = touched_;
  std::sort(candidates_.begin(), candidates_.end(), [&](Literal a, Literal b) {
    return value_[at(a)] != value_[at(b)] ? value_[at(a)] > value_[at(b)] : a < b;
  });
  for (const Literal l : candidates_)
    if (excluded_by_[at(l)] == static_cast<Index>(clique_.size())) join(l, work);
}

void CliqueCuts::join(Literal l, WorkCounter& work) {
  clique_.push_back(l);
  ++stamp_;
  conflict_graph_->each_excluded(l, [&](Literal other) {
    work.add(1);
    if (seen_[at(other)] == stamp_) return;
    seen_[at(other)] = stamp_;
    if (excluded_by_[at(other)]++ == 0) touched_.push_back(other);
  });
}

LinearRow CliqueCuts::as_row() const {
  LinearRow row{{}, -kInf, 1.0, true};
  for (const Literal l : clique_) {
    row.entries.push_back({column_of(l), is_no(l) ? -1.0 : 1.0});
    if (is_no(l)) row.upper -= 1.0;
  }
  std::sort(row.entries.begin(), row.entries.end(),
            [](const Entry& a, const Entry& b) { return a.index < b.index; });
  return row;
}

}  // namespace kiteknot::mip
