#include "lp/exact_basis.hpp"

#include <catch2/catch.hpp>

#include "support/random_programs.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using lp::Status;

TEST_CASE("exact values meet every basic equation to the last digit", "[lp][exact]") {
  Random random(301);
  int thirds = 0;
  for (int round = 0; round < 300; ++round) {
    lp::Simplex s(draw_program(random, {.columns = 8, .rows = 6, .infinite = 0.2}));
    if (s.solve().status != Status::optimal) continue;
    const lp::Program& p = s.program();
    const lp::Basis basis = s.basis();
    const auto x = lp::exact_values(p, basis);
    REQUIRE(x);
    for (lp::Index j = 0; j < p.num_columns(); ++j) {
      const Rational& value = (*x)[static_cast<std::size_t>(j)];
      thirds += value.is_integer() ? 0 : 1;
      CHECK(std::abs(value.to_double() - s.column_values()[static_cast<std::size_t>(j)]) <= 1e-7);
    }
    for (lp::Index i = 0; i < p.num_rows(); ++i) {
      if (basis.rows[static_cast<std::size_t>(i)] == lp::VariableStatus::basic) continue;
      Rational activity = 0;
      for (std::size_t k = 0; k < p.rows().index(i).size(); ++k)
        activity += Rational::exactly(p.rows().value(i)[k]) *
                    (*x)[static_cast<std::size_t>(p.rows().index(i)[k])];
      const bool low = basis.rows[static_cast<std::size_t>(i)] == lp::VariableStatus::at_lower;
      const double limit = low ? p.row_lower(i) : p.row_upper(i);
      if (std::isfinite(limit)) CHECK(activity == Rational::exactly(limit));
    }
  }
  CHECK(thirds > 50);
}

TEST_CASE("the exact bound of an optimal basis is the goal of its exact values", "[lp][exact]") {
  Random random(302);
  int compared = 0;
  for (int round = 0; round < 600; ++round) {
    lp::Simplex s(draw_program(random, {.columns = 7, .rows = 6, .infinite = 0.4}));
    if (s.solve().status != Status::optimal) continue;
    const auto x = lp::exact_values(s.program(), s.basis());
    const auto bound = lp::exact_bound(s.program(), s.basis());
    REQUIRE(x);
    REQUIRE(bound);
    Rational goal = 0;
    for (lp::Index j = 0; j < s.program().num_columns(); ++j)
      goal += Rational::exactly(s.program().cost(j)) * (*x)[static_cast<std::size_t>(j)];
    CHECK(goal == *bound);
    ++compared;
  }
  CHECK(compared > 100);
}

TEST_CASE("limits and inexact rows make the exact look decline, not err", "[lp][exact]") {
  lp::Simplex s;
  s.add_column(-1.0, 0.0, kInf);
  s.add_column(-1.0, 0.0, kInf);
  s.add_row(-kInf, 1.0, {{0, 3.0}, {1, 1.0}}, true);
  s.add_row(-kInf, 1.0, {{0, 1.0}, {1, 3.0}}, true);
  REQUIRE(s.solve().status == Status::optimal);
  CHECK(lp::exact_bound(s.program(), s.basis()) == Rational::ratio(-1, 2));
  CHECK_FALSE(lp::exact_bound(s.program(), s.basis(), {.max_kernel = 1}));
  CHECK_FALSE(lp::exact_values(s.program(), s.basis(), {.max_kernel = 1}));
  CHECK_FALSE(lp::exact_values(s.program(), s.basis(), {.max_work = 0}));
  CHECK_FALSE(lp::exact_values(s.program(), lp::Basis{}));
  lp::Simplex inexact;
  inexact.add_column(1.0, 0.0, kInf);
  inexact.add_row(1.0, kInf, {{0, 0.1}}, false);
  REQUIRE(inexact.solve().status == Status::optimal);
  CHECK_FALSE(lp::exact_bound(inexact.program(), inexact.basis()));
}

TEST_CASE("infeasibility with unbounded columns is proven in rationals", "[lp][exact]") {
  // x - 3y >= 1, -x + 3y >= 1, both free above: thirds make rounding noise.
  lp::Simplex s;
  s.add_column(0.0, 0.0, kInf);
  s.add_column(0.0, 0.0, kInf);
  s.add_row(1.0, kInf, {{0, 1.0}, {1, -3.0}}, true);
  s.add_row(1.0, kInf, {{0, -1.0}, {1, 3.0}}, true);
  CHECK(s.solve().status == Status::infeasible);
  Random random(303);
  int found = 0;
  for (int round = 0; round < 300; ++round) {
    lp::Simplex t(draw_program(random, {.columns = 6, .rows = 6, .infinite = 0.9}));
    const lp::Report report = t.solve();
    CHECK(report.status != Status::undecided);
    found += report.status == Status::infeasible;
  }
  CHECK(found > 20);
}
