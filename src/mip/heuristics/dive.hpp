#pragma once

#include "mip/heuristics/chooser.hpp"
#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// Down to a point: fractional columns are fixed a few at a time, each with propagation, and the
/// relaxation is solved again in between, until every whole column has a whole value. Where that
/// fails the last column goes the other way, once at every step. Which columns come first, and
/// where they go, is taken by turns and by success: next to a whole value; fewest rows in the way;
/// where the best plan has them; least rise of the goal by what branchings have shown. At the root,
/// and below it the more often the more it found. Sources: Berthold 2006, "Primal heuristics for
/// mixed integer programs", chapter 3; Achterberg 2007, section 9.3.
class Dive final : public Heuristic {
 public:
  std::string_view name() const override { return "a dive"; }
  bool wants(const NodeView& node) const override;
  std::optional<std::vector<double>> look(const NodeView& node) override;

 private:
  struct Step {
    Index column = -1;
    double near = 0.0, far = 0.0;  // whole values on either side of the point's
    double score = 0.0;            // the least goes first
  };
  void rate(Step& step, double part, const NodeView& node) const;
  void list_steps(const NodeView& node, std::span<const double> point);
  [[nodiscard]] double locks(const Problem& problem, Index j, bool up) const;
  bool fix(const NodeView& node, Index j, double value);
  /// Solves; false where nothing better is left, or it took too long.
  bool relax(const NodeView& node);
  bool descend(const NodeView& node);

  std::vector<Step> steps_;
  enum Way : std::size_t { kNearest, kFewestRows, kLikeThePlan, kLeastRise, kWays };
  Way way_ = kNearest;
  Chooser chooser_{kWays};
  std::int64_t calls_ = 0, points_ = 0, work_ = 0;
};

}  // namespace kiteknot::mip
