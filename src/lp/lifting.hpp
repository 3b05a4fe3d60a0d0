#pragma once
// Exact solutions of square sparse systems of any size by lifting. The system is brought to whole
// numbers; a factor in doubles serves as approximate inverse, each step gains as many digits as it
// carries, residuals stay whole and exact, and the digits are turned into fractions as soon as an
// exact look at the equations confirms them. Sources: Dixon 1982, "Exact solution of linear
// equations using p-adic expansions"; Wan 2006, "An algorithm to solve integer linear systems
// exactly using numerical methods"; Wang 1981 (fractions from digits); Cook and Steffy 2011,
// "Solving very sparse rational systems of equations" (common denominators).
//
//   M x = b with M = S A, S a diagonal that makes the rows whole
//   step: d = round(2^s M^-1 r), r := 2^s r - M d, x := 2^s x + d;   |r| stays small
//
// Digits are cut off at one place for all unknowns, so where sizes differ much the equations and
// unknowns are first brought to like units by powers of two, shifted up only: whole stays whole.

#include <optional>
#include <vector>

#include <gmpxx.h>

#include "base/work.hpp"
#include "linalg/lu.hpp"

namespace kiteknot::lp {

using linalg::Index;

/// Whole numbers over one denominator > 0.
struct ScaledVector {
  std::vector<mpz_class> numerator;
  mpz_class denominator = 1;
};

struct ExactLimits {
  Index max_kernel = 50'000;
  std::int64_t max_work = 20'000'000'000;  ///< units
  Interrupt interrupt{};
};

class ExactSystem {
 public:
  /// A k x k system of whole numbers, row by row: entries (column, value) in index and value, row r
  /// from start[r] to start[r + 1].
  struct Matrix {
    std::vector<std::size_t> start{0};
    std::vector<Index> column;
    std::vector<mpz_class> value;
    [[nodiscard]] Index size() const noexcept { return static_cast<Index>(start.size()) - 1; }
  };
  /// Factorises in doubles. O(factor).
  explicit ExactSystem(Matrix matrix);
  [[nodiscard]] bool regular() const noexcept { return regular_; }

  /// M x = b, or M' x = b; nothing where the factor carries too few digits or a limit is met.
  /// O(digits of the answer x (factor + entries)). Counts its work.
  std::optional<ScaledVector> solve(const std::vector<mpz_class>& b, bool transposed,
                                    const ExactLimits& limits, WorkCounter& work);

 private:
  void balance();
  std::optional<ScaledVector> lift(const std::vector<mpz_class>& b, bool transposed,
                                   const ExactLimits& limits, WorkCounter& work);
  void approximate(const std::vector<mpz_class>& r, long shift, bool transposed);
  void subtract_product(std::vector<mpz_class>& r, const std::vector<mpz_class>& d,
                        bool transposed) const;
  [[nodiscard]] bool confirmed(const ScaledVector& x, const std::vector<mpz_class>& b,
                               bool transposed) const;

  Matrix matrix_;
  std::vector<unsigned long> row_shift_, column_shift_;  // of the balanced matrix; empty: none
  bool regular_ = false;
  linalg::Lu lu_;
  linalg::WorkVector work_;
  std::vector<double> near_;        // the last approximate solution
  std::vector<long> row_exponent_;  // each row's largest entry is near 2 to this
  std::vector<Index> pivot_row_;    // of each column
};

}  // namespace kiteknot::lp
