#pragma once
// The last plans of a node, one after the other. With a bound B on the relaxed goal and reduced
// costs d, a plan x costs at least B + sum of |d_j| for every step of x_j away from the side of its
// box where d_j x_j is least. Few points stay below the best plan when the gap is small; they are
// visited by adding steps in the order of their price, with rows that can no longer be met pruned.
// Source: reduced-cost fixing (Dantzig, Fulkerson, Johnson 1954) carried on to sets of columns, as
// in the list of Sweeney and Murphy 1979, "A method of decomposition for integer programs".

#include <span>
#include <vector>

#include "base/interval.hpp"
#include "base/work.hpp"
#include "mip/domain/domain.hpp"
#include "mip/heuristics/point_receiver.hpp"

namespace kiteknot::mip {

/// Reduced costs of a node's relaxation.
struct NodePrices {
  std::span<const Interval> reduced;  ///< enclosures
  const lp::Program* box = nullptr;   ///< whose column bounds they belong to
};

/// Offers every point of the domain that meets the rows, with steps of no more than
/// `receiver.room()` in price and a goal below `receiver.below()`. False where some were left out:
/// there are too many (at most `most` points are visited), or the problem has more than linear rows
/// of whole figures over whole columns.
bool enumerate(const Problem& problem, const Domain& domain, const NodePrices& prices,
               PointReceiver& receiver, std::int64_t most, WorkCounter& work);

}  // namespace kiteknot::mip
