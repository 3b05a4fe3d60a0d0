#pragma once
// Ends that rows imply for columns without a bound: in a row a'x <= U whose other terms cannot fall
// below some activity, what is left bounds the column (Brearley, Mitra and Williams 1975, "Analysis
// of mathematical programming problems prior to applying the simplex method"). Every feasible x
// meets them, so that a safe bound may use them where a column has no end of its own.
//
// Where rows alone leave a column without, the goal is one more row: c'x <= K for a generous K. A
// bound b from such ends says that every feasible x has a goal of at least min(b, K), which is as
// good as b while K is above it; so no exact arithmetic is needed for amounts that only cost.

#include <limits>
#include <span>
#include <vector>

#include "base/at.hpp"
#include "base/work.hpp"
#include "lp/program.hpp"

namespace kiteknot::lp {

class ImpliedEnds {
 public:
  /// Brings the ends up to date, for goals about `reach`. They stay as they are while every bound
  /// and limit lies within the one that they were found from: O(n + m). Else O(nnz) for every time
  /// that a row is looked at.
  void update(const Program& program, double reach, WorkCounter& work);
  /// K; infinite where rows alone gave what there is.
  [[nodiscard]] double goal_limit() const noexcept { return goal_limit_; }
  /// After rows or columns have gone.
  void forget() noexcept { from_low_.clear(); }
  /// After a cost has changed: ends that rest on the goal no longer hold.
  void forget_goal() noexcept {
    if (goal_limit_ < std::numeric_limits<double>::infinity()) forget();
  }
  /// The column's own bound, or the implied one where it has none; rounded outward.
  [[nodiscard]] double lower(const Program& program, Index j) const;
  [[nodiscard]] double upper(const Program& program, Index j) const;

 private:
  /// A row, or the goal.
  struct Sum {
    std::span<const Index> index;
    std::span<const double> value;
    bool exact = true;
    double low = 0.0, high = 0.0;
  };
  [[nodiscard]] bool still_hold(const Program& program, double reach) const;
  [[nodiscard]] bool all_there(const Program& program) const;
  void look_at_rows(const Program& program, std::vector<Index> rows, WorkCounter& work);
  void look_at_goal(const Program& program, double reach, WorkCounter& work);
  bool look_at(const Sum& sum, std::vector<Index>& found);

  std::vector<double> from_low_, from_high_;  // n + m: bounds and limits when the ends were found
  std::vector<double> lower_, upper_;         // n
  double goal_limit_ = std::numeric_limits<double>::infinity();
};

}  // namespace kiteknot::lp
