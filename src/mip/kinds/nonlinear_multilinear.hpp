#pragma once
// Products of three to five columns, seen as one. A product is linear in each factor, so its convex
// and concave envelopes over a box are spanned by the box's corners, and a linear function below it
// at all corners is below it everywhere. The facet at a point is a small linear program over the
// corners; the facet's height is then taken anew at every corner, rounded outward, so that any
// slopes will do. Sources: Rikun 1997, "A convex envelope formula for multilinear functions"; Bao,
// Sahinidis and Tawarmalani 2009, "Multiterm polyhedral relaxations for nonconvex, quadratically
// constrained quadratic programs".

#include "base/interval_functions.hpp"
#include "mip/kinds/nonlinear_terms.hpp"

namespace kiteknot::mip {

struct Multilinear {
  Index value = -1;            ///< is at least (above), at most (below) the product of
  std::vector<Index> factors;  ///< these, each once
  bool above = true, below = true;
};

/// Those that terms make up together: a product of which a factor is itself the value of one.
[[nodiscard]] std::vector<Multilinear> multilinear(const std::vector<NonlinearTerm>& terms);

/// Slopes of the facet of the product's convex envelope over the box at the point, or, `above`
/// false, of the concave one; empty where the box has no ends or the program is not settled.
/// O(2^factors) entries in a linear program.
[[nodiscard]] std::vector<double> facet_slopes(std::span<const Interval> box,
                                               std::span<const double> point, bool above);
/// The greatest h with slopes x + h <= product all over the box, rounded down; `above` false: the
/// least h with slopes x + h >= product, rounded up. O(factors 2^factors).
[[nodiscard]] double facet_height(std::span<const double> slopes, std::span<const Interval> box,
                                  bool above);

}  // namespace kiteknot::mip
