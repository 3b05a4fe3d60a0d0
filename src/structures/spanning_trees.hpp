#pragma once
// The tree of least cost that reaches all nodes along arcs out of a root (Chu and Liu 1965, "On the
// shortest arborescence of a directed graph"; Edmonds 1967, "Optimum branchings"; rings are
// contracted, the arcs into them in mergeable heaps: Gabow, Galil, Spencer and Tarjan 1986). An
// edge is two arcs: the tree is then the shortest of the graph. Whole costs; everything is exact.

#include <cstdint>
#include <optional>
#include <vector>

#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct CostArc {
  Index from = 0, to = 0;
  std::int64_t cost = 0;
};
/// By node the arc into it (-1: the root); nothing where not all can be reached.
/// O(arcs log nodes).
std::optional<std::vector<Index>> least_branching(Index nodes, const std::vector<CostArc>& arcs,
                                                  Index root);

}  // namespace kiteknot::structures
