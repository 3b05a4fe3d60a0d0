#include "linalg/lu.hpp"

#include <Eigen/SparseLU>
#include <catch2/catch.hpp>

#include "base/random.hpp"

using namespace kiteknot;
using linalg::Index;

namespace {

// Columns of an m x m matrix in our form and in Eigen's.
struct Sample {
  Index m;
  std::vector<std::vector<Index>> index;
  std::vector<std::vector<double>> value;

  [[nodiscard]] std::vector<linalg::ColumnView> views() const {
    std::vector<linalg::ColumnView> all;
    for (std::size_t c = 0; c < index.size(); ++c) all.push_back({index[c], value[c]});
    return all;
  }
  [[nodiscard]] Eigen::SparseMatrix<double> eigen() const {
    std::vector<Eigen::Triplet<double>> t;
    for (std::size_t c = 0; c < index.size(); ++c)
      for (std::size_t k = 0; k < index[c].size(); ++k)
        t.emplace_back(index[c][k], static_cast<int>(c), value[c][k]);
    Eigen::SparseMatrix<double> a(m, m);
    a.setFromTriplets(t.begin(), t.end());
    return a;
  }
};

// A basis as the simplex meets it: many unit columns, some short, a few long ones; regular by a
// diagonal.
Sample draw(Random& random, Index m, double units) {
  Sample s{m, {}, {}};
  for (Index c = 0; c < m; ++c) {
    std::vector<Index> index = {c};
    std::vector<double> value = {random.chance(0.5) ? 1.0 : random.fraction() * 4.0 - 8.0};
    if (!random.chance(units))
      for (int k = static_cast<int>(random.between(1, 6)); k > 0; --k) {
        const auto row = static_cast<Index>(random.between(0, m - 1));
        if (std::find(index.begin(), index.end(), row) != index.end()) continue;
        index.push_back(row);
        value.push_back(random.chance(0.5) ? 1.0 : random.fraction() * 2.0 - 1.0);
      }
    s.index.push_back(std::move(index));
    s.value.push_back(std::move(value));
  }
  return s;
}

void check_solves(linalg::Lu& lu, const Sample& s, Random& random) {
  const Eigen::SparseMatrix<double> a = s.eigen();
  linalg::WorkVector work;
  work.reset(s.m);
  Eigen::VectorXd b = Eigen::VectorXd::Zero(s.m);
  for (int k = 0; k < 3; ++k) {
    const auto i = static_cast<Index>(random.between(0, s.m - 1));
    work.add(i, 1.5);
    b[i] += 1.5;
  }
  lu.ftran(work, 0.0);
  Eigen::VectorXd x(s.m);
  for (Index c = 0; c < s.m; ++c) x[c] = work[lu.pivot_row()[static_cast<std::size_t>(c)]];
  CHECK((a * x - b).norm() <= 1e-8 * (1.0 + x.norm()));

  work.clear();
  Eigen::VectorXd costs = Eigen::VectorXd::Zero(s.m);
  for (int k = 0; k < 3; ++k) {
    const auto c = static_cast<Index>(random.between(0, s.m - 1));
    work.add(lu.pivot_row()[static_cast<std::size_t>(c)], -2.0);
    costs[c] -= 2.0;
  }
  lu.btran(work, 0.0);
  Eigen::VectorXd y(s.m);
  for (Index i = 0; i < s.m; ++i) y[i] = work[i];
  CHECK((a.transpose() * y - costs).norm() <= 1e-8 * (1.0 + y.norm()));
}

}  // namespace

TEST_CASE("both solves agree with the matrix on random bases", "[linalg][lu]") {
  Random random(1);
  for (int round = 0; round < 300; ++round) {
    const Sample s = draw(random, static_cast<Index>(random.between(1, 60)), random.fraction());
    Eigen::SparseLU<Eigen::SparseMatrix<double>> reference(s.eigen());
    linalg::Lu lu;
    const linalg::LuReport report = lu.factor(s.views());
    if (reference.info() == Eigen::Success) REQUIRE(report.regular());
    if (report.regular()) check_solves(lu, s, random);
  }
}

TEST_CASE("a singular basis names dependent columns, and logicals in their place make it regular",
          "[linalg][lu]") {
  Random random(2);
  for (int round = 0; round < 200; ++round) {
    Sample s = draw(random, static_cast<Index>(random.between(3, 30)), 0.3);
    s.index[1] = s.index[0];  // two columns the same, one a multiple of another
    s.value[1] = s.value[0];
    for (double& v : s.value[1]) v *= 2.0;
    linalg::Lu lu;
    const linalg::LuReport report = lu.factor(s.views());
    REQUIRE_FALSE(report.regular());
    REQUIRE(report.columns_without_pivot.size() == report.rows_without_pivot.size());
    for (std::size_t k = 0; k < report.columns_without_pivot.size(); ++k) {
      const auto c = static_cast<std::size_t>(report.columns_without_pivot[k]);
      s.index[c] = {report.rows_without_pivot[k]};
      s.value[c] = {-1.0};
    }
    REQUIRE(lu.factor(s.views()).regular());
    check_solves(lu, s, random);
  }
}

TEST_CASE("replaced columns solve like a new factorisation", "[linalg][lu]") {
  Random random(4);
  for (int round = 0; round < 60; ++round) {
    Sample s = draw(random, 25, 0.5);
    linalg::Lu lu;
    if (!lu.factor(s.views()).regular()) continue;
    for (int step = 0; step < 20; ++step) {
      const Sample other = draw(random, 25, 0.0);
      const auto c = static_cast<std::size_t>(random.between(0, 24));
      linalg::WorkVector alpha;
      alpha.reset(25);
      for (std::size_t k = 0; k < other.index[c].size(); ++k)
        alpha.add(other.index[c][k], other.value[c][k]);
      lu.ftran(alpha, 0.0, true);
      const Index row = lu.pivot_row()[c];
      if (std::abs(alpha[row]) < 0.05) continue;
      REQUIRE(lu.replace(row, alpha[row]));
      s.index[c] = other.index[c];
      s.value[c] = other.value[c];
      check_solves(lu, s, random);
    }
  }
}

TEST_CASE("a triangular basis factorises without fill", "[linalg][lu]") {
  Sample s{200, {}, {}};
  for (Index c = 0; c < 200; ++c) {
    s.index.push_back(c == 0 ? std::vector<Index>{0} : std::vector<Index>{c, c - 1});
    s.value.push_back(c == 0 ? std::vector<double>{2.0} : std::vector<double>{2.0, 1.0});
  }
  linalg::Lu lu;
  REQUIRE(lu.factor(s.views()).regular());
  CHECK(lu.num_factor_entries() == 399);
}
