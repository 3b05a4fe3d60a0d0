#pragma once
// What a constraint says of a conclusion of its own: which bounds it followed from. Conflict
// analysis collects it.

#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

class Explanation {
 public:
  virtual ~Explanation() = default;
  /// The bound, or the state of a condition, that it needed; false: that did not hold.
  virtual bool needs(const Change& bound) = 0;
  bool needs(ConditionLiteral when) {
    return needs({Change::What::condition, when.condition, when.holds ? 1.0 : 0.0});
  }
  /// Few bounds with which the row leaves nothing beyond the bound that was concluded, or, null,
  /// nothing at all; false: none suffice.
  virtual bool needs_row(const RowView& row, const Change* concluded) = 0;
  /// A column's bound as it was then.
  [[nodiscard]] virtual double bound(Index column, bool upper) const = 0;
};

}  // namespace kiteknot::mip
