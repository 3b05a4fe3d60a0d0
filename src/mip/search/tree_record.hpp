#pragma once
// The tree of a search as it is told later: on request only, and no more nodes than were asked for.
// What finds no room is counted at the nearest node above it that is there, but for the way to each
// better plan, which is always written out.

#include <optional>
#include <vector>

#include "mip/interface/result.hpp"
#include "mip/tree/tree.hpp"

namespace kiteknot::mip {

class TreeRecord {
 public:
  /// 0: nothing is recorded.
  explicit TreeRecord(std::size_t most) : most_(most) {}
  [[nodiscard]] bool on() const noexcept { return most_ > 0; }
  /// Sets the node's record: its own, or that of the nearest node above it.
  void add(Node& node, const Node* parent);
  /// The node was looked at and has this bound.
  void looked_at(const Node& node, double bound);
  void closed(const Node& node, ClosedBy by, double best);
  void divided(const Node& node);
  /// A better plan came of the node. `way`: from the root's child down to it.
  void found(std::vector<Node*> way, double goal);
  [[nodiscard]] std::vector<NodeRecord> take() { return std::move(nodes_); }
  void clear() {
    nodes_.clear();
    looks_ = 0;
  }

 private:
  std::int64_t write(const Node& node, std::int64_t parent);
  std::size_t most_;
  std::vector<NodeRecord> nodes_;
  std::int64_t looks_ = 0;
};

}  // namespace kiteknot::mip
