#pragma once
// Bound tightening on one row by its activity range, with outward rounding throughout: a bound that
// comes out of it holds in exact arithmetic. Source: Brearley, Mitra, Williams 1975, "Analysis of
// mathematical programming problems prior to applying the simplex algorithm".

#include <span>

#include "base/interval.hpp"
#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

/// The range of a'x over the domain; ends may be infinite.
struct Activity {
  double low = 0.0, high = 0.0;  // the finite parts, rounded outward
  Index infinite_low = 0, infinite_high = 0;
  double peak_low = 0.0, peak_high = 0.0;  // the largest sizes on the way here
};

Activity activity(const RowView& row, const Domain& domain);

/// The range after a bound of one of the row's columns moved inward from `before` to `now`.
void follow_lower(Activity& range, const Interval& a, double before, double now);
void follow_upper(Activity& range, const Interval& a, double before, double now);

/// An entry of a row by how far its column can move the row's value, at the problem's own bounds.
struct Reach {
  float most = 0.0F;
  Index entry = 0;
};

/// Tightens the columns of the row, whose range this is; false where the row cannot be met.
/// `by_reach`: all entries, the farthest first, so that those too short to matter are not looked
/// at; empty: as they come.
[[nodiscard]] bool tighten(const RowView& row, const Activity& range, Domain& domain,
                           std::span<const Reach> by_reach = {});
[[nodiscard]] inline bool tighten(const RowView& row, Domain& domain) {
  return tighten(row, activity(row, domain), domain);
}

/// How far a column may move the row's value before a limit is felt: an entry that reaches less far
/// tells nothing. Negative where an unbounded column may be limited.
[[nodiscard]] double room(const RowView& row, const Activity& range);

/// Whether no point of the domain meets the row.
[[nodiscard]] inline bool out_of_reach(const RowView& row, const Activity& range) {
  return (range.infinite_low == 0 && range.low > row.upper) ||
         (range.infinite_high == 0 && range.high < row.lower);
}

}  // namespace kiteknot::mip
