#pragma once
// Ranges of columns in terms whose rows follow their ranges, by the whole relaxation: at the root,
// and there again with every plan that is much better than the last one it was done for.

#include "mip/worker/known_best.hpp"
#include "mip/worker/node_workspace.hpp"

namespace kiteknot::mip {

class TermRanges {
 public:
  TermRanges(NodeWorkspace& space, const KnownBest& known, const SearchOptions& options);

  /// The domain stands at the root, or at what holds for the whole tree; what is left is
  /// propagated. False: nothing better is left.
  [[nodiscard]] bool settle();
  /// Whether a plan came that may be worth it, and the search has spent enough elsewhere.
  [[nodiscard]] bool due() const;

 private:
  NodeWorkspace& space_;
  const KnownBest& known_;
  std::vector<Index> columns_;                                    // none: nothing is looked at
  double settled_for_ = std::numeric_limits<double>::infinity();  // goal of the best plan then
  std::int64_t work_ = 0;
};

}  // namespace kiteknot::mip
