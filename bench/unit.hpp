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

inline double unit_seconds(int repeats = 3) {
  constexpr int kSide = 150;
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
  Eigen::SparseMatrix<double> a(kSide * kSide, kSide * kSide);
  a.setFromTriplets(entries.begin(), entries.end());
  return least_seconds(repeats, [&] {
    Eigen::SparseLU<Eigen::SparseMatrix<double>, Eigen::COLAMDOrdering<int>> lu(a);
  });
}

}  // namespace kiteknot::bench
