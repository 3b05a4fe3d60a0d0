#pragma once
// Which column a node is branched on, and what its parts may be worth.

#include "mip/branching/rule.hpp"
#include "mip/worker/known_best.hpp"
#include "mip/worker/node_workspace.hpp"
#include "mip/worker/present_node.hpp"

namespace kiteknot::mip {

class Brancher {
 public:
  Brancher(NodeWorkspace& space, const SearchOptions& options);

  struct Choice {
    Index column = -1;          ///< with a fractional value; -1: there is none
    bool tightened = false;     ///< the domain has less, and the node is to be looked at again
    bool nothing_left = false;  ///< of some column neither part holds anything
  };
  /// Of the node's fractional columns, whose relaxation was solved last. What strong branching
  /// finds out goes to the domain.
  Choice choose(const KnownBest& known, PresentNode& node);
  /// What the best plan below may be worth: every fractional column goes to the cheaper side.
  [[nodiscard]] double estimate(const PresentNode& node) const;
  /// The node goes into parts. `column`: that they differ in, -1 for anything else; `value`: its
  /// relaxed one.
  void split(Branching branching, Index column, double value, PresentNode& node) const;

  [[nodiscard]] PseudoCosts& costs() noexcept { return costs_; }
  [[nodiscard]] const PseudoCosts& costs() const noexcept { return costs_; }
  /// Steps: parts that strong branching left out.
  [[nodiscard]] PartTally part() const { return {"branching", rule_->name(), tally_}; }

 private:
  NodeWorkspace& space_;
  PseudoCosts costs_;
  std::unique_ptr<BranchingRule> rule_;
  Tally tally_;
};

}  // namespace kiteknot::mip
