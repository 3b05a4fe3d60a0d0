#pragma once
// Why something holds: few bounds that suffice for it. A row, or a sum of rows, leaves nothing
// while the least value of its left side stays above its limit; bounds are given up for those that
// have held from the start as long as that is so, with outward rounding. Source: Achterberg 2007,
// "Conflict analysis in mixed integer programming", section 3.

#include <span>

#include "base/interval.hpp"
#include "mip/conflict/history.hpp"

namespace kiteknot::mip {

/// A sum of columns with coefficients that are known to lie in intervals.
struct Term {
  Index column = 0;
  Interval a;
};

/// Whether the step was concluded from bounds that a constraint or a conflict names; others follow
/// from all branchings before them.
[[nodiscard]] bool explained(const Problem& problem, const Domain::Step& step);

class Explainer {
 public:
  explicit Explainer(const History& history) : history_(history) {}
  /// What has to stay so that `still(least)` holds, where least is a lower bound on the terms' sum
  /// over the bounds before the place; it holds for the least value at all of them, or nothing is
  /// found (false). Adds the steps that the bounds came from to `why`.
  template <class Still>
  bool least_stays(std::span<const Term> terms, TrailPosition before, const Still& still,
                   std::vector<TrailPosition>& why) {
    double least = start(terms, before);
    if (!still(least)) return false;
    for (const Candidate& c : candidates_) {
      const double without = add_down(least, -c.rise);
      if (still(without))
        least = without;
      else
        why.push_back(c.place);
    }
    return true;
  }

 private:
  struct Candidate {
    TrailPosition place;
    double rise;  // of the least value by the bound, rounded up; may be infinite
  };
  double start(std::span<const Term> terms, TrailPosition before);
  const History& history_;
  std::vector<Candidate> candidates_;  // first those to be given up first
};

}  // namespace kiteknot::mip
