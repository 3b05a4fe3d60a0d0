#pragma once

#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// Whole values of the relaxed point are fixed where they stand, all at once; fractional ones then
/// one by one, nearest first, each with propagation, to the other side where the near one
/// conflicts. At the root, now and then below it, more often while there is no plan.
class RoundingWithPropagation final : public Heuristic {
 public:
  std::string_view name() const override { return "rounding"; }
  bool wants(const NodeView& node) const override;
  std::optional<std::vector<double>> look(const NodeView& node) override;
};

}  // namespace kiteknot::mip
