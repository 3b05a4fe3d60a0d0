#include "mip/conflict/explain.hpp"

#include <algorithm>
#include <cmath>

#include "lp/proof.hpp"

namespace kiteknot::mip {

bool explained(const Problem& problem, const Domain::Step& step) {
  switch (step.reason.by) {
    case Reason::By::decision:
    case Reason::By::condition:
    case Reason::By::generated_row:
    case Reason::By::conflict:
      return true;
    case Reason::By::constraint:
      return problem.kinds().all()[step.reason.kind]->explains();
    default:
      return false;
  }
}

// The terms' least value, and what each bound that moved on the way has raised it by: the least
// product takes one end only, so that what two ends of a column rose it by adds up to more than
// both together.
double Explainer::start(std::span<const Term> terms, TrailPosition before) {
  candidates_.clear();
  double sum = 0.0;
  for (const Term& t : terms) {
    const double lower = history_.bound(t.column, false, before);
    const double upper = history_.bound(t.column, true, before);
    const double least = lp::least_product(t.a, lower, upper);
    if (std::isinf(least)) return -kInf;
    sum = add_down(sum, least);
    for (const bool at_upper : {false, true}) {
      const TrailPosition p = history_.last(2 * t.column + (at_upper ? 1 : 0), before);
      if (p == kFromTheStart) continue;
      const double end = history_.bound_from_start(t.column, at_upper);
      const double without = lp::least_product(t.a, at_upper ? lower : end, at_upper ? end : upper);
      if (without < least)
        candidates_.push_back({p, std::isinf(without) ? kInf : add_up(least, -without)});
    }
  }
  std::sort(candidates_.begin(), candidates_.end(), [&](const Candidate& a, const Candidate& b) {
    const bool a_explained = explained(history_.problem(), history_.step(a.place));
    const bool b_explained = explained(history_.problem(), history_.step(b.place));
    return a_explained != b_explained ? b_explained : a.place > b.place;
  });
  return sum;
}

}  // namespace kiteknot::mip
