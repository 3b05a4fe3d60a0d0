#pragma once
// Reliability branching: pseudo-costs where a column has been branched on often enough in both
// directions, else a look at both children by a few dual pivots from the factor at hand (strong
// branching). Source: Achterberg, Koch and Martin 2005, "Branching rules revisited". A child that
// is proven to hold nothing better leaves the other one: a bound for the node.

#include "mip/branching/rule.hpp"

namespace kiteknot::mip {

/// Strong branching takes a share of the search's pivots.
class Reliability final : public BranchingRule {
 public:
  std::string_view name() const override { return "reliable pseudo-costs"; }
  Choice choose(const BranchingContext& node, PseudoCosts& costs) override;

 private:
  /// Solves one child for a few pivots; true where it is proven to hold nothing better.
  bool closes(const BranchingContext& node, Index column, bool up, PseudoCosts& costs);
  [[nodiscard]] Choice look_at_children(const BranchingContext& node, PseudoCosts& costs);
  std::int64_t pivots_ = 0;
};

}  // namespace kiteknot::mip
