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
// does what: solve.cpp the path, dual.cpp and primal.cpp the two methods, refine.cpp the last look
// at residuals, warm.cpp growth, removal and snapshots, sensitivity.cpp rooms and tableau rows.
// Sources: Lemke 1954 (dual simplex); Forrest and Goldfarb 1992, "Steepest-edge simplex algorithms
// for linear programming"; Harris 1973, "Pivot selection methods of the Devex LP code"; Maros 2003,
// "A generalized dual phase-2 simplex algorithm" (bound flipping); Koberstein 2005, "The dual
// simplex method, techniques for a fast and stable implementation" (boxed phase 1, shifting).
//
// What a warm call costs before its pivots (n columns, m rows, nnz nonzeros):
//   set_bounds, set_row_limits   O(1), and O(n + m) with one ftran at the next solve
//   set_cost                     O(1), and one btran with O(nnz) at the next solve
//   add_row, add_column          O(entries), and O(n + m); the factor grows, it is not made anew
//   remove_rows, remove_columns  O(nnz) and a new factorisation
//   set_basis                    O(n + m) if the same variables are basic, else a new factorisation
//   save, restore                O(n + m + factor), no factorisation
// One object serves one thread.

#include <chrono>
#include <cstdint>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/at.hpp"
#include "base/interval.hpp"
#include "base/random.hpp"
#include "base/tolerances.hpp"
#include "base/work.hpp"
#include "linalg/lu.hpp"
#include "linalg/work_vector.hpp"
#include "lp/proof.hpp"

namespace kiteknot::lp {

enum class Status {
  optimal,     ///< within the tolerances; safe_bound() says what is certain
  infeasible,  ///< proven: farkas() passed proves_infeasible(), or is empty and the proof was
               ///< rational
  unbounded,   ///< proven: ray() passed proves_unbounded() (given a plan at all), doubles as they
               ///< are
  cutoff,      ///< the safe bound has reached the cutoff
  limit,       ///< a limit on pivots, time or work, or the stop switch; bound is valid
  undecided    ///< the arithmetic did not suffice; reason says where
};

enum class VariableStatus : std::uint8_t { basic, at_lower, at_upper, at_zero };

/// Where every variable stands; enough to restart from. n and m are those of the program at the
/// time.
struct Basis {
  std::vector<VariableStatus> columns, rows;
  /// Dual steepest-edge weights of the basic variables, columns first; empty: to be started anew.
  std::vector<float> weights{};
  [[nodiscard]] bool empty() const noexcept { return columns.empty() && rows.empty(); }
};

/// A basis with its factor and weights, and values and duals where they were known; see
/// Simplex::save.
struct BasisSnapshot {
  Index num_columns = 0, num_rows = 0, removals = 0, unboxed = 0;
  std::int64_t goals = 0;
  std::vector<VariableStatus> place;
  std::vector<Index> basic;
  std::vector<double> weight;
  linalg::Lu lu;
  std::vector<double> x, d, lower, upper;  ///< empty where something was still to be looked at
};

/// Seconds by part, added up over solves that are asked to measure.
struct Parts {
  double pricing = 0.0, ftran = 0.0, btran = 0.0, ratio_test = 0.0, update = 0.0, factor = 0.0;
};

enum class Path { choose, dual, primal };

struct SimplexOptions {
  Tolerances tolerances{};
  Path path = Path::choose;  ///< where the start allows either; both end at the same answer
  Parts* parts = nullptr;    ///< not null: measure, at the price of a look at the clock a step
  std::int64_t max_pivots = std::numeric_limits<std::int64_t>::max();
  std::int64_t max_work = std::numeric_limits<std::int64_t>::max();  ///< units of this call
  double cutoff =
      std::numeric_limits<double>::infinity();  ///< stop once the safe bound is above it
  /// Values and duals are looked at anew and in full only where the safe bound does not meet the
  /// objective: for a node that is divided anyway.
  bool quick = false;
  /// Values and duals are not looked at anew at all: for somebody who only wants to know roughly
  /// how far the goal moves. Proofs (infeasible, bound()) hold as ever.
  bool rough = false;
  int exact_pivots = 200;  ///< at most, where no basis settles; 0: undecided at once
  Interrupt interrupt{};
};

struct [[nodiscard]] Report {
  Status status = Status::undecided;
  double objective = 0.0;  ///< c'x of the last basic solution
  std::int64_t pivots = 0;
  std::string reason;  ///< for undecided
};

class Simplex {
 public:
  explicit Simplex(Program program = {});

