#pragma once
// Pairs in any graph: edges of which no two meet, of the greatest weight together. Odd rings are
// shrunk to one node while paths are looked for, and prices on nodes and rings prove that nothing
// is heavier (Edmonds 1965, "Maximum matching and a polyhedron with 0,1-vertices"; the form with
// one search from all free nodes: Galil 1986, "Efficient algorithms for finding maximum matching in
// graphs"). Whole weights; everything is exact.

#include <cstdint>
#include <optional>
#include <vector>

#include "base/work.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct Edge {
  Index a = 0, b = 0;       ///< not the same
  std::int64_t weight = 0;  ///< at most 2^60 over the number of nodes
};

/// By node its edge, or -1; edges below 0 are never taken. Nothing where the work ended.
/// O(edges nodes^2) at worst, in practice about edges times free nodes.
std::optional<std::vector<Index>> heaviest_pairs(Index nodes, const std::vector<Edge>& edges,
                                                 WorkCounter& work);

/// The heaviest edge between free nodes, again and again: at least half of the best (Avis 1983, "A
/// survey of heuristics for the weighted matching problem"). O(edges log edges).
std::vector<Index> pairs_by_weight(Index nodes, const std::vector<Edge>& edges);

}  // namespace kiteknot::structures
