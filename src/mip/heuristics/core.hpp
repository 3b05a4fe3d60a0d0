#pragma once

#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// What lies around the root's relaxation: the best of the core (best_in_core), then exchanges
/// while the goal falls. What a known plan is worth does not matter on the way: exchanges may pass
/// it from a point that is worse.
class AroundRelaxation final : public Heuristic {
 public:
  std::string_view name() const override { return "a look around the relaxation"; }
  bool wants(const NodeView& node) const override {
    return node.moment == NodeView::Moment::relaxed && node.depth == 0;
  }
  std::optional<std::vector<double>> look(const NodeView& node) override;
};

}  // namespace kiteknot::mip
