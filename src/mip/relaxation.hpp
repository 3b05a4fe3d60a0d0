#pragma once
// The linear relaxation of a Problem inside a warm simplex object. Rows are scaled by a power of
// two to a largest entry near 1 on the way in, which changes no digit; duals are scaled back on the
// way out. The matrix is stored once and never copied per node.

#include "lp/simplex.hpp"
#include "mip/domain.hpp"
#include "mip/row_propagation.hpp"

namespace kiteknot::mip {

class Relaxation {
 public:
  /// Columns only; the kinds add their rows.
  explicit Relaxation(const Problem& problem);

  Index add(const RowView& row);
  void set_limits(Index row, double lower, double upper);
  /// Gives the columns the domain's bounds. With `loose`, bounds of real columns that are not whole
  /// (they may have been rounded outward) go back to the problem's own: a vertex then rests on true
  /// limits only, and can be met exactly. O(columns).
  void take_bounds(const Domain& domain, bool loose = false);
  /// Replaces the goal; for searches that only want any plan.
  void set_cost(Index j, double cost) { simplex_.set_cost(j, cost); }

  lp::Report solve(const lp::SolveOptions& options) { return simplex_.solve(options); }
  [[nodiscard]] lp::Simplex& simplex() noexcept { return simplex_; }
  [[nodiscard]] const lp::Simplex& simplex() const noexcept { return simplex_; }
  [[nodiscard]] std::span<const double> point() const { return simplex_.column_values(); }
  /// The change of the goal per unit of each row's limit, unscaled.
  [[nodiscard]] std::vector<double> row_duals();
  /// lp::Simplex::limit_room, unscaled.
  [[nodiscard]] Interval limit_room(Index row);

 private:
  lp::Simplex simplex_;
  std::vector<double> scale_;  // power of two by row
};

}  // namespace kiteknot::mip
