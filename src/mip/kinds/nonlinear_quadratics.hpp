#pragma once
// Sums of squares and products in one row that are convex together, though no product is by itself.
// Their tangents cut off points that the terms one by one let through. Sources: Duran and Grossmann
// 1986, "An outer-approximation algorithm for a class of mixed-integer nonlinear programs"; Quesada
// and Grossmann 1992, "An LP/NLP based branch and bound algorithm for convex MINLP".

#include "base/interval_functions.hpp"
#include "mip/kinds/nonlinear_terms.hpp"

namespace kiteknot::mip {

/// sum of weight x value over terms, held from below by q(x) = sum of weight x (product), where
/// q(x) + shift |x|^2 is convex for certain.
struct ConvexForm {
  struct Part {
    Index term = -1;  ///< a square or a product
    double weight = 0.0;
  };
  std::vector<Part> parts;
  std::vector<Index> columns;
  double shift = 0.0;
};

/// Those of the problem's rows and goal, each connected, with two columns or more: the matrix plus
/// a small diagonal has a Cholesky factor in doubles, and what rounding may hide in one is bounded
/// (Rump 2006, "Verification of positive definiteness"; Higham 2002, "Accuracy and Stability of
/// Numerical Algorithms", theorem 10.5). O(entries + columns of a form, cubed, up to a limit).
[[nodiscard]] std::vector<ConvexForm> convex_forms(const Problem& problem,
                                                   const std::vector<NonlinearTerm>& terms);

/// The tangent at the point, which holds for the problem's ranges: its slopes by choice, its height
/// by proof. False: the point does not break it by `least` relative to the form.
[[nodiscard]] bool tangent_row(const ConvexForm& form, const std::vector<NonlinearTerm>& terms,
                               const Problem& problem, std::span<const double> point, double least,
                               LinearRow& row);

}  // namespace kiteknot::mip
