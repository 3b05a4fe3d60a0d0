#pragma once
// Reliability branching: pseudo-costs where a column has been branched on often enough in both
// directions, else a look at both children by a few dual pivots from the factor at hand (strong
// branching). Source: Achterberg, Koch and Martin 2005, "Branching rules revisited". A child that
// is proven to hold nothing better leaves the other one: a bound for the node.

#include "mip/branching/pseudo_costs.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

/// What a rule sees of a node.
struct Divisible {
  const Domain& domain;
  std::span<const Index> columns;  ///< with fractional values, in rising order
  std::span<const double> point;
  double objective = 0.0;  ///< of the relaxation
  Cutoff cutoff;
  std::int64_t pivots = 0;  ///< of the search so far
};

class Reliability {
 public:
  struct Choice {
    Index column = -1;
    std::vector<Change> implied;  ///< where it is not empty, the relaxation is to be solved again
    bool nothing_left = false;    ///< of some column neither child holds anything better
  };
  /// The relaxation stands at the node's solution, and does so again afterwards. Strong branching
  /// takes a share of the search's pivots.
  Choice choose(const Divisible& node, PseudoCosts& costs, Relaxation& relaxation,
                const Interrupt& interrupt);
  [[nodiscard]] std::int64_t pivots() const noexcept { return pivots_; }

 private:
  /// Solves one child for a few pivots; true where it is proven to hold nothing better.
  bool closes(const Divisible& node, Index column, bool up, PseudoCosts& costs,
              lp::Simplex& simplex, const Interrupt& interrupt);
  std::int64_t pivots_ = 0;
};

}  // namespace kiteknot::mip
