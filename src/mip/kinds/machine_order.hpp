#pragma once
// Divides on which of two tasks of a machine comes first.

#include "mip/branching/domain_rule.hpp"
#include "mip/structures/precedences.hpp"

namespace kiteknot::mip {

/// The pair with the least room in both of its orders together, for what it was at fault in
/// conflicts; first the order of the best plan, or the one with more room. Sources: Smith and Cheng
/// 1993, "Slack-based heuristics for constraint satisfaction scheduling"; Grimes and Hebrard 2015,
/// "Solving variants of the job shop scheduling problem through conflict-directed search".
class MachineOrderRule final : public DomainRule {
 public:
  explicit MachineOrderRule(const Precedences& found) : found_(found) {}
  bool split(const Site& site, Branching& out) const override;

 private:
  const Precedences& found_;
};

}  // namespace kiteknot::mip
