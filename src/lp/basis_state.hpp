#pragma once
// The present basis of a working program: where the variables stand, the factor, values and reduced
// costs. Both methods move it; who only looks asks it for rows and columns of the inverse.

#include <optional>

#include "base/random.hpp"
#include "linalg/work_vector.hpp"
#include "lp/basis.hpp"
#include "lp/solve_meter.hpp"
#include "lp/working_program.hpp"

namespace kiteknot::lp {

class BasisState : public WorkingProgram {
 public:
  explicit BasisState(Program stated) : WorkingProgram(std::move(stated)) { grow(); }

  // basis_changes.cpp: other bases, growth, removal, snapshots
  /// Nothing is left to build on but the places.
  void stale();
  /// Brings the state to the program's present size: new columns nonbasic, new rows basic.
  void grow();
  [[nodiscard]] Basis basis() const;
  void set_basis(const Basis& basis);
  void start_from_rows();
  void start_from_triangle();  // crash.cpp
  void set_row(Index i, double low, double high, const std::vector<Entry>& entries, bool exact);
  void remove_rows(const std::vector<char>& gone);
  void remove_columns(const std::vector<char>& gone);
  [[nodiscard]] BasisSnapshot save() const;
  void restore(const BasisSnapshot& snapshot);

  // basis_factor.cpp
  void factorise();
  [[nodiscard]] bool factor_worn() const;
  /// New factor, values and duals from scratch.
  void refresh();
  [[nodiscard]] linalg::ColumnView column_of(Index k) const;
  void load_column(Index k, linalg::WorkVector& to) const;
  /// rho = B^-T e_row.
  void invert_row(Index row, double drop);
  /// column = B^-1 a_q, kept for the update of the factor.
  void load_entering(Index q, double drop);
  /// alpha = rho'(A, -I) over all variables.
  void price_row(const linalg::WorkVector& by);
  void swap_basis(Index row, Index entering, VariableStatus leaving_place);

  // basis_state.cpp: values and reduced costs
  /// A nonbasic variable stands at a finite bound, or at 0 where it has none.
  void settle(Index k);
  /// Settles k and notes by how much its column moves the rows ...
  void move_settled(Index k);
  /// ... and this moves the basic variables by what was noted: B dx_B = - the moves.
  void absorb_moves();
  /// Every nonbasic variable at a bound it has, the basic ones following; every excess anew.
  void settle_all();
  void compute_values();
  void compute_duals();
  double refine_values();  // refine.cpp
  [[nodiscard]] double objective(double* size = nullptr) const;
  struct EndGoal {
    double value, size;  ///< size: of all terms
  };
  /// Of the present values.
  const EndGoal& end_goal();
  [[nodiscard]] double infeasibility(Index k) const;
  [[nodiscard]] bool dual_infeasible(Index k, double tolerance) const;
  [[nodiscard]] bool primal_feasible(double tolerance) const;
  [[nodiscard]] bool any_dual_infeasible(double tolerance) const;
  /// Whether a reduced cost has the wrong sign and its variable no other bound to move to.
  [[nodiscard]] bool any_stuck() const;
  void update_excess(Index row) {
    out.excess[at(row)] = infeasibility(basic[at(row)]);
    if (out.excess[at(row)] > 0.0 && !out.listed[at(row)]) {
      out.listed[at(row)] = 1;
      out.list.push_back(row);
    }
  }
  /// What a start from few moves rests on.
  void check_invariants() const;

  std::vector<double> x, d;            ///< n + m: values, reduced costs
  std::vector<VariableStatus> place;   ///< n + m
  std::vector<Index> basic;            ///< m: the variable that pivots in each row
  std::vector<Index> row_of;           ///< n + m: its row, or -1
  std::vector<double> weight;          ///< m: dual steepest-edge weights by row
  std::vector<double> pending_weight;  ///< n + m, by variable: for the next factorisation
  /// How far basic variables are out of their bounds.
  struct {
    std::vector<double> excess;  ///< m
    std::vector<Index> list;     ///< every row with an excess, and some that had one
    std::vector<char> listed;    ///< m
  } out;
  linalg::Lu lu;
  bool factored = false;         ///< lu fits place
  double pivot_threshold = 0.1;  ///< of the next factorisations
  struct {
    bool values = false;  ///< x of basic variables follows from the nonbasic ones
    bool duals = false;   ///< d follows from cost and the basis
  } known;
  Index removals = 0;
  double dual_residual = 0.0;   ///< largest reduced cost of a basic variable, before it is made 0
  double dual_tolerance = 0.0;  ///< from the size of the costs; times unit for each variable
  std::optional<EndGoal> ended_at;                     ///< end_goal(), where it was asked for
  linalg::WorkVector rho, column, flip_column, alpha;  ///< of the pivot at hand
  Random random{20261};                                ///< for choices that are drawn by lot
  SolveMeter meter;

 private:
  void repair_counts();
  void resize_state(Index columns, Index rows);
  void restore_values(const BasisSnapshot& snapshot);
};

}  // namespace kiteknot::lp
