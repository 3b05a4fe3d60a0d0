#pragma once
// Problems that are networks of flows as a whole: every column stands in at most two rows, as what
// leaves one and comes to the other. Their relaxation has whole corners (Hoffman and Kruskal 1956),
// and its best basis is a spanning tree, found by an algorithm of its own: shortest augmenting
// paths where it is an assignment, the network simplex method elsewhere. The linear engine starts
// from that basis and says all the rest: whatever the tree was found with, answers rest on it
// alone.

#include <optional>
#include <string_view>

#include "lp/simplex.hpp"
#include "mip/problem/problem.hpp"
#include "structures/flow.hpp"

namespace kiteknot::mip {

struct NetworkStart {
  std::string_view structure;  ///< "assignment" or "network of flows"
  std::string_view method;     ///< as answers tell it
  lp::Basis basis;
};

/// The arcs of a problem that is a network: its columns in order, then what its rows may take, each
/// from or to the root (the last node, after the rows). Nothing where it is not exactly one: rows
/// are scaled and turned round where that makes their entries 1 and -1.
std::optional<std::vector<structures::Arc>> as_network(const Problem& problem);

/// The best basis of such a problem; nothing where there is none, or it has fewer columns:
/// then the linear engine alone is as fast.
std::optional<NetworkStart> network_start(const Problem& problem, Index least_columns,
                                          WorkCounter& work);

}  // namespace kiteknot::mip
