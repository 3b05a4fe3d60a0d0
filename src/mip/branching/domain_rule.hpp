#pragma once
// Divides a node by its domain alone: for problems whose relaxation says little of them.

#include "mip/branching/disjunction.hpp"
#include "mip/branching/pseudo_costs.hpp"

namespace kiteknot::mip {

class DomainRule {
 public:
  virtual ~DomainRule() = default;
  /// What a rule sees of a node.
  struct Site {
    const Domain& domain;
    const PseudoCosts& history;         ///< of branchings
    std::span<const double> best_plan;  ///< empty: none
  };
  /// False where it has nothing to divide.
  [[nodiscard]] virtual bool split(const Site& site, Branching& out) const = 0;
};

/// Those that a problem has.
std::vector<std::unique_ptr<DomainRule>> domain_rules_of(const Problem& problem);

}  // namespace kiteknot::mip
