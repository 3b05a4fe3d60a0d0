#pragma once
// The open nodes of the search. A node is a list of changes to its parent; the way from the root is
// followed through the parents, from the nearest one at which the search stands already (Way).

#include <memory>
#include <vector>

#include "mip/relaxation/row_pool.hpp"

namespace kiteknot::mip {

struct Node {
  /// `alive` counts the nodes there are; it outlives them.
  explicit Node(std::int64_t& alive) : alive_(&alive) { ++alive; }
  /// Ancestors that nobody else holds go one after the other: a tree may be deeper than the stack.
  ~Node();
  Node(const Node&) = delete;
  Node& operator=(const Node&) = delete;

  std::shared_ptr<Node> parent;
  std::vector<Change> changes;  ///< the branching that made this node
  double bound = 0.0;           ///< no plan below this node is better; exact
  int depth = 0;
  std::int64_t number = 0;                 ///< in order of creation
  std::shared_ptr<const NodeBasis> basis;  ///< the parent's last one, shared by its children
  // For pseudo-costs: the column branched on (-1: none), its distance and the parent's relaxed
  // goal.
  Index column = -1;
  bool up = false;
  double distance = 0.0;
  double parent_goal = 0.0;

 private:
  std::int64_t* alive_;
};

/// Best bound first; among equals the deepest, then the newest.
class OpenNodes {
 public:
  void push(std::shared_ptr<Node> node);
  std::shared_ptr<Node> pop();
  [[nodiscard]] bool empty() const noexcept { return heap_.empty(); }
  [[nodiscard]] std::size_t size() const noexcept { return heap_.size(); }
  [[nodiscard]] double best_bound() const { return heap_.front()->bound; }
  /// Lets go of the bases that nodes would start from; they start from the one at hand then.
  void drop_bases();
  /// The heap is one.
  void check_invariants() const;

 private:
  std::vector<std::shared_ptr<Node>> heap_;
};

/// Where the domain stands: the nodes from the root to the present one, each with the length of the
/// domain's trail when the search left it for a part of it.
class Way {
 public:
  /// The node was divided with the trail at this length. Its parent is the last on the way.
  void leave(std::shared_ptr<Node> node, std::size_t mark);
  /// Brings the domain, which went this way, to `node`'s changes; false on a conflict. O(steps from
  /// the nearest common ancestor). `root_mark` is where the domain stands at no node at all.
  [[nodiscard]] bool go_to(const std::shared_ptr<Node>& node, std::size_t root_mark,
                           Domain& domain);
  void clear() noexcept { stops_.clear(); }
  /// Whether the node of this number is on it.
  [[nodiscard]] bool passes(std::int64_t number) const;
  /// Every stop is the next one's parent, and the trail only grew on the way.
  void check_invariants() const;

 private:
  struct Stop {
    std::shared_ptr<Node> node;
    std::size_t mark = 0;
  };
  std::vector<Stop> stops_;  // by depth
};

}  // namespace kiteknot::mip
