#pragma once
// Who takes the points that a search for points finds, and which are still of interest.

#include <limits>
#include <span>
#include <vector>

#include "linalg/lines.hpp"
#include "mip/domain/cutoff.hpp"

namespace kiteknot::mip {

using linalg::Index;

class PointReceiver {
 public:
  virtual ~PointReceiver() = default;
  /// Points with this goal or more are of no interest.
  [[nodiscard]] double below() const noexcept { return below_; }
  /// What a point may cost above the bound of its node.
  [[nodiscard]] double room() const noexcept { return room_; }
  /// Rows whose values take() wants to know.
  [[nodiscard]] const std::vector<Index>& rows() const noexcept { return rows_; }
  /// A point within the problem's limits and below(); may change below() and room().
  virtual void take(std::span<const double> point, double goal, std::span<const double> values) = 0;

 protected:
  double below_ = std::numeric_limits<double>::infinity();
  double room_ = std::numeric_limits<double>::infinity();
  std::vector<Index> rows_;
};

/// The best point below a goal that moves in steps, at a node with a bound.
class BestPoint final : public PointReceiver {
 public:
  explicit BestPoint(const Cutoff& cutoff = {},
                     double bound = -std::numeric_limits<double>::infinity())
      : cutoff_(cutoff), bound_(bound) {
    lower(cutoff.best);
  }
  void take(std::span<const double> point, double goal, std::span<const double>) override {
    lower(goal);
    point_.assign(point.begin(), point.end());
  }
  [[nodiscard]] bool found() const noexcept { return !point_.empty(); }
  [[nodiscard]] const std::vector<double>& point() const noexcept { return point_; }

 private:
  void lower(double best) {
    cutoff_.best = below_ = best;
    room_ = cutoff_.room(bound_);
  }
  Cutoff cutoff_;
  double bound_;
  std::vector<double> point_;
};

}  // namespace kiteknot::mip
