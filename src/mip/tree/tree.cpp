#include "mip/tree/tree.hpp"

#include <algorithm>

#include "base/check.hpp"

namespace kiteknot::mip {

NodeId Tree::add(Node node) {
  if (node.parent != kNoNode) ++nodes_[at(node.parent)].parts;
  if (free_.empty()) {
    nodes_.push_back(std::move(node));
    return static_cast<NodeId>(nodes_.size()) - 1;
  }
  const NodeId id = free_.back();
  free_.pop_back();
  nodes_[at(id)] = std::move(node);
  return id;
}

void Tree::close(NodeId id) {
  while (id != kNoNode && nodes_[at(id)].parts == 0) {
    Node& node = nodes_[at(id)];
    const NodeId parent = node.parent;
    node.basis.reset();
    node.changes = {};
    free_.push_back(id);
    if (parent != kNoNode) --nodes_[at(parent)].parts;
    id = parent;
  }
}

void Tree::raise_bound(NodeId id, double bound) {
  nodes_[at(id)].bound = std::max(nodes_[at(id)].bound, bound);
}

std::size_t Tree::legs_to(NodeId id, std::span<const std::int64_t> way,
                          std::vector<TreeStep>& legs) const {
  legs.clear();
  const auto passed = [&](const Node& n) {
    const auto depth = static_cast<std::size_t>(n.depth);
    return depth < way.size() && way[depth] == n.number;
  };
  for (; id != kNoNode && !passed(nodes_[at(id)]); id = nodes_[at(id)].parent)
    legs.push_back({nodes_[at(id)].number, nodes_[at(id)].changes});
  std::reverse(legs.begin(), legs.end());
  return id == kNoNode ? 0 : static_cast<std::size_t>(nodes_[at(id)].depth) + 1;
}

bool Frontier::later(const Open& a, const Open& b) {
  if (a.first != b.first) return a.first > b.first;
  if (a.depth != b.depth) return a.depth < b.depth;
  return a.number < b.number;
}

void Frontier::push(NodeId id, const Node& node) {
  heap_.push_back({by_bound_ ? node.bound : std::max(node.bound, node.estimate), node.bound,
                   node.number, node.depth, id});
  std::push_heap(heap_.begin(), heap_.end(), later);
  if (!by_bound_) bounds_.insert(node.bound);
}

NodeId Frontier::pop() {
  std::pop_heap(heap_.begin(), heap_.end(), later);
  const Open open = heap_.back();
  heap_.pop_back();
  if (!by_bound_) bounds_.erase(bounds_.find(open.bound));
  return open.id;
}

void Frontier::take_best_bound_first() {
  by_bound_ = true;
  bounds_.clear();
  for (Open& o : heap_) o.first = o.bound;
  std::make_heap(heap_.begin(), heap_.end(), later);
}

std::vector<NodeId> Frontier::take_worse_half() {
  const std::size_t stay = (heap_.size() + 1) / 2;
  const auto middle = heap_.begin() + static_cast<std::ptrdiff_t>(stay);
  std::nth_element(heap_.begin(), middle, heap_.end(),
                   [](const Open& a, const Open& b) { return later(b, a); });
  std::vector<NodeId> worse;
  for (auto it = middle; it != heap_.end(); ++it) {
    worse.push_back(it->id);
    if (!by_bound_) bounds_.erase(bounds_.find(it->bound));
  }
  heap_.resize(stay);
  std::make_heap(heap_.begin(), heap_.end(), later);
  return worse;
}

void Frontier::check_invariants() const {
  KITEKNOT_CHECK(std::is_heap(heap_.begin(), heap_.end(), later), "the best node comes first");
  KITEKNOT_CHECK(bounds_.size() == (by_bound_ ? 0 : heap_.size()), "every bound is known");
}

}  // namespace kiteknot::mip