  [[nodiscard]] const Program& program() const noexcept { return program_; }
  Index add_column(double cost, double lower, double upper, const std::vector<Entry>& entries = {});
  Index add_row(double lower, double upper, const std::vector<Entry>& entries, bool exact = false);
  void set_cost(Index j, double cost);
  void set_cost_exact(bool exact) { program_.set_cost_exact(exact); }
  void set_exact_row(Index i, Exact row) { program_.set_exact_row(i, std::move(row)); }
  void set_exact_bounds(Index j, Exact bounds) { program_.set_exact_bounds(j, std::move(bounds)); }
  void set_exact_costs(std::vector<Rational> costs) { program_.set_exact_costs(std::move(costs)); }
  void set_bounds(Index j, double lower, double upper);
  void set_row_limits(Index i, double lower, double upper);
  void remove_rows(const std::vector<char>& gone);
  void remove_columns(const std::vector<char>& gone);

  Report solve(const SimplexOptions& options = {});

  /// The last basic solution; valid after a solve that was not refused.
  [[nodiscard]] std::span<const double> column_values() const { return {x_.data(), at(n_)}; }
  [[nodiscard]] std::span<const double> row_values() const { return {x_.data() + n_, at(m_)}; }
  [[nodiscard]] std::span<const double> reduced_costs() const { return {d_.data(), at(n_)}; }
  /// Multipliers of the rows for the program's own costs, without shifts; length m.
  [[nodiscard]] std::vector<double> row_duals();
  /// A valid lower bound on the goal from row_duals(), evaluated with outward rounding; where
  /// columns without a bound leave none, with the ends that rows imply for them, else in rationals.
  /// O(nnz) but for the rationals. With `reduced`: enclosures of
  /// the reduced costs that belong to it; the whole line where they are not known.
  [[nodiscard]] double bound(std::vector<Interval>* reduced = nullptr);
  /// With every rounding taken outward, for where bound() may be too weak by up to
  /// 2 bound_radius().
  [[nodiscard]] double sharp_bound(std::vector<Interval>* reduced = nullptr);
  [[nodiscard]] double bound_radius() const noexcept { return radius_; }
  [[nodiscard]] std::span<const double> farkas() const noexcept { return farkas_; }
  /// A direction of the columns (length n) along which the goal falls without end.
  [[nodiscard]] std::span<const double> ray() const noexcept { return ray_; }

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

  [[nodiscard]] Basis basis() const;
  /// The basic variables (columns first, then rows' logicals) in no particular order.
  [[nodiscard]] std::span<const Index> basic() const noexcept { return basic_; }
  /// Where the rows' logicals stand, after a solve.
  [[nodiscard]] std::span<const VariableStatus> row_places() const {
    return std::span<const VariableStatus>(place_).subspan(at(n_), at(m_));
  }
  /// Missing variables (rows added since) become basic if they are rows, nonbasic if columns.
  void set_basis(const Basis& basis);
  /// Keeps basis, factor and weights to come back to, and values and duals where all of them are
  /// known: then only bounds that differ are looked at. Both O(n + m + entries of the factor); rows
  /// and columns added in between stay and join as by add_row and add_column. UsageError where
  /// some were removed, or where nothing was solved yet.
  [[nodiscard]] BasisSnapshot save() const;
  void restore(const BasisSnapshot& snapshot);
  /// All rows basic, columns at a bound: the start of a new object.
  void start_from_rows();
  /// A triangular start in which columns that can move take the places of rows that cannot
  /// (equations first). O(nnz log m). Maros and Mitra 1998, "Strategies for creating advanced bases
  /// for large-scale linear programming problems".
  void start_from_triangle();
  /// For choices that are drawn by lot (perturbations, ties after a long stall).
  void set_seed(std::uint64_t seed) noexcept { random_ = Random(seed); }
  [[nodiscard]] const WorkCounter& work() const noexcept { return work_; }

