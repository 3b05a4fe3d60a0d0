#pragma once

#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// Down to a point: fractional columns are fixed a few at a time, each with propagation, and the
/// relaxation is solved again in between, until every whole column has a whole value. Where that
/// fails the last column goes the other way, once at every step. Columns next to a whole value come
/// first, or, every other time, those that the fewest rows keep from moving there. At the root, and
/// below it the more often the more it found. Source: Berthold 2006, "Primal heuristics for mixed
/// integer programs", chapter 3.
class Dive final : public Heuristic {
 public:
  std::string_view name() const override { return "a dive"; }
  bool wants(const Sighting& node) const override;
  std::optional<std::vector<double>> look(const Sighting& node) override;

 private:
  struct Step {
    Index column = -1;
    double near = 0.0, far = 0.0;  // whole values on either side of the point's
    double score = 0.0;            // the least goes first
  };
  void list_steps(const Sighting& node, std::span<const double> point);
  [[nodiscard]] double locks(const Problem& problem, Index j, bool up) const;
  bool fix(const Sighting& node, Index j, double value);
  /// Solves; false where nothing better is left, or it took too long.
  bool relax(const Sighting& node);
  bool descend(const Sighting& node);

  std::vector<Step> steps_;
  bool by_locks_ = false;
  std::int64_t calls_ = 0, points_ = 0, work_ = 0;
};

}  // namespace kiteknot::mip
