#pragma once
// The primal simplex. Phase 1 lowers the sum of infeasibilities, passing through the bounds of
// variables on the way while the sum still falls; phase 2 lowers the goal. Both price by devex
// weights (Harris 1973); the long step of phase 1 is in Maros 1986, "A general phase-I method in
// linear programming".

#include "lp/basis_proof.hpp"

namespace kiteknot::lp {

class PrimalSimplex {
 public:
  /// Both outlive it.
  PrimalSimplex(BasisState& state, BasisProof& proof) : s_(state), proof_(proof) {}

  Status run(const SimplexOptions& options);

 private:
  struct PrimalStep {
    double length = 0.0;
    Index row = -1;         // -1: the entering variable reaches its own other bound
    bool to_upper = false;  // of the leaving variable
  };
  Status run_phase_one(const SimplexOptions& options);
  void price_infeasibility(double tolerance);
  Index choose_entering(double tolerance);
  PrimalStep ratio_test(Index entering, double direction, const Tolerances& tolerances) const;
  PrimalStep phase_one_ratio_test(Index entering, double direction, const Tolerances& tolerances);
  bool take(Index entering, double direction, const PrimalStep& step, const Tolerances& tolerances);

  BasisState& s_;
  BasisProof& proof_;
  std::vector<double> devex_;       // n + m: reference weights
  std::vector<PrimalStep> breaks_;  // of the long step
};

}  // namespace kiteknot::lp
