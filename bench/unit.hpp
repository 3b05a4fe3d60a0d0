#pragma once
// The unit of time of all benchmarks: what Eigen::SparseLU (COLAMD) takes to factorise the 5-point
// matrix of a 150 x 150 grid. Measured several times in the same run, so that figures from
// different machines compare.

#include <functional>
#include <vector>

#include <Eigen/SparseLU>

#include "base/work.hpp"

namespace kiteknot::bench {

inline double least_seconds(int repeats, const std::function<void()>& body) {
  double least = 1e300;
  for (int k = 0; k < repeats; ++k) {
    const Stopwatch clock;
    body();
    least = std::min(least, clock.seconds());
  }
  return least;
}

/// The unit, measured in several short looks spread over a run.
class Unit {
 public:
  Unit() : matrix_(kSide * kSide, kSide * kSide) {
    std::vector<Eigen::Triplet<double>> entries;
    for (int i = 0; i < kSide; ++i)
      for (int j = 0; j < kSide; ++j) {
        const int at = i * kSide + j;
        entries.emplace_back(at, at, 4.0);
        if (i > 0) entries.emplace_back(at, at - kSide, -1.0);
        if (i + 1 < kSide) entries.emplace_back(at, at + kSide, -1.0);
        if (j > 0) entries.emplace_back(at, at - 1, -1.0);
        if (j + 1 < kSide) entries.emplace_back(at, at + 1, -1.0);
      }
    matrix_.setFromTriplets(entries.begin(), entries.end());
  }
  void sample() {
    ++samples_;
    least_ = std::min(
        least_, least_seconds(1, [&] {
          Eigen::SparseLU<Eigen::SparseMatrix<double>, Eigen::COLAMDOrdering<int>> lu(matrix_);
        }));
  }
  [[nodiscard]] double seconds() const { return least_; }
  [[nodiscard]] int samples() const { return samples_; }

 private:
  static constexpr int kSide = 150;
  Eigen::SparseMatrix<double> matrix_;
  double least_ = 1e300;
  int samples_ = 0;
};

inline double unit_seconds(int repeats = 3) {
  Unit unit;
  for (int k = 0; k < repeats; ++k) unit.sample();
  return unit.seconds();
}

}  // namespace kiteknot::bench
