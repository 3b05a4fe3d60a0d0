#pragma once
// The dual simplex: from a dual feasible basis to a primal feasible one. Lemke 1954; Forrest and
// Goldfarb 1992 (steepest edge); Maros 2003 (bound flipping); Koberstein 2005 (boxed phase 1,
// shifting).

#include "lp/basis_proof.hpp"

namespace kiteknot::lp {

class DualSimplex {
 public:
  /// Both outlive it.
  DualSimplex(BasisState& state, BasisProof& proof) : s_(state), proof_(proof) {}

  /// A solve begins.
  void begin();
  /// Boxed variables move to the bound their reduced cost prefers; the costs of others are shifted
  /// so that their reduced cost becomes 0.
  void make_dual_feasible();
  Status run(const SimplexOptions& options);
  /// Ends at a basis to go on with.
  Status run_phase_one(const SimplexOptions& options);

 private:
  struct Candidate {
    Index variable = 0;
    double ratio = 0.0, size = 0.0;
  };
  void refresh();
  Status verdict(const SimplexOptions& options);
  Index choose_leaving(double tolerance);
  void list_candidates(double sign, double smallest_pivot);
  Index ratio_test(double infeasible_by, bool below, const Tolerances& tolerances);
  void update_duals(Index entering, Index leaving);
  void apply_flips();
  void set_aside(Index variable) { ignored_[at(variable)] = any_ignored_ = true; }
  void update_weights(Index row, const linalg::WorkVector& column);
  void perturb_costs();
  bool reached_cutoff(const SimplexOptions& options);
  bool infeasible_by_row(Index row, bool& retry);

  BasisState& s_;
  BasisProof& proof_;
  std::vector<Candidate> candidates_;
  std::vector<Index> group_, flips_;
  std::vector<char> ignored_;  // n + m: variables that were set aside, their proof failed
  bool any_ignored_ = false;
  linalg::WorkVector tau_;
  std::vector<double> own_lower_, own_upper_;  // the program's, while phase 1 uses others
  bool in_phase_one_ = false;                  // bounds are those of the boxed subproblem
};

}  // namespace kiteknot::lp
