#include "mip/branching/domain_rule.hpp"

namespace kiteknot::mip {

std::unique_ptr<DomainRule> ConstraintKind::domain_rule() const {
  return nullptr;
}

std::vector<std::unique_ptr<DomainRule>> domain_rules_of(const Problem& problem) {
  std::vector<std::unique_ptr<DomainRule>> all;
  for (const auto& kind : problem.kinds().all())
    if (auto rule = kind->domain_rule()) all.push_back(std::move(rule));
  return all;
}

}  // namespace kiteknot::mip
