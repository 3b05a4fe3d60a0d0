// For who wants to see the search later: its tree, and how the bound moved. Nothing of it changes
// what the search does.

#include <algorithm>

#include "base/outward.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::mip {

void Search::record_new(NodeId id, NodeId parent) {
  if (record_.on()) record_.add(tree_.change(id), parent == kNoNode ? nullptr : &tree_[parent]);
}

// The way to the node that a better plan came of.
void Search::record_plans(NodeId id, double best_before) {
  if (!record_.on() || !(incumbents_.best() < best_before)) return;
  std::vector<Node*> way;
  for (NodeId at = id; at != kNoNode; at = tree_[at].parent) way.push_back(&tree_.change(at));
  std::reverse(way.begin(), way.end());
  record_.found(std::move(way), incumbents_.best());
}

// The bound as it moves, not oftener than a line could show.
void Search::watch_bound() {
  constexpr std::size_t kMost = 4000;
  constexpr double kShare = 0.005;  // of the time gone
  if (!record_.on() || result_.history.size() >= kMost) return;
  const double now = clock_.seconds();
  Standing s = standing(kInf);
  if (!result_.history.empty()) {
    const Standing& last = result_.history.back();
    if (now - last.seconds < kShare * now || (s.bound <= last.bound && s.best >= last.best)) return;
  }
  s.seconds = now;
  result_.history.push_back(std::move(s));
}

// The tree of what presolve left, over the columns as they came.
void Search::take_tree(SearchResult& inner, const PresolveModel::Reduced& left) {
  const double constant = left.constant.to_double();
  for (NodeRecord& node : inner.tree) {
    for (Change& c : node.changes)
      if (c.what != Change::What::condition) c.index = left.postsolve.kept()[at(c.index)];
    node.bound = add_down(node.bound, constant);
    node.best += constant;
    node.left_out_bound += constant;
    if (node.plan) *node.plan += constant;
  }
  result_.tree = std::move(inner.tree);
}

}  // namespace kiteknot::mip
