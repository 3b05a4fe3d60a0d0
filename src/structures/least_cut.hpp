#pragma once
// The cheapest cut between two nodes of a network: arcs from the side of one to the side of the
// other. Found from a greatest flow, pushed from node to node by heights (Goldberg and Tarjan 1988,
// "A new approach to the maximum-flow problem"; heights set anew from time to time, and nodes above
// a gap left alone: Cherkassky and Goldberg 1997). Whole capacities; the flow proves the cut.

#include <cstdint>
#include <optional>
#include <vector>

#include "base/work.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct CutArc {
  Index from = 0, to = 0;
  std::int64_t capacity = 0;  ///< from 0 up; the sum of all at most 2^62
};
struct LeastCut {
  std::vector<char> beside;   ///< by node: 1 on the side of `from`
  std::int64_t capacity = 0;  ///< of the arcs from that side to the other
};
/// Nothing where the work ended. O(nodes^2 sqrt(arcs)) at worst.
std::optional<LeastCut> least_cut(Index nodes, const std::vector<CutArc>& arcs, Index from,
                                  Index to, WorkCounter& work);

}  // namespace kiteknot::structures
