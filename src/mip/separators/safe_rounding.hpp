#pragma once
// Mixed-integer rounding, so that what comes out holds exactly. A combination of rows is written in
// distances t >= 0 of its variables from one of their ends; every coefficient is rounded down and
// the right side up, which only weakens sum a_j t_j <= b. For some d > 0 let n = floor(b / d),
// r = b - n d, and n_j, r_j the same of a_j. Then
//   sum_whole (n_j (d - r) + max(0, r_j - r)) t_j + sum_others min(0, a_j) t_j  <=  n (d - r)
// holds for all points with whole values (the usual form is divided by d - r; this one keeps whole
// data whole). Rows' values go back to columns, and what the doubles of the result are off by goes
// into its right side: nothing, where no sum was rounded. Sources: Nemhauser and Wolsey 1990, "A
// recursive procedure to generate all cuts for 0-1 mixed integer programs" (the rounding); Cook,
// Dash, Fukasawa and Goycoolea 2009, "Numerically safe Gomory mixed-integer cuts" (the directions).

#include <optional>

#include "base/interval.hpp"
#include "mip/separators/combination.hpp"

namespace kiteknot::mip {

/// What is decided in plain arithmetic: it may be poor, and never makes a cut wrong.
struct RoundingPlan {
  double divisor = 1.0;
  bool negated = false;           ///< the combination's multipliers times -1
  std::vector<Index> from_upper;  ///< variables that are measured from their upper end
};

/// A row that the relaxed point breaks.
struct Cut {
  LinearRow row;
  double efficacy = 0.0;  ///< distance of the point from the row's hyperplane
};

class SafeRounding {
 public:
  /// Nothing where an end is missing, numbers get too large or too far apart, or the point is not
  /// cut off by at least `least_efficacy`. O(entries of the rows).
  std::optional<Cut> round(const SumVariables& variables, const RowCombination& combination,
                           const RoundingPlan& plan, double least_efficacy);

 private:
  struct Term {
    Index variable = 0;
    double a = 0.0;  // of the distance; rounded down
    double width = 0.0;
    double step = 0.0;
    bool from_upper = false;
  };
  bool list_terms(const SumVariables& variables, const RowCombination& combination,
                  const RoundingPlan& plan);
  bool add_term(const SumVariables& variables, Index variable, const Interval& a, double divisor);
  bool round_terms(double divisor);
  bool back_to_columns(const SumVariables& variables);
  std::optional<Cut> as_row(const SumVariables& variables, double least_efficacy) const;

  std::vector<Interval> sum_;     // by columns; 0 between calls
  std::vector<char> from_upper_;  // by variables; 0 between calls
  std::vector<Index> touched_;    // columns of sum_
  std::vector<char> is_touched_;
  std::vector<Term> terms_;
  std::vector<double> rounded_;  // by terms
  double right_ = 0.0;           // rounded up
};

}  // namespace kiteknot::mip
