#pragma once
// Open nodes for which there is no room in memory: they wait in a file that nobody else sees, in
// blocks of about equal bounds, and come back when one of theirs is the best. What leads to a node
// from the root is written out in full; its basis is not kept.

#include <cstdio>
#include <memory>
#include <optional>
#include <vector>

#include "mip/tree/tree.hpp"

namespace kiteknot::mip {

class Overflow {
 public:
  /// Nodes with all changes from the root. False where the disk takes no more: then none of them
  /// is there.
  [[nodiscard]] bool put(std::vector<Node> nodes);
  /// The block with the best bound; empty where it cannot be read.
  [[nodiscard]] std::vector<Node> take();
  /// All nodes; they stay. Nothing: they cannot be read.
  [[nodiscard]] std::optional<std::vector<Node>> all();
  [[nodiscard]] bool empty() const noexcept { return blocks_.empty(); }
  [[nodiscard]] std::int64_t size() const noexcept { return size_; }
  /// Of all that is there; infinity: nothing is.
  [[nodiscard]] double best_bound() const;
  void clear();
  /// How many nodes were ever put here.
  [[nodiscard]] std::int64_t ever() const noexcept { return ever_; }

 private:
  struct Block {
    double bound;
    long place;
    std::size_t nodes;
  };
  struct Close {
    void operator()(std::FILE* file) const { std::fclose(file); }
  };
  [[nodiscard]] std::size_t best() const;
  [[nodiscard]] bool write(const Node& node);
  [[nodiscard]] bool read(Node& node);

  std::unique_ptr<std::FILE, Close> file_;  // goes when it is closed
  std::vector<Block> blocks_;
  std::int64_t size_ = 0, ever_ = 0;
};

}  // namespace kiteknot::mip
