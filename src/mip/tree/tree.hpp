#pragma once
// The tree of a search: what is still open, and the way to it. A node is a list of changes to its
// parent, kept in a slot that is used again once the node is done with and no part of it is open.
// Whoever looks at a node is given the legs of the way that it has not gone yet; nobody else sees
// the tree.

#include <deque>
#include <limits>
#include <memory>
#include <set>
#include <span>
#include <vector>

#include "mip/relaxation/basis_difference.hpp"

namespace kiteknot::mip {

/// The branching on a column that a node came of, for pseudo-costs.
struct Branched {
  Index column = -1;  ///< -1: on something else
  bool up = false;
  double distance = 0.0;
  double parent_goal = 0.0;  ///< the parent's relaxed goal
};

using NodeId = std::int32_t;  ///< the slot of a node that is alive
inline constexpr NodeId kNoNode = -1;

struct Node {
  NodeId parent = kNoNode;
  std::int32_t parts = 0;  ///< of it that are alive
  int depth = 0;
  std::int64_t number = 0;                                  ///< in order of creation, for good
  double bound = -std::numeric_limits<double>::infinity();  ///< no plan below is better; exact
  double estimate = bound;                                  ///< of the best plan below
  std::vector<Change> changes;                              ///< the branching that made it
  Branched branched;
  std::shared_ptr<const BasisDifference> basis;  ///< the parent's last one, shared by its parts
  std::int64_t record = -1;  ///< where it is told (record.hpp), or what is above it
  bool is_recorded = false;
};

/// One leg of the way to a node: what leads to a node from its parent.
struct TreeStep {
  std::int64_t number = 0;
  std::span<const Change> changes;
};

class Tree {
 public:
  /// Its parent, if any, is alive.
  NodeId add(Node node);
  /// The node is done with: it goes unless parts of it are alive, and so do ancestors of which
  /// nothing is left. In a loop: a tree may be deeper than the stack.
  void close(NodeId id);
  [[nodiscard]] const Node& operator[](NodeId id) const { return nodes_[at(id)]; }
  [[nodiscard]] Node& change(NodeId id) { return nodes_[at(id)]; }
  void forget_basis(NodeId id) { nodes_[at(id)].basis.reset(); }
  void raise_bound(NodeId id, double bound);
  [[nodiscard]] std::int64_t alive() const noexcept {
    return static_cast<std::int64_t>(nodes_.size() - free_.size());
  }
  /// The legs to a node that whoever stands on `way` (the numbers of nodes by depth) still has to
  /// go, first things first; returns how many stops of the way remain. O(legs).
  std::size_t legs_to(NodeId id, std::span<const std::int64_t> way,
                      std::vector<TreeStep>& legs) const;

 private:
  std::deque<Node> nodes_;  // what is there does not move when others come
  std::vector<NodeId> free_;
};

/// The open nodes. While there is no plan the node comes first that promises the best one, then the
/// one with the best bound; among equals the deepest, then the newest. Source: Achterberg 2007,
/// chapter 6 (best estimate, best first).
class Frontier {
 public:
  void push(NodeId id, const Node& node);
  NodeId pop();
  /// From now on, and for those that are there. O(size).
  void take_best_bound_first();
  [[nodiscard]] bool best_bound_first() const noexcept { return by_bound_; }
  /// The nodes that would come last, half of all.
  [[nodiscard]] std::vector<NodeId> take_worse_half();
  [[nodiscard]] bool empty() const noexcept { return heap_.empty(); }
  [[nodiscard]] std::size_t size() const noexcept { return heap_.size(); }
  [[nodiscard]] double best_bound() const {
    return by_bound_ ? heap_.front().bound : *bounds_.begin();
  }
  void clear() noexcept {
    heap_.clear();
    bounds_.clear();
  }
  template <class Visit>
  void for_each(const Visit& visit) const {
    for (const Open& o : heap_) visit(o.id);
  }
  /// The heap is one, and all bounds are known.
  void check_invariants() const;

 private:
  struct Open {
    double first;  // what comes first: the least estimate, or bound
    double bound;
    std::int64_t number;
    int depth;
    NodeId id;
  };
  static bool later(const Open& a, const Open& b);
  std::vector<Open> heap_;
  std::multiset<double> bounds_;  // of all that are open, while they come by estimates
  bool by_bound_ = false;
};

}  // namespace kiteknot::mip
