#pragma once

#include "base/random.hpp"
#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// To and fro between whole points and relaxed ones: a relaxed point is rounded, the goal becomes
/// the distance to that, with a share of the true goal that fades, and the relaxation is solved
/// again, until it comes out whole. Where the rounding comes back, some columns are turned. At the
/// root, while nothing else has found a plan. Sources: Fischetti, Glover and Lodi 2005, "The
/// feasibility pump"; Achterberg and Berthold 2007, "Improving the feasibility pump" (the goal's
/// share).
class Pump final : public Heuristic {
 public:
  std::string_view name() const override { return "rounding to and fro"; }
  bool wants(const NodeView& node) const override {
    return node.depth == 0 && node.moment == NodeView::Moment::divided && node.best_plan.empty();
  }
  std::optional<std::vector<double>> look(const NodeView& node) override;

 private:
  [[nodiscard]] bool round(const Problem& problem, std::span<const double> point);
  void turn_some(const Problem& problem, std::span<const double> point);

  std::vector<double> rounded_;
  Random random_{1};
};

}  // namespace kiteknot::mip
