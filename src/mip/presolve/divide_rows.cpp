#include <cmath>
#include <numeric>

#include "base/interval.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {

void divide_rows(Draft& draft, const Means& means) {
  for (Index i = 0; i < draft.num_rows(); ++i) {
    if (means.spent()) return;
    const Draft::Row& row = draft.row(i);
    if (row.gone || row.firm || row.entries.empty()) continue;
    means.work.add(static_cast<std::int64_t>(row.entries.size()));
    std::int64_t shared = 0;
    for (const Entry& e : row.entries) {
      if (!draft.column(e.index).integer || !whole(e.value)) {
        shared = 0;
        break;
      }
      shared = std::gcd(shared, static_cast<std::int64_t>(e.value));
      if (shared == 1) break;
    }
    if (shared == 0) continue;
    // Limits are rounded where dividing them is: whole figures, or the division rounded outward.
    const auto by = static_cast<double>(shared);
    const double lower = std::ceil(divide_down(std::isfinite(row.lower) ? row.lower : 0.0, by));
    const double upper = std::floor(divide_up(std::isfinite(row.upper) ? row.upper : 0.0, by));
    std::vector<Entry> entries = row.entries;
    for (Entry& e : entries) e.value /= by;
    const double low = std::isfinite(row.lower) ? lower : row.lower;
    const double high = std::isfinite(row.upper) ? upper : row.upper;
    if (shared > 1) draft.set_entries(i, std::move(entries));
    (void)draft.set_limits(i, low, high);
    if (!draft.possible()) return;
  }
}

}  // namespace kiteknot::mip
