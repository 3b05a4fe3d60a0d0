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

TEST_CASE("nearly full bases, regular or not, factorise like sparse ones", "[linalg][lu]") {
  Random random(8);
  for (int round = 0; round < 60; ++round) {
    Sample s = draw(random, static_cast<Index>(random.between(17, 90)), random.fraction() * 0.5);
    const double share = 0.3 + 0.7 * random.fraction();
    for (Index c = 0; c < s.m; ++c)
      for (Index i = 0; i < s.m; ++i)
        if (i != c && random.chance(share)) {
          auto& index = s.index[static_cast<std::size_t>(c)];
          if (std::find(index.begin(), index.end(), i) != index.end()) continue;
          index.push_back(i);
          s.value[static_cast<std::size_t>(c)].push_back(random.fraction() - 0.5);
        }
    linalg::Lu lu;
    REQUIRE(lu.factor(s.views()).regular());
    check_solves(lu, s, random);
    // Three columns that are one: two are told, and logicals in their place mend it.
    for (const std::size_t c : {std::size_t{3}, std::size_t{11}}) {
      s.index[c] = s.index[7];
      s.value[c] = s.value[7];
    }
    const linalg::LuReport report = lu.factor(s.views());
    REQUIRE(report.columns_without_pivot.size() == 2);
    REQUIRE(report.rows_without_pivot.size() == 2);
    for (std::size_t k = 0; k < 2; ++k) {
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

namespace {

// The 5-point matrix of a side x side grid.
Sample grid(Index side) {
  Sample s{side * side, {}, {}};
  for (Index i = 0; i < side; ++i)
    for (Index j = 0; j < side; ++j) {
      const Index at = i * side + j;
      std::vector<Index> index = {at};
      std::vector<double> value = {4.0};
      for (const auto& [di, dj] :
           {std::pair(-1, 0), std::pair(1, 0), std::pair(0, -1), std::pair(0, 1)}) {
        if (i + di < 0 || i + di >= side || j + dj < 0 || j + dj >= side) continue;
        index.push_back(at + di * side + dj);
        value.push_back(-1.0);
      }
      s.index.push_back(std::move(index));
      s.value.push_back(std::move(value));
    }
  return s;
}

}  // namespace

TEST_CASE("a structured matrix solves, with little fill", "[linalg][lu]") {
  Random random(6);
  const Sample s = grid(20);
  linalg::Lu lu;
  REQUIRE(lu.factor(s.views()).regular());
  check_solves(lu, s, random);
  // No more fill than a column ordering of minimum degree leaves, give or take.
  Eigen::SparseLU<Eigen::SparseMatrix<double>, Eigen::COLAMDOrdering<int>> reference(s.eigen());
  CHECK(static_cast<double>(lu.num_factor_entries()) <=
        1.3 * static_cast<double>(reference.nnzL() + reference.nnzU()));
}

TEST_CASE("a large sparse basis gives the same answer by searching and by scanning",
          "[linalg][lu]") {
  Random random(7);
  const Sample s = draw(random, 3000, 0.7);
  linalg::Lu lu;
  if (!lu.factor(s.views()).regular()) return;
  linalg::WorkVector sparse, dense;
  for (int round = 0; round < 20; ++round) {
    sparse.reset(s.m);
    dense.reset(s.m);
    const auto i = static_cast<Index>(random.between(0, s.m - 1));
    sparse.add(i, 1.0);
    dense.add(i, 1.0);
    // A vector that is mostly listed, with zeros, takes the scanning path.
    for (Index k = 0; k < s.m; k += 2) dense.add(k, 0.0);
    const bool forward = round % 2 == 0;
    forward ? lu.ftran(sparse, 0.0) : lu.btran(sparse, 0.0);
    forward ? lu.ftran(dense, 0.0) : lu.btran(dense, 0.0);
    for (Index k = 0; k < s.m; ++k) REQUIRE(sparse[k] == Approx(dense[k]).margin(1e-12));
    for (const Index k : sparse.list()) REQUIRE(sparse[k] != 0.0);
  }
}

TEST_CASE("a column that would make the basis singular is refused", "[linalg][lu]") {
  Sample s{3, {{0}, {1}, {2}}, {{1.0}, {1.0}, {1.0}}};
  linalg::Lu lu;
  REQUIRE(lu.factor(s.views()).regular());
  linalg::WorkVector alpha;
  alpha.reset(3);
  alpha.add(0, 1.0);  // again the first unit column, for the second place
  lu.ftran(alpha, 0.0, true);
  CHECK_FALSE(lu.replace(lu.pivot_row()[1], alpha[lu.pivot_row()[1]]));
}

TEST_CASE("nearly singular bases are factorised or reported, and solve to their condition",
          "[linalg][lu]") {
  Random random(8);
  for (int round = 0; round < 100; ++round) {
    Sample s = draw(random, 20, 0.2);
    const double tiny = std::pow(10.0, -static_cast<double>(random.between(3, 13)));
    s.index[3] = s.index[2];  // the same column but for a tiny entry
    s.value[3] = s.value[2];
    s.value[3][0] += tiny;
    linalg::Lu lu;
    if (!lu.factor(s.views()).regular()) continue;
    linalg::WorkVector x;
    x.reset(20);
    x.add(5, 1.0);
    lu.ftran(x, 0.0);
    Eigen::VectorXd solution(20), b = Eigen::VectorXd::Zero(20);
    b[5] = 1.0;
    for (Index c = 0; c < 20; ++c) solution[c] = x[lu.pivot_row()[static_cast<std::size_t>(c)]];
    CHECK((s.eigen() * solution - b).norm() <= 1e-8 * (1.0 + solution.norm()));
  }
}

TEST_CASE("a factor bordered by rows solves like a new one, before and after updates",
          "[linalg][lu]") {
  Random random(21);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const auto m = static_cast<Index>(random.between(2, 60));
    const auto more = static_cast<Index>(random.between(1, 6));
    Sample s = draw(random, m, 0.4);
    linalg::Lu lu;
    if (!lu.factor(s.views()).regular()) continue;
    // Entries of the new rows under the old columns, by the pivot row of each.
    std::vector<std::vector<Index>> index(static_cast<std::size_t>(more));
    std::vector<std::vector<double>> value(static_cast<std::size_t>(more));
    for (Index k = 0; k < more; ++k) {
      const auto line = static_cast<std::size_t>(k);
      for (Index c = 0; c < m; ++c) {
        if (!random.chance(0.2)) continue;
        index[line].push_back(lu.pivot_row()[static_cast<std::size_t>(c)]);
        value[line].push_back(random.fraction() * 4.0 - 2.0);
        s.index[static_cast<std::size_t>(c)].push_back(m + k);
        s.value[static_cast<std::size_t>(c)].push_back(value[line].back());
      }
      s.index.push_back({m + k});
      s.value.push_back({-1.0});
    }
    s.m = m + more;
    std::vector<linalg::ColumnView> lines;
    for (std::size_t k = 0; k < index.size(); ++k) lines.push_back({index[k], value[k]});
    lu.add_rows(lines);
    check_solves(lu, s, random);
    // Replace a column of the grown matrix.
    for (int update = 0; update < 3; ++update) {
      const auto c = static_cast<std::size_t>(random.between(0, s.m - 1));
      std::vector<Index> rows;
      std::vector<double> entries;
      for (Index i = 0; i < s.m; ++i)
        if (static_cast<std::size_t>(i) == c || random.chance(0.1)) {
          rows.push_back(i);
          entries.push_back(random.fraction() + 0.5);
        }
      linalg::WorkVector column;
      column.reset(s.m);
      for (std::size_t e = 0; e < rows.size(); ++e) column.add(rows[e], entries[e]);
      lu.ftran(column, 0.0, true);
      const Index r = lu.pivot_row()[c];
      if (std::abs(column[r]) < 0.05) continue;
      REQUIRE(lu.replace(r, column[r]));
      s.index[c] = rows;
      s.value[c] = entries;
      check_solves(lu, s, random);
    }
  }
}

TEST_CASE("work vectors list their nonzeros and forget the rest", "[linalg][work]") {
  linalg::WorkVector v;
  v.reset(6);
  v.add(4, 2.0);
  v.add(1, -1.0);
  v.add(4, -2.0);
  CHECK(v.list().size() == 2);
  v.relist(1e-12);
  REQUIRE(v.list().size() == 1);
  CHECK(v.list()[0] == 1);
  v.values()[3] = 1e-15;
  v.values()[5] = 7.0;
  const std::vector<Index> places = {1, 3, 5};
  v.relist(places, 1e-12);
  CHECK(v.list().size() == 2);
  CHECK(v[3] == 0.0);
  v.clear();
  for (Index i = 0; i < 6; ++i) CHECK(v[i] == 0.0);
}
