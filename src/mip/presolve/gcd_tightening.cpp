#include <cmath>
#include <numeric>

#include "base/interval.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {

void divide_by_gcd(PresolveModel& model, const PresolveBudget& budget) {
  for (Index i = 0; i < model.num_rows(); ++i) {
    if (budget.spent()) return;
    const PresolveModel::Row& row = model.row(i);
    if (row.gone || row.firm || row.entries.empty()) continue;
    budget.work.add(static_cast<std::int64_t>(row.entries.size()));
    std::int64_t shared = 0;
    for (const Entry& e : row.entries) {
      if (!model.column(e.index).integer || !whole(e.value)) {
        shared = 0;
        break;
      }
      shared = std::gcd(shared, static_cast<std::int64_t>(e.value));
    }
    const auto settled = [](double limit) { return std::isinf(limit) || whole(limit); };
    if (shared == 0 || (shared == 1 && settled(row.lower) && settled(row.upper))) continue;
    // A limit rounded outward would let points in: the next whole value inward, exactly.
    const auto divided = [&](double limit, bool upper) -> std::optional<double> {
      if (std::isinf(limit)) return limit;
      const Rational exact = Rational::exactly(limit) / Rational(static_cast<long long>(shared));
      const double near = (upper ? exact.floor() : exact.ceil()).to_double();
      if (!whole(near)) return std::nullopt;
      return near;
    };
    const auto low = divided(row.lower, false), high = divided(row.upper, true);
    if (!low || !high) continue;
    std::vector<Entry> entries = row.entries;
    for (Entry& e : entries) e.value /= static_cast<double>(shared);
    if (shared > 1) model.set_entries(i, std::move(entries));
    (void)model.set_limits(i, *low, *high);
    if (!model.possible()) return;
  }
}

}  // namespace kiteknot::mip
