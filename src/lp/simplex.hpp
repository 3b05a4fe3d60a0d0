#pragma once
// The bounded simplex methods over a growing program, warm between calls.
//
// Every row i has a logical variable r_i with A x - r = 0 and L_i <= r_i <= U_i, so that the
// right-hand side is zero and a row's limits are bounds like any other. Variables are numbered 0 ..
// n-1 (columns) and n .. n+m-1 (rows). Signs: the program is minimised; a row's dual is the change
// of the goal per unit of its limit; a reduced cost the change per unit of the column.
//
// solve() starts from the basis at hand and chooses its path: a basis that is primal feasible but
// whose costs changed, and one of rows alone that no bound makes dual feasible, go to the primal
// simplex; else the start is made dual feasible (boxed
// variables move to their better bound; a boxed subproblem takes care of the others) and the dual
// simplex runs, then the primal if costs that were shifted on the way have to be taken back. Who
// does what: BasisState holds the basis, its factor and values, DualSimplex and PrimalSimplex move
// it, BasisProof says what it proves, and this class chooses the path (simplex.cpp) and answers
// questions about the end (sensitivity.cpp).
// Sources: Lemke 1954 (dual simplex); Forrest and Goldfarb 1992, "Steepest-edge simplex algorithms
// for linear programming"; Harris 1973, "Pivot selection methods of the Devex LP code"; Maros 2003,
// "A generalized dual phase-2 simplex algorithm" (bound flipping); Koberstein 2005, "The dual
// simplex method, techniques for a fast and stable implementation" (boxed phase 1, shifting).
//
// What a warm call costs before its pivots (n columns, m rows, nnz nonzeros):
//   set_bounds, set_row_limits   O(1), and O(n + m) with one ftran at the next solve
//   set_cost                     O(1), and one btran with O(nnz) at the next solve
//   add_row, add_column          O(entries), and O(n + m); the factor grows, it is not made anew
//   set_row                      O(entries of its columns) and a new factorisation
//   remove_rows, remove_columns  O(nnz) and a new factorisation
//   set_basis                    O(n + m) if the same variables are basic, else a new factorisation
//   save, restore                O(n + m + factor), no factorisation
// One object serves one thread.

#include <span>

#include "lp/dual_simplex.hpp"
#include "lp/primal_simplex.hpp"

namespace kiteknot::lp {

class Simplex {
 public:
  explicit Simplex(Program program = {})
      : state_(std::move(program)),
        proof_(state_),
        dual_(state_, proof_),
        primal_(state_, proof_) {}
  /// At the same basis; what it has proven is to be found out again.
  Simplex(const Simplex& other)
      : state_(other.state_), proof_(state_), dual_(state_, proof_), primal_(state_, proof_) {}
  Simplex& operator=(const Simplex&) = delete;
  ~Simplex() = default;

  [[nodiscard]] const Program& program() const noexcept { return state_.program; }
  Index add_column(double cost, double lower, double upper,
                   const std::vector<Entry>& entries = {}) {
    return state_.program.add_column(cost, lower, upper, entries);
  }
  Index add_row(double lower, double upper, const std::vector<Entry>& entries, bool exact = false) {
    return state_.program.add_row(lower, upper, entries, exact);
  }
  void set_cost(Index j, double cost) {
    state_.set_cost(j, cost);
    proof_.forget_goal();
  }
  void set_cost_exact(bool exact) {
    state_.program.set_cost_exact(exact);
    proof_.forget_goal();
  }
  void set_exact_row(Index i, Exact row) { state_.program.set_exact_row(i, std::move(row)); }
  void set_exact_bounds(Index j, Exact bounds) {
    state_.program.set_exact_bounds(j, std::move(bounds));
  }
  void set_exact_costs(std::vector<Rational> costs) {
    state_.program.set_exact_costs(std::move(costs));
  }
  void set_bounds(Index j, double lower, double upper) { state_.set_bounds(j, lower, upper); }
  void set_row_limits(Index i, double lower, double upper) {
    state_.set_row_limits(i, lower, upper);
  }
  /// The row, its entries and limits, is another one from now on. The basis stays; snapshots do not
  /// come back over it (UsageError), since their factors are of the row as it was.
  void set_row(Index i, double lower, double upper, const std::vector<Entry>& entries,
               bool exact = false) {
    state_.set_row(i, lower, upper, entries, exact);
    proof_.forget_implied();
  }
  void remove_rows(const std::vector<char>& gone) {
    state_.remove_rows(gone);
    proof_.forget_implied();
  }
  void remove_columns(const std::vector<char>& gone) {
    state_.remove_columns(gone);
    proof_.forget_implied();
  }

  Report solve(const SimplexOptions& options = {});

