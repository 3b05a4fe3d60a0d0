#include <algorithm>

#include "mip/problem/violation.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

Separation::Separation(const Problem& problem) {
  for (const auto& kind : problem.kinds().all())
    if (kind->any(problem))
      if (auto separator = kind->separator()) all_.push_back(std::move(separator));
  tallies_.resize(all_.size());
}

bool Separation::any_stated() const noexcept {
  return std::ranges::any_of(all_, [](const auto& separator) { return !separator->implied(); });
}

Separation::Added Separation::run(const SeparationContext& where, std::int64_t node, RowPool& pool,
                                  Relaxation& relaxation, bool stated_only) {
  if (all_.empty()) return {};
  Added added{pool.bring_in_broken(where.point, relaxation, stated_only), 0};
  if (added.rows > 0) return added;
  for (std::size_t k = 0; k < all_.size(); ++k) {
    if ((stated_only && all_[k]->implied()) || !all_[k]->wants(where)) continue;
    ++tallies_[k].calls;
    found_.clear();
    all_[k]->look(where, found_);
    for (const LinearRow& row : found_) {
      const Index name = pool.add(row, row.local ? node : -1, all_[k]->implied());
      // Rows that the point does not break would bring it back for ever.
      if (pool.in_relaxation(name) || row_violation(pool.view(name), where.point) == 0.0) continue;
      pool.bring_in(name, relaxation);
      ++tallies_[k].steps;
      ++added.rows;
      added.stated += all_[k]->implied() ? 0 : 1;
    }
  }
  return added;
}

}  // namespace kiteknot::mip
