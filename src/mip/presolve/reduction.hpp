#pragma once
// One way to make a problem smaller or tighter. Each is a function of the presolve model; the table
// of all of them, with what they leave of the plans, is in presolve.cpp. One that leaves more where
// less is asked for looks at `keeps`.

#include "base/work.hpp"
#include "mip/presolve/presolve_model.hpp"
#include "mip/structures/implications.hpp"

namespace kiteknot::mip {

struct PresolveBudget {
  ReductionStrength keeps = ReductionStrength::a_best_plan;  ///< the least that is to be kept
  WorkCounter& work;
  std::int64_t until = 0;  ///< units of work
  [[nodiscard]] bool spent() const { return work.units() >= until || work.interrupted(); }
};

// Each stops where the budget is spent or the model has become impossible.

/// Rows that cannot fail go, sides that cannot be reached open; rows of one column become bounds;
/// rows that hold at one corner only fix their columns; bounds of whole columns tighten. Source:
/// Brearley, Mitra, Williams 1975, "Analysis of mathematical programming problems prior to applying
/// the simplex algorithm". Keeps all plans.
void tighten_by_activity(PresolveModel& model, const PresolveBudget& budget);
/// A row that only binds where a whole column stands at one end gets the coefficient with which it
/// binds at the other end too. Source: Savelsbergh 1994, "Preprocessing and probing techniques for
/// mixed integer programming problems". Keeps all plans.
void tighten_coefficients(PresolveModel& model, const PresolveBudget& budget);
/// Rows over whole columns are divided by what their coefficients share, limits rounded inward.
/// Keeps all plans.
void divide_by_gcd(PresolveModel& model, const PresolveBudget& budget);
/// Rows that say no more than another one go: the same with a factor, or weaker in every column
/// that is never negative. Keeps all plans.
void drop_dominated_rows(PresolveModel& model, const PresolveBudget& budget);
/// a x + b y = c puts one column in place of the other. Keeps all plans.
void solve_doubletons(PresolveModel& model, const PresolveBudget& budget);
/// A column in one equation and nowhere else goes; its bounds become the limits of the rest. Keeps
/// all plans.
void free_column_singletons(PresolveModel& model, const PresolveBudget& budget);
/// A column whose bounds follow from an equation of three or more goes into the other rows that
/// have it, where that makes them no longer in all. Source: Andersen and Andersen 1995, "Presolving
/// in linear programming" (implied free columns). Keeps all plans.
void substitute_implied_free(PresolveModel& model, const PresolveBudget& budget);
/// A real column that an equation over whole ones keeps whole is whole. Keeps all plans.
void find_implied_integers(PresolveModel& model, const PresolveBudget& budget);
/// Real columns that stand in differences of two only, alone, or beside whole ones, all of it in
/// whole figures, are whole in a best plan: with the others fixed every corner is (the rows are
/// those of a network). Looked for where the goal's columns are all whole then. Source: Hoffman and
/// Kruskal 1956, "Integral boundary points of convex polyhedra". Keeps a best plan.
void find_whole_differences(PresolveModel& model, const PresolveBudget& budget);
/// A column that no row keeps from moving the way the goal likes goes there. Keeps all best plans;
/// where the goal does not care, one.
void fix_dually(PresolveModel& model, const PresolveBudget& budget);
/// A column beside one that does all it does for no more goes to its least value. Source: Gamrath,
/// Koch, Martin, Miltenberger, Weninger 2015, "Progress in presolving for mixed integer
/// programming". Keeps all best plans where it costs more, else one.
void fix_dominated_columns(PresolveModel& model, const PresolveBudget& budget);
/// Columns that are the same in all rows and the goal become one. Keeps one best plan.
void join_duplicate_columns(PresolveModel& model, const PresolveBudget& budget);

/// What propagation and trying both values of binary columns tell: bounds, and columns that
/// always have the same or the opposite value, of which one goes. What one value implies is told in
/// `implied`, by columns of the problem as it came. Source: Savelsbergh 1994. Keeps all plans.
void probe_columns(PresolveModel& model, const PresolveBudget& budget, Implications& implied);
/// Rows of which at most one literal can hold are made longer by what excludes all of theirs, and
/// take in rows that they cover. Source: Achterberg, Bixby, Gu, Rothberg, Weninger 2020, "Presolve
/// reductions in mixed integer programming". Keeps all plans.
void merge_cliques(PresolveModel& model, const PresolveBudget& budget, const Implications& implied);

}  // namespace kiteknot::mip
