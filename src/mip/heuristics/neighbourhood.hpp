#pragma once

#include "base/random.hpp"
#include "mip/heuristics/chooser.hpp"
#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// A small search for something better near the best plan. What is near, by turns and by success:
/// what agrees with the relaxed point stays (Danna, Rothberg and Le Pape 2005, "Exploring
/// relaxation induced neighborhoods to improve MIP solutions"); what was drawn by lot stays
/// (Rothberg 2007, "An evolutionary algorithm for polishing mixed integer programming solutions");
/// few binary columns change, two at first and more while that brings nothing (Fischetti and
/// Lodi 2003, "Local branching"; two are the exchanges that real columns may follow). Now and then
/// below the root, the more often the more it found.
class NearBestPlan final : public Heuristic {
 public:
  std::string_view name() const override { return "a search near the best plan"; }
  bool wants(const NodeView& node) const override;
  std::optional<std::vector<double>> look(const NodeView& node) override;

 private:
  enum Way : std::size_t { kAgreeing, kByLot, kFewChanges, kWays };
  /// The part to search; nothing where it would be nearly everything, or nothing.
  [[nodiscard]] std::optional<Problem> part(Way way, const NodeView& node);

  Chooser chooser_{kWays};
  Random random_{1};
  double changes_ = 2.0;
  std::vector<double> around_;  // the plan that changes_ belongs to
  std::int64_t calls_ = 0, points_ = 0, work_ = 0;
  std::int64_t last_at_ = 0;  // node
};

/// The same around the root's relaxed point, while there is no plan: whole values stay, fractional
/// ones may go to either side. Source: Berthold 2014, "RENS: the optimal rounding".
class NearRelaxedPoint final : public Heuristic {
 public:
  std::string_view name() const override { return "a search near the relaxed point"; }
  bool wants(const NodeView& node) const override {
    return node.depth == 0 && node.moment == NodeView::Moment::divided && node.best_plan.empty() &&
           node.part_search;
  }
  std::optional<std::vector<double>> look(const NodeView& node) override;
};

}  // namespace kiteknot::mip