  /// The last basic solution; valid after a solve that was not refused.
  [[nodiscard]] std::span<const double> column_values() const {
    return {state_.x.data(), at(state_.n)};
  }
  [[nodiscard]] std::span<const double> row_values() const {
    return {state_.x.data() + state_.n, at(state_.m)};
  }
  [[nodiscard]] std::span<const double> reduced_costs() const {
    return {state_.d.data(), at(state_.n)};
  }
  /// Multipliers of the rows for the program's own costs, without shifts; length m.
  [[nodiscard]] std::vector<double> row_duals() { return proof_.row_duals(); }
  /// A valid lower bound on the goal from row_duals(), evaluated with outward rounding; where
  /// columns without a bound leave none, with the ends that rows imply for them, else in rationals.
  /// O(nnz) but for the rationals. With `reduced`: enclosures of
  /// the reduced costs that belong to it; the whole line where they are not known.
  [[nodiscard]] double bound(std::vector<Interval>* reduced = nullptr) {
    return proof_.bound(reduced);
  }
  /// Of x with a goal beyond this the last bound said nothing else than that, and its enclosures of
  /// reduced costs do not hold for them; mostly infinite.
  [[nodiscard]] double bound_holds_to() const noexcept { return proof_.holds_to(); }
  /// With every rounding taken outward, for where bound() may be too weak by up to
  /// 2 bound_radius().
  [[nodiscard]] double sharp_bound(std::vector<Interval>* reduced = nullptr) {
    return proof_.sharp_bound(reduced);
  }
  [[nodiscard]] double bound_radius() const noexcept { return proof_.radius(); }
  [[nodiscard]] std::span<const double> farkas() const noexcept { return proof_.farkas(); }
  /// A direction of the columns (length n) along which the goal falls without end.
  [[nodiscard]] std::span<const double> ray() const noexcept { return proof_.ray(); }

  // After an optimal solve, for the basis found. Variables: columns first, then rows' logicals.
  /// Row of B^-1 of a basic variable (length m). One btran.
  [[nodiscard]] std::vector<double> inverse_row(Index variable);
  /// Row of B^-1 (A, -I) of a basic variable (length n + m): 1 at itself, 0 at other basic ones.
  [[nodiscard]] std::vector<double> tableau_row(Index variable);
  /// By how much the row's binding limit can move, down (low <= 0) and up, while the basis stays
  /// feasible; for a row with room: by how much either limit can move towards the value. One ftran.
  [[nodiscard]] Interval limit_room(Index row);
  /// By how much the column's cost can move while the basis stays optimal. One btran and one
  /// pricing.
  [[nodiscard]] Interval cost_room(Index column);
  /// Whether some basic variable stands at one of its bounds: the rooms hold for this basis only.
  [[nodiscard]] bool degenerate() const;

  [[nodiscard]] Basis basis() const { return state_.basis(); }
  /// The basic variables (columns first, then rows' logicals) in no particular order.
  [[nodiscard]] std::span<const Index> basic() const noexcept { return state_.basic; }
  /// Where the rows' logicals stand, after a solve.
  [[nodiscard]] std::span<const VariableStatus> row_places() const {
    return std::span<const VariableStatus>(state_.place).subspan(at(state_.n), at(state_.m));
  }
  /// Missing variables (rows added since) become basic if they are rows, nonbasic if columns.
  void set_basis(const Basis& basis) { state_.set_basis(basis); }
  /// Keeps basis, factor and weights to come back to, and values and duals where all of them are
  /// known: then only bounds that differ are looked at. Both O(n + m + entries of the factor); rows
  /// and columns added in between stay and join as by add_row and add_column. UsageError where
  /// some were removed, or where nothing was solved yet.
  [[nodiscard]] BasisSnapshot save() const { return state_.save(); }
  void restore(const BasisSnapshot& snapshot) { state_.restore(snapshot); }
  /// All rows basic, columns at a bound: the start of a new object.
  void start_from_rows() { state_.start_from_rows(); }
  /// A triangular start in which columns that can move take the places of rows that cannot
  /// (equations first). O(nnz log m). Maros and Mitra 1998, "Strategies for creating advanced bases
  /// for large-scale linear programming problems".
  void start_from_triangle() { state_.start_from_triangle(); }
  /// For choices that are drawn by lot (perturbations, ties after a long stall).
  void set_seed(std::uint64_t seed) noexcept { state_.random = Random(seed); }
  [[nodiscard]] const WorkCounter& work() const noexcept { return state_.work; }
  /// Its work so far was told to whoever waits for it otherwise (SolveMeter::settle).
  void settle_work() noexcept { state_.meter.settle(state_.work); }

 private:
  void begin(const SimplexOptions& options);
  Status optimise(const SimplexOptions& options);
  Status dual_way(const SimplexOptions& options);
  Report finish(Status status);
  Report last_resort(const SimplexOptions& options);
  [[nodiscard]] bool settled(const SimplexOptions& options);

  BasisState state_;
  BasisProof proof_;
  DualSimplex dual_;
  PrimalSimplex primal_;
};

}  // namespace kiteknot::lp
