#include "mip/search/tree_record.hpp"

#include <algorithm>

#include "base/at.hpp"

namespace kiteknot::mip {

std::int64_t TreeRecord::write(const Node& node, std::int64_t parent) {
  NodeRecord record;
  record.parent = parent;
  record.changes = node.changes;
  record.bound = node.bound;
  nodes_.push_back(std::move(record));
  return static_cast<std::int64_t>(nodes_.size()) - 1;
}

void TreeRecord::add(Node& node, const Node* parent) {
  if (!on()) return;
  const std::int64_t above = parent == nullptr ? -1 : parent->record;
  node.is_recorded = nodes_.size() < most_ && (parent == nullptr || parent->is_recorded);
  node.record = node.is_recorded ? write(node, above) : above;
  if (!node.is_recorded && above >= 0) ++nodes_[at(above)].left_out;
}

void TreeRecord::looked_at(const Node& node, double bound) {
  if (!on() || node.record < 0) return;
  NodeRecord& record = nodes_[at(node.record)];
  ++looks_;
  if (!node.is_recorded) {
    record.left_out_bound =
        record.left_out_looks++ == 0 ? bound : std::min(record.left_out_bound, bound);
    return;
  }
  if (record.look == 0) record.look = looks_;
  record.bound = bound;
}

void TreeRecord::closed(const Node& node, ClosedBy by, double best) {
  if (!node.is_recorded) return;
  NodeRecord& record = nodes_[at(node.record)];
  record.closed = by;
  record.best = best;
}

void TreeRecord::divided(const Node& node) {
  if (node.is_recorded) nodes_[at(node.record)].divided = true;
}

void TreeRecord::found(std::vector<Node*> way, double goal) {
  if (!on()) return;
  constexpr std::size_t kMore = 2;  // times as many, with ways to plans
  for (Node* node : way) {
    if (node->is_recorded || node->record < 0) continue;
    if (nodes_.size() >= kMore * most_) break;
    const std::int64_t above = node->record;
    node->record = write(*node, above);
    node->is_recorded = true;
    --nodes_[at(above)].left_out;
    nodes_.back().divided = node != way.back();
    // The rest of the way is below it from now on; what else was counted above stays there.
    for (Node* later : way) {
      if (later->is_recorded || later->record != above) continue;
      later->record = node->record;
      --nodes_[at(above)].left_out;
      ++nodes_[at(node->record)].left_out;
    }
  }
  if (way.empty() || !way.back()->is_recorded) return;
  NodeRecord& record = nodes_[at(way.back()->record)];
  record.plan = goal;
}

}  // namespace kiteknot::mip
