#pragma once
// Reliability branching: pseudo-costs where a column has been branched on often enough in both
// directions, else a look at both children by a few dual pivots from the factor at hand (strong
// branching). Source: Achterberg, Koch and Martin 2005, "Branching rules revisited". A child that
// is proven to hold nothing better leaves the other one: a bound for the node.

#include "mip/branching/pseudo_costs.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

/// What a rule sees of a node. Columns with fractional values, in rising order.
struct Fractions {
  std::span<const Index> columns;
  std::span<const double> point;
  double objective = 0.0;  ///< of the relaxation
};

class Reliability {
 public:
  struct Choice {
    Index column = -1;
    std::vector<Change> implied;  ///< where it is not empty, the relaxation is to be solved again
    bool nothing_left = false;    ///< of some column neither child holds anything better
  };
  /// The relaxation stands at the node's solution, and does so again afterwards. `node_pivots`: of
  /// the search so far; strong branching takes a share of them.
  Choice choose(const Fractions& at, const Domain& domain, const Cutoff& cutoff,
                std::int64_t node_pivots, const Interrupt& interrupt, PseudoCosts& costs,
                Relaxation& relaxation);
  [[nodiscard]] std::int64_t pivots() const noexcept { return pivots_; }
  [[nodiscard]] std::int64_t looks() const noexcept { return looks_; }

 private:
  std::int64_t pivots_ = 0, looks_ = 0;
};

}  // namespace kiteknot::mip
