// Where the open nodes take too much memory: the worst of them go to disk, and come back when one
// of them is the best.

#include <algorithm>

#include "mip/search/tree_search.hpp"

namespace kiteknot::mip {

void TreeSearch::drop_tree() {
  for (Seat& seat : seats_) seat = {};
  open_.clear();
  tree_ = Tree();
  overflow_.clear();
  root_node_ = kNoNode;
}

// What the tree holds, roughly.
double TreeSearch::tree_bytes() const {
  constexpr double kBytesANode = sizeof(Node) + 96.0;  // with its one change and the open list
  const double nodes = static_cast<double>(tree_.alive()) * kBytesANode;
  const double bases = static_cast<double>(open_.size()) * bases_.bytes /
                       static_cast<double>(std::max<std::int64_t>(bases_.number, 1));
  return nodes + (bases_.on ? bases : 0.0);
}

// Bases go first: nodes can do without. Then the worse half of the open nodes. True where that did
// not help.
bool TreeSearch::out_of_memory() {
  if (tree_bytes() <= options_.memory_bytes) return false;
  if (bases_.on) {
    open_.for_each([&](NodeId id) { tree_.forget_basis(id); });
    bases_.on = false;
    if (tree_bytes() <= options_.memory_bytes) return false;
  }
  if (open_.size() < 2) return false;  // a tree that is one long way
  const std::vector<NodeId> worse = open_.take_worse_half();
  std::vector<Node> away;
  std::vector<TreeStep> legs;
  for (const NodeId id : worse) {
    Node node = tree_[id];
    node.changes.clear();
    (void)tree_.legs_to(id, {}, legs);
    for (const TreeStep& leg : legs)
      node.changes.insert(node.changes.end(), leg.changes.begin(), leg.changes.end());
    node.basis.reset();
    away.push_back(std::move(node));
  }
  if (!overflow_.put(std::move(away))) {
    for (const NodeId id : worse) open_.push(id, tree_[id]);
    return true;
  }
  for (const NodeId id : worse) {
    record_.divided(tree_[id]);  // what comes back is told anew
    tree_.close(id);
  }
  return false;
}

// They come back as parts of the root.
void TreeSearch::bring_back() {
  while (!overflow_.empty() && (open_.empty() || (open_.best_bound_first() &&
                                                  overflow_.best_bound() < open_.best_bound()))) {
    const double bound = overflow_.best_bound();
    if (closes(bound)) return overflow_.clear();  // all of them
    std::vector<Node> nodes = overflow_.take();
    if (nodes.empty()) {
      bounds_.unresolved = std::min(bounds_.unresolved, bound);
      reason_ = "branches that were put on disk could not be read again";
    }
    for (Node& node : nodes) {
      node.parent = root_node_;
      node.parts = 0;
      node.depth = 1;
      const NodeId id = tree_.add(std::move(node));
      record_new(id, root_node_);
      open_.push(id, tree_[id]);
    }
  }
}

}  // namespace kiteknot::mip
