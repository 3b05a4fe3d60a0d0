#pragma once
// The rules by which the best plan rules out others, for whoever searches: one problem, several
// limits at once, or the points of a node. `best` is rounded up, so that every one of them is exact
// or errs on the side of looking.

#include <algorithm>
#include <cmath>
#include <limits>
#include <span>
#include <vector>

#include "base/interval.hpp"
#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

struct Cutoff {
  double best = std::numeric_limits<double>::infinity();  ///< goal of the best plan
  double step = 0.0;                                      ///< goals are multiples of it; 0: any
  double spare = 0.0;  ///< better by less than this is not looked for; 0 where there is a step

  /// What a better plan is worth at most, rounded up.
  [[nodiscard]] double target() const {
    return step > 0.0 ? add_up(best, -step) : add_up(best, -spare);
  }
  /// What a better plan may cost above a bound, rounded up.
  [[nodiscard]] double room(double bound) const { return add_up(target(), -bound); }
  /// Whether nothing better than the best plan has this bound.
  [[nodiscard]] bool closes(double bound) const {
    return best < std::numeric_limits<double>::infinity() &&
           (bound >= best || (step > 0.0 && bound > target()) ||
            (spare > 0.0 && bound >= target()));
  }
};

/// The bounds under which reduced costs were found, by columns.
struct PriceEnds {
  std::span<const double> lower, upper;
};

/// Enclosures of reduced costs, by columns, with the bound that they go with.
struct CertainCosts {
  std::vector<Interval> reduced;
  /// They say nothing of points with a goal beyond it (lp::ImpliedEnds).
  double hold_to = std::numeric_limits<double>::infinity();
  [[nodiscard]] bool serve(const Cutoff& cutoff) const { return cutoff.target() <= hold_to; }
};

/// With room above its bound and reduced cost d > 0 of a column at its lower bound, a better plan
/// has x <= lower + room / d; likewise from above. Whole columns only; an empty domain is for the
/// next propagation to tell. Crowder, Johnson and Padberg 1983, "Solving large-scale zero-one
/// linear programming problems". O(columns).
inline void tighten_by_reduced_costs(Domain& domain, std::span<const Interval> reduced, double room,
                                     const PriceEnds& ends) {
  if (!(room >= 0.0) || room == std::numeric_limits<double>::infinity()) return;
  constexpr double kBelow = 1.0 - 1e-9;  // whatever the roundings
  const double enough = kBelow * room;
  for (Index j = 0; j < domain.problem().num_columns(); ++j) {
    const auto at = static_cast<std::size_t>(j);
    const Interval d = reduced[at];
    // Most columns may go all the way: a look without division, and at nothing else.
    const double dearest = std::max(d.low, -d.high), width = ends.upper[at] - ends.lower[at];
    if (!(dearest * width > enough)) continue;
    if (!domain.problem().integer(j) || domain.fixed(j)) continue;
    if (d.low > 0.0 && std::isfinite(ends.lower[at]))
      (void)domain.drop_upper(j, add_up(ends.lower[at], std::floor(divide_up(room, d.low))));
    else if (d.high < 0.0 && std::isfinite(ends.upper[at]))
      (void)domain.raise_lower(j, add_down(ends.upper[at], -std::floor(divide_up(room, -d.high))));
  }
}

inline void tighten_by_reduced_costs(Domain& domain, const CertainCosts& costs,
                                     const Cutoff& cutoff, double bound, const PriceEnds& ends) {
  if (costs.serve(cutoff))
    tighten_by_reduced_costs(domain, costs.reduced, cutoff.room(bound), ends);
}

/// The least goal within the domain's bounds, rounded down; -infinity where it has no end, or costs
/// are none that doubles say. O(columns).
inline double least_goal(const Domain& domain) {
  const Problem& p = domain.problem();
  if (!p.cost_exact()) return -std::numeric_limits<double>::infinity();
  double sum = 0.0;
  for (Index j = 0; j < p.num_columns(); ++j) {
    const double c = p.cost(j);
    if (c == 0.0) continue;
    const double end = c > 0.0 ? domain.lower(j) : domain.upper(j);
    if (std::isinf(end)) return -std::numeric_limits<double>::infinity();
    sum = add_down(sum, multiply_down(c, end));
  }
  return sum;
}

/// What the goal alone leaves to a better plan, with all others at their cheapest. O(columns).
inline void tighten_by_goal(Domain& domain, const Cutoff& cutoff) {
  const double least = least_goal(domain);
  if (std::isinf(least)) return;
  const Problem& p = domain.problem();
  std::vector<Interval> costs;
  std::vector<double> lower, upper;
  for (Index j = 0; j < p.num_columns(); ++j) {
    costs.push_back({p.cost(j), p.cost(j)});
    lower.push_back(domain.lower(j));
    upper.push_back(domain.upper(j));
  }
  tighten_by_reduced_costs(domain, costs, cutoff.room(least), {lower, upper});
}

}  // namespace kiteknot::mip
