#pragma once
// Bound tightening on one row by its activity range, with outward rounding throughout: a bound that
// comes out of it holds in exact arithmetic. Source: Brearley, Mitra, Williams 1975, "Analysis of
// mathematical programming problems prior to applying the simplex algorithm".

#include <span>

#include "mip/domain.hpp"

namespace kiteknot::mip {

struct RowView {
  std::span<const Index> index;
  std::span<const double> value;
  double lower = 0.0, upper = 0.0;
  bool exact = true;
};

/// The range of a'x over the domain; ends may be infinite.
struct Activity {
  double low = 0.0, high = 0.0;  // the finite parts, rounded outward
  Index infinite_low = 0, infinite_high = 0;
};

Activity activity(const RowView& row, const Domain& domain);

/// Tightens the columns of the row; false where the row cannot be met.
[[nodiscard]] bool tighten(const RowView& row, Domain& domain);

/// Whether the row cannot be met by any point of the domain.
[[nodiscard]] bool out_of_reach(const RowView& row, const Domain& domain);

}  // namespace kiteknot::mip
