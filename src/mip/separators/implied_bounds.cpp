#include "mip/separators/implied_bounds.hpp"

#include <cmath>

#include "base/interval.hpp"

namespace kiteknot::mip {

// With s >= u - b rounded up and z the column of l:  l: z = 1   y + s z <= b + s
//                                                    l: z = 0   y - s z <= b
void ImpliedBounds::look(const SeparationContext& where, std::vector<LinearRow>& found) {
  constexpr double kLeastOver = 1e-4;
  const Domain& domain = where.domain;
  for (const Implication& i : where.implied) {
    const Index y = i.column, z = column_of(i.when);
    if (domain.fixed(z) || domain.fixed(y)) continue;
    if (domain.problem().integer(y) && domain.upper(y) - domain.lower(y) <= 1.0)
      continue;  // these are exclusions
    const double own = i.upper ? domain.upper(y) : domain.lower(y);
    if (std::isinf(own) || (i.upper ? own <= i.bound : own >= i.bound)) continue;
    const double holds = is_no(i.when) ? 1.0 - where.point[at(z)] : where.point[at(z)];
    const double limit = i.bound + (own - i.bound) * (1.0 - holds);
    const double over = i.upper ? where.point[at(y)] - limit : limit - where.point[at(y)];
    if (!(over > kLeastOver * (1.0 + std::abs(own)))) continue;
    // From below the same with every sign turned.
    const double sign = i.upper ? 1.0 : -1.0;
    const double b = sign * i.bound, s = add_up(sign * own, -b);
    LinearRow row{
        {{y, sign}, {z, is_no(i.when) ? -s : s}}, -kInf, is_no(i.when) ? b : add_up(b, s), true};
    if (z < y) std::swap(row.entries[0], row.entries[1]);
    found.push_back(std::move(row));
  }
  where.work.add(static_cast<std::int64_t>(where.implied.size()));
}

}  // namespace kiteknot::mip
