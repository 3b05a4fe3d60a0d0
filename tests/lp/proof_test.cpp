#include "lp/proof.hpp"

#include <catch2/catch.hpp>

#include "support/random_programs.hpp"
#include "support/vertex_oracle.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

TEST_CASE("any multipliers at all give a bound below the true optimum", "[lp][proof]") {
  Random random(21);
  int finite = 0;
  for (int round = 0; round < 1500; ++round) {
    const lp::Program p = draw_program(random, {.columns = 3, .rows = 3, .infinite = 0.1});
    const Truth truth = truth_of(p);
    if (truth.kind != Truth::Kind::optimal) continue;
    for (int k = 0; k < 4; ++k) {
      std::vector<double> y;
      for (linalg::Index i = 0; i < p.num_rows(); ++i) y.push_back(random.fraction() * 4.0 - 2.0);
      const double bound = lp::safe_bound(p, y);
      if (std::isinf(bound)) continue;
      ++finite;
      CHECK(Rational::exactly(bound) <= truth.value);
    }
  }
  CHECK(finite > 500);
}

TEST_CASE("nothing proves a feasible program infeasible", "[lp][proof]") {
  Random random(22);
  int proven = 0;
  for (int round = 0; round < 1500; ++round) {
    const lp::Program p = draw_program(random, {.columns = 3, .rows = 3, .infinite = 0.1});
    const bool feasible = truth_of(p).kind != Truth::Kind::infeasible;
    for (int k = 0; k < 6; ++k) {
      std::vector<double> y;
      for (linalg::Index i = 0; i < p.num_rows(); ++i)
        y.push_back(static_cast<double>(random.between(-2, 2)));
      const bool proof = lp::proves_infeasible(p, y);
      if (feasible) CHECK_FALSE(proof);
      proven += proof ? 1 : 0;
    }
  }
  CHECK(proven > 50);
}

TEST_CASE("a coefficient known only to its last digit widens the bound", "[lp][proof]") {
  lp::Program p;
  p.add_column(1.0, 0.0, 10.0);
  p.add_row(1.0, kInf, {{0, 0.1}}, false);
  // With y = 10 the bound is 10 for exactly 0.1, and must not reach it for "0.1 or a neighbour".
  const std::vector<double> y = {10.0};
  CHECK(lp::safe_bound(p, y) < 10.0);
  CHECK(lp::safe_bound(p, y) > 10.0 - 1e-12);
}

TEST_CASE("multipliers that point at an infinite limit or are no numbers do no harm",
          "[lp][proof]") {
  lp::Program p;
  p.add_column(1.0, -3.0, 10.0);
  p.add_row(-kInf, 5.0, {{0, 1.0}}, true);
  CHECK(lp::safe_bound(p, std::vector<double>{2.0}) == -3.0);
  CHECK(lp::safe_bound(p, std::vector<double>{std::nan("")}) == -3.0);
  CHECK_FALSE(lp::proves_infeasible(p, std::vector<double>{std::nan("")}));
}
