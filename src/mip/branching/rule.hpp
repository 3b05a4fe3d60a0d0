#pragma once
// Which fractional column a node is divided on. A rule sees the node and answers; it may look at
// children, and leaves the relaxation as it found it.

#include <string_view>

#include "mip/branching/pseudo_costs.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

/// What a rule sees of a node.
struct BranchingContext {
  const Domain& domain;
  std::span<const Index> columns;  ///< with fractional values, in rising order
  std::span<const double> point;
  double objective = 0.0;  ///< of the relaxation
  Cutoff cutoff;
  std::int64_t pivots = 0;  ///< of the search so far
  Relaxation& relaxation;   ///< stands at the node's solution
  const Interrupt& interrupt;
};

class BranchingRule {
 public:
  struct Choice {
    Index column = -1;            ///< -1: there is none
    std::vector<Change> implied;  ///< where it is not empty, the relaxation is to be solved again
    bool nothing_left = false;    ///< of some column neither child holds anything better
    std::int64_t pivots = 0;      ///< that it took
  };
  virtual ~BranchingRule() = default;
  [[nodiscard]] virtual std::string_view name() const = 0;
  [[nodiscard]] virtual Choice choose(const BranchingContext& node, PseudoCosts& costs) = 0;
};

/// Pseudo-costs alone.
class ByPseudoCosts final : public BranchingRule {
 public:
  std::string_view name() const override { return "pseudo-costs"; }
  Choice choose(const BranchingContext& node, PseudoCosts& costs) override {
    return {costs.choose(node.columns, node.point), {}, false, 0};
  }
};

}  // namespace kiteknot::mip