 private:
  // simplex.cpp: the factor and what follows from it
  bool load_bounds_and_costs();
  bool load_costs();
  void load_bounds(Index k);
  void note_moved(Index k);
  void nothing_moved();
  void check_invariants() const;
  void repair_counts();
  void settle(Index k);
  void settle_all();
  void move_settled(Index k);
  void absorb_moves();
  void factor();
  void refresh();
  [[nodiscard]] bool factor_worn() const;
  void compute_values();
  void compute_duals();
  [[nodiscard]] linalg::ColumnView column_of(Index k) const;
  void load_column(Index k, linalg::WorkVector& work) const;
  void invert_row(Index row, double drop);
  void load_entering(Index q, double drop);
  void price_row(const linalg::WorkVector& rho);
  void swap_basis(Index row, Index entering, VariableStatus leaving_place);
  [[nodiscard]] double objective(double* size = nullptr) const;
  [[nodiscard]] double infeasibility(Index k) const;
  void update_excess(Index row) {
    excess_[at(row)] = infeasibility(basic_[at(row)]);
    if (excess_[at(row)] > 0.0 && !out_listed_[at(row)]) {
      out_listed_[at(row)] = 1;
      out_.push_back(row);
    }
  }
  [[nodiscard]] bool dual_infeasible(Index k, double tolerance) const;
  [[nodiscard]] bool boxed(Index k) const;
  [[nodiscard]] bool over_limit(const SimplexOptions& options);
  [[nodiscard]] bool exhausted();

  // warm.cpp
  void grow();
  void stale();
  void measure_units(Index rows_before);
  void restore_values(const BasisSnapshot& snapshot);
  void resize_state(Index n, Index m);

  // solve.cpp
  void begin(const SimplexOptions& options);

  Status optimise(const SimplexOptions& options);
  Status dual_way(const SimplexOptions& options);
  [[nodiscard]] bool primal_feasible(double tolerance) const;
  [[nodiscard]] bool any_stuck() const;
  [[nodiscard]] bool any_dual_infeasible(double tolerance) const;
  Report finish(Status status);
  Report last_resort(const SimplexOptions& options);
  bool bound_meets_objective();
  struct EndGoal {
    double value, size;  // size: of all terms
  };
  const EndGoal& end_goal();
  double quick_bound(std::vector<Interval>* reduced);
  void bound_outward();
  void load_row_duals();

  // refine.cpp
  bool settled(const SimplexOptions& options);
  double refine_values();

  // dual.cpp
  struct Candidate {
    Index variable = 0;
    double ratio = 0.0, size = 0.0;
  };
  void make_dual_feasible();
  void refresh_dual();
  Status run_dual_phase_one(const SimplexOptions& options);
  Status run_dual(const SimplexOptions& options);
  Status dual_verdict(const SimplexOptions& options);
  Index choose_leaving(double tolerance);
  void list_candidates(double sign, double smallest_pivot);
  Index dual_ratio_test(double infeasible_by, bool below, const Tolerances& tolerances);
  void update_duals(Index entering, Index leaving);
  void apply_flips();
  void set_aside(Index variable) { ignored_[at(variable)] = any_ignored_ = true; }
  void update_weights(Index row, const linalg::WorkVector& column);
  void perturb_costs();
  bool reached_cutoff(const SimplexOptions& options);
  bool infeasible_by_row(Index row, bool& retry);
  bool proves_farkas();

  // primal.cpp
  Status run_primal(const SimplexOptions& options);
  Status run_primal_phase_one(const SimplexOptions& options);
  void price_infeasibility(double tolerance);
  Index choose_entering(double tolerance);
  struct PrimalStep {
    double length = 0.0;
    Index row = -1;         // -1: the entering variable reaches its own other bound
    bool to_upper = false;  // of the leaving variable
  };
  PrimalStep primal_ratio_test(Index entering, double direction,
                               const Tolerances& tolerances) const;
  PrimalStep phase_one_ratio_test(Index entering, double direction, const Tolerances& tolerances);
  bool primal_step(Index entering, double direction, const PrimalStep& step,
                   const Tolerances& tolerances);
  bool store_ray(Index entering, double direction);

