#pragma once
// The open nodes of the search. A node is a list of changes to its parent; the way from the root is
// followed through the parents.

#include <memory>
#include <vector>

#include "lp/simplex.hpp"
#include "mip/domain.hpp"

namespace kiteknot::mip {

struct Node {
  std::shared_ptr<const Node> parent;
  std::vector<Change> changes;  ///< the branching that made this node
  double bound = 0.0;           ///< no plan below this node is better; exact
  int depth = 0;
  std::int64_t number = 0;                 ///< in order of creation
  std::shared_ptr<const lp::Basis> basis;  ///< the parent's last one, shared by its children
  // For pseudo-costs: the column branched on (-1: none), its distance and the parent's relaxed
  // goal.
  Index column = -1;
  bool up = false;
  double distance = 0.0;
  double parent_goal = 0.0;

  /// All changes from the root on, oldest first.
  [[nodiscard]] std::vector<Change> path() const;
};

/// Best bound first; among equals the deepest, then the newest.
class OpenNodes {
 public:
  void push(std::shared_ptr<Node> node);
  std::shared_ptr<Node> pop();
  [[nodiscard]] bool empty() const noexcept { return heap_.empty(); }
  [[nodiscard]] std::size_t size() const noexcept { return heap_.size(); }
  [[nodiscard]] double best_bound() const { return heap_.front()->bound; }

 private:
  std::vector<std::shared_ptr<Node>> heap_;
};

}  // namespace kiteknot::mip
