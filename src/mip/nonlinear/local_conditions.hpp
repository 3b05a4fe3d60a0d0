#pragma once
// A local program as a method of Newton's type sees it: minimise c'v with g(v) = 0 and
// low <= v <= high, over the columns that move and a slack for each inequality. Equations are
// scaled so that their derivatives at the start are near 1.

#include <vector>

#include <Eigen/SparseCore>

#include "base/at.hpp"
#include "mip/nonlinear/local_solver.hpp"

namespace kiteknot::mip {

class LocalConditions {
 public:
  using Vector = Eigen::VectorXd;
  using Triplets = std::vector<Eigen::Triplet<double>>;

  /// The program outlives it. The start is brought within the bounds.
  LocalConditions(const LocalProgram& program, std::vector<double> start);

  [[nodiscard]] int size() const { return static_cast<int>(low_.size()); }
  [[nodiscard]] int equations() const { return static_cast<int>(slack_.size()); }
  [[nodiscard]] double low(int i) const { return low_[at(i)]; }
  [[nodiscard]] double high(int i) const { return high_[at(i)]; }
  [[nodiscard]] const std::vector<double>& costs() const { return cost_; }
  [[nodiscard]] Vector start() const {
    return Eigen::Map<const Vector>(start_.data(), static_cast<Eigen::Index>(start_.size()));
  }
  /// All columns of the program, those that are held too.
  [[nodiscard]] const std::vector<double>& point_of(const Vector& v);
  /// g(v), and its derivatives where they are wanted: `shift` before the rows of the equations.
  Vector values(const Vector& v, Triplets* jacobian, int shift);
  /// Adds the second derivatives of y'g where the values were taken last, lower triangle.
  void curvature(const Vector& y, Triplets& out);

 private:
  struct Linear {
    const RowView* row;
    double scale;
  };
  struct Smooth {
    const SmoothRows* rows;
    Index k;
    double scale;
  };
  int add(double low, double high, double start, double cost);
  void add_slack(const Interval& limits, double value);
  [[nodiscard]] double value_of(const RowView& row) const;

  const LocalProgram& p_;
  std::vector<double> point_;
  std::vector<int> place_;  // by columns: among what moves; -1: held
  std::vector<Linear> linear_;
  std::vector<Smooth> smooth_;
  std::vector<int> slack_;  // by equations; -1: none
  std::vector<double> low_, high_, start_, cost_;
};

}  // namespace kiteknot::mip
