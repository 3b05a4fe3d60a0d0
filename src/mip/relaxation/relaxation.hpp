#pragma once
// The linear relaxation of a Problem inside a warm simplex object. Rows, and columns of real
// decisions, are scaled by powers of two on the way in (lp/scaling.hpp), which changes no digit;
// everything is scaled back on the way out. Whole decisions keep their unit. Scaled rows are the
// one copy of the matrix beside the problem's own; it is made once and grows by generated rows.

#include <optional>

#include "lp/exact_basis.hpp"
#include "lp/simplex.hpp"
#include "mip/domain/cutoff.hpp"
#include "mip/domain/domain.hpp"
#include "mip/relaxation/relaxed_kind.hpp"

namespace kiteknot::mip {

/// A relaxation that takes fewer pivots is better solved anew than from the basis of another
/// problem: a basis that moved on collects columns at their bounds, whose reduced costs of 0 tell
/// the search nothing.
inline constexpr std::int64_t kFewPivots = 100;

class Relaxation {
 public:
  /// All columns, linear rows (the first ones, in order) and what other kinds have of rows.
  explicit Relaxation(const Problem& problem);

  /// `known`: the model's own numbers of the row, where its doubles are not.
  Index add(const RowView& row, const lp::Exact* known = nullptr);
  void set_limits(Index row, double lower, double upper);
  /// States a row anew, in the place of one that was added. The basis stays; its factor does not.
  void set_row(Index row, const RowView& as);
  /// Rows that hold for the domain's box alone are stated for this one (RelaxedKind::tighten).
  void tighten(const Domain& domain) {
    for (const auto& kind : kinds_) kind->tighten(domain, *this);
  }
  /// RelaxedKind::sharpen.
  bool sharpen(const Domain& domain) {
    bool any = false;
    for (const auto& kind : kinds_) any = kind->sharpen(domain, *this) || any;
    return any;
  }
  /// Takes rows out; the others move up. O(nonzeros).
  void remove(const std::vector<char>& gone);
  /// Brings the relaxation to the domain's bounds and states, by its trail: costs what moved since
  /// the last call. With `loose`, bounds of real columns that are not whole (they may have been
  /// rounded outward) go back to the problem's own: a vertex then rests on true limits only, and
  /// can be met exactly. Always the same domain.
  void follow(Domain& domain, bool loose = false);
  /// The same for any domain. O(columns).
  void take(const Domain& domain, bool loose = false);
  /// The bounds that it has now, of whole columns in their own unit.
  [[nodiscard]] PriceEnds ends() const {
    return {simplex_.program().lower(), simplex_.program().upper()};
  }
  /// Replaces the goal; for searches that only want any plan.
  void set_cost(Index j, double cost) { simplex_.set_cost(j, cost * unit(j)); }

  lp::Report solve(const lp::SimplexOptions& options);
  /// The value of a column is this times the simplex object's: a power of two, 1 for whole ones.
  [[nodiscard]] double unit(Index j) const { return unit_[at(j)]; }
  [[nodiscard]] bool whole(Index j) const { return whole_[at(j)] != 0; }
  /// The simplex object's row is this times the row: a power of two.
  [[nodiscard]] double row_scale(Index row) const { return scale_[at(row)]; }
  /// The simplex object's row takes multiples of this only; 0: any value.
  [[nodiscard]] double row_step(Index row) const { return step_[at(row)]; }
  [[nodiscard]] lp::Simplex& simplex() noexcept { return simplex_; }
  [[nodiscard]] const lp::Simplex& simplex() const noexcept { return simplex_; }
  /// Adds what a sum of rows with these multipliers rests on beside the bounds of columns; false:
  /// that is not known.
  bool explain_sum(std::span<const double> multipliers, Explanation& why) const;
  /// The columns' values after the last solve.
  [[nodiscard]] std::span<const double> point() const noexcept { return point_; }
  /// The change of the goal per unit of each column.
  [[nodiscard]] std::vector<double> reduced_costs() const;
  /// A direction of the columns without an end; empty if none was found.
  [[nodiscard]] std::vector<double> ray() const;
  /// From the basis at hand to a verdict in exact arithmetic (lp::refined): where it is optimal the
  /// simplex object then stands at that basis.
  lp::Status refine(const lp::ExactLimits& limits);
  /// lp::exact_values.
  [[nodiscard]] std::optional<std::vector<Rational>> exact_values(
      const lp::ExactLimits& limits) const;
  struct ExactLook {
    lp::Status status = lp::Status::undecided;
    std::vector<Rational> values{};  ///< of the columns, where it is optimal
  };
  /// The stated rows alone, under the bounds at hand, in exact arithmetic: rows that were added to
  /// tighten are rounded outward or not known exactly, and a vertex that rests on one is a little
  /// off what is stated. From scratch; for a node with nothing left to branch on.
  [[nodiscard]] ExactLook look_at_stated(const lp::ExactLimits& limits) const;
  /// The change of the goal per unit of each row's limit, unscaled.
  [[nodiscard]] std::vector<double> row_duals();
  /// lp::Simplex::limit_room, unscaled.
  [[nodiscard]] Interval limit_room(Index row);
  /// lp::Simplex::cost_room, unscaled.
  [[nodiscard]] Interval cost_room(Index column);

 private:
  void take_column(const Domain& domain, Index j, bool loose);

  [[nodiscard]] std::vector<Rational> unscaled(std::vector<Rational> values) const;

  lp::Simplex simplex_;
  Index linear_rows_ = 0;
  std::vector<double> scale_;  // power of two by row
  std::vector<double> step_;   // the same where the row's value is whole, else 0
  std::vector<double> unit_;   // power of two by column: value = unit x scaled value
  std::vector<double> point_;
  std::vector<Index> real_;                          // columns
  std::vector<char> whole_;                          // by columns
  std::vector<std::unique_ptr<RelaxedKind>> kinds_;  // those with rows that follow the domain
  std::optional<std::size_t> reader_;                // of the domain's trail
  std::vector<Index> followed_;     // what each of its steps moved; conditions as -1 - c
  std::size_t first_followed_ = 0;  // step
  bool loose_ = false;
};

}  // namespace kiteknot::mip
