#include "mip/relaxation/range_tightening.hpp"

#include <cmath>

namespace kiteknot::mip {
namespace {

// A relaxation of its own at the domain, without a goal, below the best plan's.
Problem without_goal(const Domain& domain) {
  Problem here = domain.problem();
  here.clear_goal();
  here.set_goal_facts(true, 0.0);
  for (Index j = 0; j < here.num_columns(); ++j)
    here.set_bounds(j, domain.lower(j), domain.upper(j));
  return here;
}

void add_cutoff(const Problem& p, const Cutoff& cutoff, Relaxation& relaxation) {
  if (!std::isfinite(cutoff.best) || !p.cost_exact()) return;
  std::vector<Index> index;
  std::vector<double> value;
  for (Index j = 0; j < p.num_columns(); ++j)
    if (p.cost(j) != 0.0) {
      index.push_back(j);
      value.push_back(p.cost(j));
    }
  if (!index.empty()) relaxation.add({index, value, -kInf, cutoff.target(), true});
}

}  // namespace

bool tighten_ranges(Domain& domain, std::span<const Index> columns, const Cutoff& cutoff,
                    std::int64_t most, WorkCounter& work) {
  constexpr double kLeastGain = 0.05;  // of the range: less is not worth telling
  const Problem here = without_goal(domain);
  Relaxation relaxation(here);
  add_cutoff(domain.problem(), cutoff, relaxation);
  bool possible = true;
  for (const Index j : columns) {
    for (const bool upper : {false, true}) {
      const double low = domain.lower(j), high = domain.upper(j);
      if (!possible || low == high || relaxation.simplex().work().units() > most ||
          work.interrupted())
        continue;
      relaxation.set_cost(j, upper ? -1.0 : 1.0);
      const lp::Report report = relaxation.solve({});
      if (report.status == lp::Status::infeasible) possible = false;
      if (report.status == lp::Status::optimal) {
        const double bound = relaxation.simplex().sharp_bound();
        const double end = upper ? -bound : bound;
        const double gain = upper ? high - end : end - low;
        if (gain > kLeastGain * (high - low) || (std::isinf(high - low) && gain > 0.0)) {
          possible = upper ? domain.drop_upper(j, end) : domain.raise_lower(j, end);
          relaxation.take(domain);
        }
      }
      relaxation.set_cost(j, 0.0);
    }
  }
  work.add(relaxation.simplex().work().units());
  return possible;
}

}  // namespace kiteknot::mip
