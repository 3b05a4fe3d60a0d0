#include "mip/worker/node_workspace.hpp"

#include <cmath>

namespace kiteknot::mip {

NodeWorkspace::NodeWorkspace(Problem stated, const SearchOptions& options, const Stopwatch& clock,
                             std::int32_t number)
    : problem(std::move(stated)),
      interrupt(options.budget.interrupt(clock)),
      domain(problem),
      propagation(domain),
      disjunctions(disjunctions_of(problem)),
      domain_rules(domain_rules_of(problem)),
      relaxation(problem),
      pool(problem, relaxation, number),
      separation(problem),
      implied(options.given.implied),
      exact(options.exact) {
  work.obey(interrupt);
  exact.interrupt = interrupt;
  relaxation.simplex().set_seed(options.budget.seed);
}

Separation::Added NodeWorkspace::separate(std::span<const double> point, bool integral,
                                          std::optional<std::int64_t> scope, bool stated_only) {
  if (separation.empty()) return {};
  const std::vector<double> copy(point.begin(), point.end());
  constexpr std::int64_t kNowhere = std::numeric_limits<std::int64_t>::max();
  return separation.run(at_point(copy, integral), scope.value_or(kNowhere), pool, relaxation,
                        stated_only);
}

std::vector<Rational> NodeWorkspace::exact_point(std::span<const double> point) const {
  std::vector<Rational> plan;
  plan.reserve(point.size());
  for (Index j = 0; j < problem.num_columns(); ++j)
    plan.push_back(problem.integer(j) ? Rational::exactly(std::round(point[at(j)]))
                                      : Rational(point[at(j)]));
  return plan;
}

}  // namespace kiteknot::mip
