#pragma once
// A tree over the nodes of a graph, such that the least leg on the way between two nodes is the
// least cut between them, and taking it out shows the two sides. Source: Gomory and Hu 1961,
// "Multi-terminal network flows", in the form of Gusfield 1990, "Very simple methods for all pairs
// network flow analysis"; flows along shortest paths by levels (Dinic 1970).

#include <vector>

#include "base/at.hpp"
#include "base/infinity.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures::tours {

using linalg::Index;

struct CutTree {
  std::vector<Index> parent;  ///< by nodes; -1: the root, node 0
  std::vector<double> least;  ///< of the cut towards it
};

/// Legs with what they carry, both ways or one way.
class FlowGraph {
 public:
  explicit FlowGraph(Index nodes) : arcs_(at(nodes)) {}
  void add(Index a, Index b, double carries) { add(a, b, carries, carries); }
  void add_one_way(Index from, Index to, double carries) { add(from, to, carries, 0.0); }
  [[nodiscard]] Index size() const noexcept { return static_cast<Index>(arcs_.size()); }
  /// The least cut between two nodes; `from_side` by nodes: on the side of `from`.
  /// Where it is `enough`, that is the answer, and the sides say nothing.
  double least_cut(Index from, Index to, std::vector<char>& from_side, double enough = kInf);
  /// size() - 1 flows; for legs that carry both ways. Cuts of at least `enough` are not told apart:
  /// `least` is `enough` there, and what they part need not be a least cut.
  CutTree cut_tree(double enough = kInf);

 private:
  struct Half {
    Index to = 0;
    Index back = 0;  // of arcs_[to]
    double carries = 0.0, left = 0.0;
  };
  void add(Index a, Index b, double there, double back);
  bool find_levels(Index from, Index to);
  double push(Index v, Index to, double most);
  std::vector<std::vector<Half>> arcs_;
  std::vector<Index> level_, queue_;
  std::vector<std::size_t> next_;
  std::vector<Half*> used_;  // of which something was taken
};

}  // namespace kiteknot::structures::tours
