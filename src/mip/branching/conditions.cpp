#include "mip/branching/disjunction.hpp"
#include "mip/problem/violation.hpp"

namespace kiteknot::mip {

std::vector<std::unique_ptr<Disjunction>> disjunctions_of(const Problem& problem) {
  std::vector<std::unique_ptr<Disjunction>> all;
  if (problem.num_conditional_rows() > 0) all.push_back(std::make_unique<ConditionalRows>());
  if (!problem.ordered_sets().empty()) all.push_back(std::make_unique<OrderedSets>());
  return all;
}

bool ConditionalRows::met(const Domain& domain, std::span<const double> point) const {
  const Problem& p = domain.problem();
  for (Index k = 0; k < p.num_conditional_rows(); ++k) {
    const When when = p.when(k);
    if (domain.fails(when)) continue;
    const Index column = p.column_of_condition(when.condition);
    if (column >= 0 && (point[at(column)] > 0.5) != when.holds) continue;
    if (row_violation(p.conditional_row(k), point) > 0.0) return false;
  }
  return true;
}

bool ConditionalRows::split(const Domain& domain, std::span<const double> point,
                            Branching& out) const {
  const Problem& p = domain.problem();
  for (Index k = 0; k < p.num_conditional_rows(); ++k) {
    const When when = p.when(k);
    if (domain.state(when.condition) != State::open ||
        row_violation(p.conditional_row(k), point) == 0.0)
      continue;
    for (const bool state : {!when.holds, when.holds})
      out.children.push_back({{Change::What::condition, when.condition, state ? 1.0 : 0.0}});
    return true;
  }
  return false;
}

}  // namespace kiteknot::mip
