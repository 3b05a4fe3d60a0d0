#pragma once

#include <memory>
#include <span>
#include <vector>

#include "mip/problem/rows.hpp"

namespace kiteknot {
class Mark;  // base/mark.hpp
}

namespace kiteknot::mip {

/// Adds rows when a point breaks them: rows that every plan satisfies, or (`local`) every plan
/// below the node that the point is of.
class RowGenerator {
 public:
  virtual ~RowGenerator() = default;
  [[nodiscard]] virtual bool wants_fractions() const = 0;
  /// `point` has one value a column; `integral`: all integer columns are within rounding of
  /// integers, and the point will be taken as a plan unless a row is added.
  virtual std::vector<LinearRow> look(std::span<const double> point, bool integral) = 0;
  /// Another one that adds the same rows and may be asked on another thread; null: there is none.
  [[nodiscard]] virtual std::shared_ptr<RowGenerator> twin() const { return nullptr; }
  /// As ConstraintKind::mark.
  [[nodiscard]] virtual bool mark(Mark& mark) const {
    (void)mark;
    return false;
  }
};

}  // namespace kiteknot::mip
