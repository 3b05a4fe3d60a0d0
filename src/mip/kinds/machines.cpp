#include "mip/kinds/machines.hpp"

#include "mip/branching/disjunction.hpp"
#include "mip/kinds/machine_order.hpp"
#include "mip/kinds/machine_propagator.hpp"
#include "mip/relaxation/relaxed_kind.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

std::int64_t Machines::num_entries(const Problem&) const {
  std::int64_t count = 0;
  if (found_)
    for (const MachineTasks& m : found_->machines)
      count += static_cast<std::int64_t>(m.size() * m.size());
  return count;
}

std::unique_ptr<Propagator> Machines::propagator(std::uint8_t kind, Domain& domain) const {
  return std::make_unique<MachinePropagator>(*found_, kind, domain);
}

bool Machines::explain(const Problem& p, Index place, const Change* concluded,
                       Explanation& why) const {
  return MachineReasons(p, found_->machines[at(place)], why).explain(concluded);
}

std::unique_ptr<RelaxedKind> Machines::relax(const Problem&, Relaxation&) const {
  return nullptr;
}

std::unique_ptr<Disjunction> Machines::disjunction() const {
  return nullptr;
}

std::unique_ptr<DomainRule> Machines::domain_rule() const {
  if (!found_ || found_->machines.empty()) return nullptr;
  return std::make_unique<MachineOrderRule>(*found_);
}

std::unique_ptr<Separator> Machines::separator() const {
  return nullptr;
}

void add_machines(Problem& problem, WorkCounter& work) {
  Precedences found = find_precedences(problem, work);
  if (found.machines.empty() && precedences_of(problem) == nullptr) return;
  problem.own<Machines>().set(std::move(found));
}

}  // namespace kiteknot::mip
