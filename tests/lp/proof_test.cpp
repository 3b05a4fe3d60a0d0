#include "lp/proof.hpp"

#include <cmath>

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

// In rationals, with the multipliers as they are taken.
TEST_CASE("the plain bound and its radius enclose what the multipliers prove", "[lp][proof]") {
  Random random(24);
  int finite = 0;
  double widest = 0.0;
  for (int round = 0; round < 400; ++round) {
    CAPTURE(round);
    const auto figure = [&](bool whole) {
      const double size = std::pow(10.0, static_cast<double>(random.between(-3, 9)));
      return whole ? static_cast<double>(random.between(-9, 9))
                   : (random.fraction() - 0.5) * (random.chance(0.1) ? size : 1.0);
    };
    const bool whole = random.chance(0.3);
    lp::Program p;
    const auto columns = random.between(1, 25), rows = random.between(1, 20);
    for (std::int64_t j = 0; j < columns; ++j) {
      const double low = random.chance(0.05) ? -kInf : figure(whole);
      p.add_column(figure(whole), low,
                   random.chance(0.05) ? kInf : std::max(low, -9.0) + std::abs(figure(whole)));
    }
    for (std::int64_t i = 0; i < rows; ++i) {
      std::vector<lp::Entry> entries;
      for (linalg::Index j = 0; j < p.num_columns(); ++j)
        if (random.chance(0.5)) entries.push_back({j, figure(whole)});
      const double low = figure(whole);
      p.add_row(low, low + std::abs(figure(whole)), entries, true);
    }
    std::vector<double> y;
    for (std::int64_t i = 0; i < rows; ++i) y.push_back(random.chance(0.2) ? 0.0 : figure(whole));
    lp::PlainProof proof;
    std::vector<Interval> reduced;
    const lp::PlainBound plain = proof.bound(p, y, reduced);
    if (plain.value == -kInf) continue;
    ++finite;
    Rational exact = 0;
    std::vector<Rational> d;
    for (linalg::Index j = 0; j < p.num_columns(); ++j) d.push_back(Rational::exactly(p.cost(j)));
    for (linalg::Index i = 0; i < p.num_rows(); ++i) {
      const double v = y[static_cast<std::size_t>(i)];
      if (v == 0.0) continue;
      exact += Rational::exactly(v) * Rational::exactly(v > 0.0 ? p.row_lower(i) : p.row_upper(i));
      for (std::size_t e = 0; e < p.rows().index(i).size(); ++e)
        d[static_cast<std::size_t>(p.rows().index(i)[e])] -=
            Rational::exactly(v) * Rational::exactly(p.rows().value(i)[e]);
    }
    for (linalg::Index j = 0; j < p.num_columns(); ++j) {
      const Rational& slope = d[static_cast<std::size_t>(j)];
      const Interval told = reduced[static_cast<std::size_t>(j)];
      CHECK(Rational::exactly(told.low) <= slope);
      CHECK(Rational::exactly(told.high) >= slope);
      if (!slope.is_zero())
        exact += slope * Rational::exactly(slope.sign() > 0 ? p.lower(j) : p.upper(j));
    }
    CHECK(Rational::exactly(plain.value) <= exact);
    CHECK(exact <= Rational::exactly(plain.value) + Rational::exactly(3.0 * plain.radius));
    widest = std::max(widest, plain.radius / (1.0 + std::abs(plain.value)));
  }
  CHECK(finite > 150);
  CHECK(widest < 1e-3);
}
