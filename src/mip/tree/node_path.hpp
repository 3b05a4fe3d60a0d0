#pragma once
// Where a domain stands: the nodes from the root to the last one that was divided, each with the
// length of the domain's trail when the search left it for a part of it.

#include <cstdint>
#include <span>
#include <vector>

#include "mip/tree/tree.hpp"

namespace kiteknot::mip {

class NodePath {
 public:
  /// The node below the last stop was divided with the trail at this length.
  void leave(std::int64_t number, std::size_t mark) {
    numbers_.push_back(number);
    marks_.push_back(mark);
  }
  /// Back to the first `stops`, and along the legs; the last one's node is not a stop yet. False on
  /// a conflict. `root_mark` is where the domain stands at no node at all.
  [[nodiscard]] bool go(std::size_t stops, std::span<const TreeStep> legs, std::size_t root_mark,
                        Domain& domain);
  /// The numbers of the stops by depth.
  [[nodiscard]] const std::vector<std::int64_t>& numbers() const noexcept { return numbers_; }
  /// The trail's length when each stop was left.
  [[nodiscard]] const std::vector<std::size_t>& marks() const noexcept { return marks_; }
  [[nodiscard]] bool passes(std::int64_t number) const;
  /// The trail only grew on the way.
  void check_invariants() const;

 private:
  std::vector<std::int64_t> numbers_;
  std::vector<std::size_t> marks_;
};

}  // namespace kiteknot::mip
