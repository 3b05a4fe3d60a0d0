#pragma once

#include <array>

#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// For products of decisions: with one factor of each held where the relaxed point has it the rest
/// is linear and its relaxation solved; then the other factors are held at what came out, by turns
/// while it gets better. Where whole columns end at fractions nothing comes of it. At the root, and
/// now and then below it while there is no plan. Source: Wendell and Hurter 1976, "Minimization of
/// a non-separable objective function subject to disjoint constraints".
class Alternation final : public Heuristic {
 public:
  std::string_view name() const override { return "alternation"; }
  bool wants(const NodeView& node) const override;
  std::optional<std::vector<double>> look(const NodeView& node) override;

 private:
  /// Solves with these columns held at the point; nothing where that is no point with whole values.
  std::optional<std::vector<double>> with_held(const NodeView& node, std::span<const Index> columns,
                                               std::span<const double> at_point, double& goal);
  using Sides = std::array<std::vector<Index>, 2>;
  mutable std::optional<Sides> sides_;
};

}  // namespace kiteknot::mip
