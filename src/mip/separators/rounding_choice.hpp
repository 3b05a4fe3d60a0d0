#pragma once
// Which ends the variables of a combination are measured from, and what it is divided by, so that
// rounding cuts the point off: divisors are coefficients of whole variables between their ends, the
// best of them halved, then whole variables are turned over one by one while that helps. All in
// plain arithmetic; nothing that it decides can make a cut wrong. Source: Marchand and Wolsey 2001,
// "Aggregation and mixed integer rounding to solve MIPs", section 4.

#include "mip/separators/safe_rounding.hpp"

namespace kiteknot::mip {

class RoundingChoice {
 public:
  /// With `divisor` > 0: this one only, and no turning over. Nothing where the point stays.
  std::optional<RoundingPlan> choose(const SumVariables& variables,
                                     const RowCombination& combination, bool negated,
                                     double divisor = 0.0);
  [[nodiscard]] std::int64_t work() const noexcept { return work_; }

 private:
  struct Term {
    Index variable = 0;
    double a = 0.0, t = 0.0, width = 0.0;  // of steps, where it has one
    bool whole = false, from_upper = false;
  };
  bool list_terms(const SumVariables& variables, const RowCombination& combination, double sign);
  [[nodiscard]] double efficacy(double divisor);
  void turn_over(Term& term);
  [[nodiscard]] bool between(const Term& t) const {
    return t.whole && t.t > kApart && t.width - t.t > kApart;
  }

  static constexpr double kApart = 1e-6;
  std::vector<Term> terms_;
  std::vector<std::pair<double, double>> divisors_;
  std::vector<std::pair<double, std::size_t>> turns_;
  double right_ = 0.0;
  std::int64_t work_ = 0;
};

}  // namespace kiteknot::mip