  /// Adds the seconds until its end to one of the parts, if somebody measures.
  class Timed {
   public:
    Timed(Parts* parts, double Parts::*part) : to_(parts == nullptr ? nullptr : &(parts->*part)) {
      if (to_ != nullptr) start_ = std::chrono::steady_clock::now();
    }
    ~Timed() {
      if (to_ != nullptr)
        *to_ += std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count();
    }
    Timed(const Timed&) = delete;
    Timed& operator=(const Timed&) = delete;

   private:
    double* to_;
    std::chrono::steady_clock::time_point start_{};
  };
  [[nodiscard]] Timed timed(double Parts::*part) const { return Timed(parts_, part); }

  Program program_;
  Index n_ = 0, m_ = 0;
  std::vector<double> lower_, upper_, cost_;   // n + m; cost_ may be shifted
  std::vector<double> own_lower_, own_upper_;  // the program's, while phase 1 uses others
  std::vector<double> x_, d_;                  // n + m
  std::vector<VariableStatus> place_;          // n + m
  std::vector<Index> basic_;                   // m: the variable that pivots in each row
  std::vector<Index> row_of_;                  // n + m: its row, or -1
  // What a warm start has to look at: variables whose bounds were set since all of them stood at
  // their bounds, with reduced costs of the right sign; or everything (all_moved_).
  std::vector<Index> moved_;
  std::vector<char> moved_listed_;  // n + m
  std::vector<double> excess_;      // m: how far the basic variable is out of bounds
  std::vector<Index> out_;          // every row with an excess, and some that had one
  std::vector<char> out_listed_;    // m
  std::vector<double> weight_;      // m: dual steepest-edge weights by row
  std::vector<double> devex_;       // n + m: primal reference weights
  linalg::Lu lu_;
  bool factored_ = false;      // lu_ fits place_
  bool values_known_ = false;  // x_ of basic variables follows from the nonbasic ones
  bool duals_known_ = false;   // d_ follows from cost_ and the basis
  bool shifted_ = false;       // cost_ differs from the program's
  bool goal_changed_ = false;  // since the last solve
  bool in_phase_one_ = false;  // bounds are those of the boxed subproblem
  bool all_moved_ = true;      // see moved_
  bool costs_loaded_ = false;  // cost_ is the program's
  bool any_ignored_ = false;
  Index unboxed_ = 0;  // variables without one of their bounds
  Index removals_ = 0;
  std::int64_t goals_ = 0;        // how many there have been
  double largest_cost_ = 1.0;     // in units of reduced costs
  double pivot_threshold_ = 0.1;  // of the next factorisations
  double dual_residual_ = 0.0;    // largest reduced cost of a basic variable, before it is made 0
  linalg::WorkVector rho_, column_, tau_, flip_column_, alpha_;
  std::vector<Candidate> candidates_;
  std::vector<Index> group_, flips_;
  std::vector<char> ignored_;        // n + m: variables the dual set aside, their proof failed
  std::optional<EndGoal> end_goal_;  // of the present values, where it was asked for
  double dual_tolerance_ = 0.0;      // from the size of the costs; times unit_ for each variable
  // n + m: the size of one unit of a reduced cost, from the powers of two that would bring the
  // variable's entries near 1. The program itself is not scaled here: its owner may.
  std::vector<double> unit_;
  Index columns_measured_ = 0;  // by the units
  std::vector<double> farkas_, ray_;
  bool bound_known_ = false;  // of the basis where the last solve ended
  double bound_ = 0.0, radius_ = 0.0;
  std::optional<double> ended_bound_;  // the same with ends that rows imply
  Interrupt interrupt_{};              // of the last solve
  bool exact_bound_had_ = false;
  ImpliedEnds ends_;
  std::vector<Interval> bound_reduced_;
  bool reduced_there_ = false;  // and not handed over
  PlainProof plain_;
  std::vector<double> multipliers_;     // of the rows, in use by row_duals() and bound()
  std::vector<double> pending_weight_;  // n + m, by variable: for the next factorisation
  std::vector<PrimalStep> breaks_;      // of the primal's long step
  Parts* parts_ = nullptr;
  std::int64_t pivots_ = 0, pivots_at_start_ = 0, work_at_start_ = 0, work_at_look_ = 0;
  int stalled_ = 0;
  std::string reason_;
  Random random_{20261};
  WorkCounter work_;
};

}  // namespace kiteknot::lp
