#include "methods/kinds/kind_start.hpp"

#include "methods/kinds/special_kind.hpp"

namespace kiteknot::methods {

std::optional<KindPlan> plan_of_kind(const mip::Problem& problem, std::uint64_t seed,
                                     const Interrupt& interrupt) {
  constexpr Index kSmall = 300;  // the search's own ways find those
  constexpr double kWork = 1e8;  // entries looked at: as much as some hundred pivots there
  if (problem.num_columns() < kSmall || !problem.linear() || problem.num_integers() == 0) return {};
  const std::optional<PlainProblem> plain = plain_problem(problem);
  if (!plain) return {};
  const FoundKind found = find_kind(*plain);
  if (!found) return {};
  KindRun run(problem.num_columns(), seed, interrupt, kWork, false, {});
  found.entry->start(run, *found.kind);
  if (run.best().empty()) return {};
  return KindPlan{{run.best().begin(), run.best().end()}, found.entry->start_by, run.proven()};
}

}  // namespace kiteknot::methods
