#pragma once
// Ends that rows imply for columns without a bound: in a row a'x <= U whose other terms cannot fall
// below some activity, what is left bounds the column (Brearley, Mitra and Williams 1975, "Analysis
// of mathematical programming problems prior to applying the simplex method"). Every feasible x
// meets them, so that a safe bound may use them where a column has no end of its own.

#include <vector>

#include "base/at.hpp"
#include "base/work.hpp"
#include "lp/program.hpp"

namespace kiteknot::lp {

class ImpliedEnds {
 public:
  /// Brings the ends up to date. They stay as they are while every bound and limit lies within the
  /// one that they were found from: O(n + m). Else O(nnz) for every time that a row is looked at.
  void update(const Program& program, WorkCounter& work);
  /// After rows or columns have gone.
  void forget() noexcept { from_low_.clear(); }
  /// The column's own bound, or the implied one where it has none; rounded outward.
  [[nodiscard]] double lower(const Program& program, Index j) const;
  [[nodiscard]] double upper(const Program& program, Index j) const;

 private:
  [[nodiscard]] bool still_hold(const Program& program) const;
  bool look_at(const Program& program, Index row, std::vector<Index>& found);

  std::vector<double> from_low_, from_high_;  // n + m: bounds and limits when the ends were found
  std::vector<double> lower_, upper_;         // n
};

}  // namespace kiteknot::lp
