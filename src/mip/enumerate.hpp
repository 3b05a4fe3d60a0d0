#pragma once
// The last plans of a node, one after the other. With a bound B on the relaxed goal and reduced
// costs d, a plan x costs at least B + sum of |d_j| for every step of x_j away from the side of its
// box where d_j x_j is least. Few points stay below the best plan when the gap is small; they are
// visited by adding steps in the order of their price, with rows that can no longer be met pruned.
// Source: reduced-cost fixing (Dantzig, Fulkerson, Johnson 1954) carried on to sets of columns, as
// in the list of Sweeney and Murphy 1979, "A method of decomposition for integer programs".

#include <optional>
#include <span>
#include <vector>

#include "base/interval.hpp"
#include "base/work.hpp"
#include "mip/domain.hpp"

namespace kiteknot::mip {

/// Where a node's relaxation stands.
struct NodeBound {
  double bound = 0.0;                 ///< on the goal within the box, exact
  std::span<const Interval> reduced;  ///< enclosures of the reduced costs under it
  const lp::Program* box = nullptr;   ///< whose column bounds they belong to
};

struct Enumerated {
  bool complete = false;                      ///< nothing below the best was left out
  std::optional<std::vector<double>> better;  ///< the best point below `best`, if there is one
};

/// All points of the domain with a goal of at most best - step, `step` being the goal's. Not
/// complete where there are too many, or for problems of more than linear rows of whole figures
/// over whole columns. At most `most` points are visited.
Enumerated enumerate(const Problem& problem, const Domain& domain, const NodeBound& node,
                     double best, std::int64_t most, WorkCounter& work);

}  // namespace kiteknot::mip
