#pragma once
// A model that is a goal and sums within limits, as detection of special kinds looks at it: every
// rule, every limit and every cost has to be what the kind says.

#include <optional>

#include "methods/walks/compiled_model.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::methods {

struct PlainProblem {
  std::vector<DecisionRange> ranges;  ///< by decision
  std::vector<double> cost;           ///< the same, to be small
  Lists<WeightedNode> rows;           ///< constants are moved to the limits
  std::vector<double> low, high;      ///< by row

  [[nodiscard]] Index num_decisions() const noexcept { return static_cast<Index>(cost.size()); }
  [[nodiscard]] Index num_rows() const noexcept { return static_cast<Index>(low.size()); }
  [[nodiscard]] std::span<const WeightedNode> row(Index i) const { return rows.of(i); }
  [[nodiscard]] bool binary(Index d) const { return ranges[at(d)].binary(); }
  [[nodiscard]] bool all_binary() const;
  /// All weights the same, above 0: that weight, else 0.
  [[nodiscard]] double same_weight(Index row) const;
  /// Exactly one of its decisions, if they are binary.
  [[nodiscard]] bool one_of(Index row) const;
  /// The same, or none.
  [[nodiscard]] bool at_most_one_of(Index row) const;
};
/// Nothing where there is more than sums, no goal, or a decision that cannot move.
std::optional<PlainProblem> plain_problem(const CompiledModel& model);
/// Of a lowered problem; its columns are the decisions.
std::optional<PlainProblem> plain_problem(const mip::Problem& problem);

/// Whole, so that sums of some millions of them are exact.
[[nodiscard]] inline bool whole_figure(double v) noexcept {
  constexpr double kMost = 1e12;
  return std::nearbyint(v) == v && std::abs(v) <= kMost;
}

}  // namespace kiteknot::methods
