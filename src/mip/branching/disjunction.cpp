#include "mip/branching/disjunction.hpp"

namespace kiteknot::mip {

std::vector<std::unique_ptr<Disjunction>> disjunctions_of(const Problem& problem) {
  std::vector<std::unique_ptr<Disjunction>> all;
  for (const auto& kind : problem.kinds().all())
    if (kind->any(problem))
      if (auto disjunction = kind->disjunction()) all.push_back(std::move(disjunction));
  return all;
}

}  // namespace kiteknot::mip
