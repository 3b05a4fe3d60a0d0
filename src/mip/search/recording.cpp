// For who wants to see the search later: its tree, and how the bound moved. Nothing of it changes
// what the search does.

#include <algorithm>

#include "mip/search/tree_search.hpp"

namespace kiteknot::mip {

void TreeSearch::record_new(NodeId id, NodeId parent) {
  if (record_.on()) record_.add(tree_.change(id), parent == kNoNode ? nullptr : &tree_[parent]);
}

// The way to the node that a better plan came of.
void TreeSearch::record_plans(NodeId id, double best_before) {
  if (!record_.on() || !(context_.incumbents.best() < best_before)) return;
  std::vector<Node*> way;
  for (NodeId at = id; at != kNoNode; at = tree_[at].parent) way.push_back(&tree_.change(at));
  std::reverse(way.begin(), way.end());
  record_.found(std::move(way), context_.incumbents.best());
}

// The bound as it moves, not oftener than a line could show.
void TreeSearch::watch_bound() {
  constexpr std::size_t kMost = 4000;
  constexpr double kShare = 0.005;  // of the time gone
  if (!record_.on() || context_.history.size() >= kMost) return;
  const double now = context_.clock.seconds();
  Standing s = standing();
  if (!context_.history.empty()) {
    const Standing& last = context_.history.back();
    if (now - last.seconds < kShare * now || (s.bound <= last.bound && s.best >= last.best)) return;
  }
  s.seconds = now;
  context_.history.push_back(std::move(s));
}

}  // namespace kiteknot::mip
