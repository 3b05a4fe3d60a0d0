#pragma once
// Flows of least cost by the network simplex method: the basis is a spanning tree, a pivot changes
// the flow around one cycle. Trees are kept strongly feasible (from every node some flow can still
// go up to the root), so that no cycling happens. Plain arrays; no model. Sources: Dantzig 1951,
// "Application of the simplex method to a transportation problem"; Cunningham 1976, "A network
// simplex method"; Ahuja, Magnanti and Orlin 1993, "Network flows", chapter 11.

#include <optional>
#include <vector>

#include "base/work.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

/// One arc: what it carries leaves `from` and comes to `to`. Ends of its box may be infinite.
struct Arc {
  Index from = 0, to = 0;
  double lower = 0.0, upper = 0.0, cost = 0.0;
};

struct FlowTree {
  enum class Place : signed char { tree, at_lower, at_upper, at_zero };
  std::vector<Place> place;   ///< by arcs
  std::vector<double> flow;   ///< by arcs
  std::vector<char> outside;  ///< by nodes: what ties it to the tree is no arc; carries nothing
  std::int64_t pivots = 0;
};

/// The cheapest circulation (as much leaves every node as comes in) over `nodes` nodes, the last of
/// which is the root. Nothing where there is none, none is cheapest, or the work ends. Bounds are
/// whole: then so are flows, exactly, up to 2^53. O(arcs) a pricing block and O(nodes) a pivot.
std::optional<FlowTree> cheapest_flow(Index nodes, const std::vector<Arc>& arcs,
                                      std::int64_t most_work, WorkCounter& work);

}  // namespace kiteknot::structures
