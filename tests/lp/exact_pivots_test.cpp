// The exact simplex, from any start, against every vertex; ends that rows imply; refinement that
// has to go on by exact pivots.
#include "lp/exact_pivots.hpp"

#include <cmath>

#include <catch2/catch.hpp>

#include "lp/proof.hpp"
#include "lp/refinement.hpp"
#include "support/random_programs.hpp"
#include "support/vertex_oracle.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using lp::Index;
using lp::Status;

namespace {

Rational worth(const lp::Program& p, const std::vector<Rational>& x) {
  Rational goal = 0;
  for (Index j = 0; j < p.num_columns(); ++j)
    goal += p.exact_cost(j) * x[static_cast<std::size_t>(j)];
  return goal;
}

}  // namespace

TEST_CASE("exact pivots from the rows alone end as looking at every vertex does", "[lp][exact]") {
  Random random(411);
  int ends[3] = {0, 0, 0}, pivots = 0;
  for (int round = 0; round < 250; ++round) {
    CAPTURE(round);
    const lp::Program p = draw_program(random, {.columns = 4, .rows = 4, .infinite = 0.4});
    const lp::Simplex fresh(p);
    const Truth truth = truth_of(p);
    const auto end = lp::exact_pivots(p, fresh.basis());
    REQUIRE(end);
    pivots += end->pivots;
    ++ends[static_cast<int>(truth.kind)];
    if (truth.kind == Truth::Kind::infeasible) {
      CHECK(end->status == Status::infeasible);
    } else if (truth.kind == Truth::Kind::unbounded) {
      CHECK(end->status == Status::unbounded);
      CHECK(worth(p, end->ray) < Rational(0));
    } else {
      REQUIRE(end->status == Status::optimal);
      CHECK(lp::fits_exactly(p, end->x));
      CHECK(worth(p, end->x) == truth.value);
    }
  }
  CHECK(pivots > 250);
  for (const int count : ends) CHECK(count > 15);
}

TEST_CASE("a limit on exact pivots is kept", "[lp][exact]") {
  Random random(412);
  int limited = 0;
  for (int round = 0; round < 40; ++round) {
    const lp::Program p = draw_program(random, {.columns = 8, .rows = 6, .infinite = 0.0});
    const auto end = lp::exact_pivots(p, lp::Simplex(p).basis(), {1, {}});
    REQUIRE(end);
    CHECK(end->pivots <= 1);
    limited += end->status == Status::limit ? 1 : 0;
  }
  CHECK(limited > 10);
}

TEST_CASE("refinement tells optimal and infeasible exactly, whatever basis it is given",
          "[lp][exact]") {
  Random random(413);
  int told = 0;
  for (int round = 0; round < 250; ++round) {
    CAPTURE(round);
    const lp::Program p = draw_program(random, {.columns = 4, .rows = 4, .infinite = 0.3});
    const lp::Simplex fresh(p);  // its basis is as far from optimal as can be
    const Truth truth = truth_of(p);
    const lp::Refined end = lp::refined(fresh);
    if (end.status == Status::undecided) continue;
    ++told;
    REQUIRE((end.status == Status::optimal) == (truth.kind == Truth::Kind::optimal));
    REQUIRE((end.status == Status::infeasible) == (truth.kind == Truth::Kind::infeasible));
    if (end.status != Status::optimal) continue;
    CHECK(*lp::exact_bound(p, end.basis) == truth.value);
    CHECK(worth(p, *lp::exact_values(p, end.basis)) == truth.value);
  }
  CHECK(told > 200);
}

// The same program in other units: each row and column in its own power of ten, rounded, so that
// ties in the first are told apart by the last digits only.
TEST_CASE("refinement proves programs in units from 1e-6 to 1e6", "[lp][exact]") {
  Random random(415);
  for (int round = 0; round < 8; ++round) {
    CAPTURE(round);
    constexpr int kRows = 40, kColumns = 160;
    lp::Simplex s;
    std::vector<double> row, column;
    const auto unit = [&](int most) {
      return std::pow(10.0, static_cast<double>(random.between(-most, most)));
    };
    for (int j = 0; j < kColumns; ++j) {
      column.push_back(unit(2));
      s.add_column(static_cast<double>(random.between(1, 9)) / column.back(), 0.0, column.back());
    }
    for (int i = 0; i < kRows; ++i) {
      row.push_back(unit(4));
      std::vector<lp::Entry> entries;
      for (int j = 0; j < kColumns; ++j)
        if (random.chance(0.08) || j == i)
          entries.push_back({j, row.back() / column[static_cast<std::size_t>(j)]});
      s.add_row(row.back(), kInf, entries, true);
    }
    REQUIRE(s.solve().status == Status::optimal);
    const lp::Refined end = lp::refined(s);
    REQUIRE(end.status == Status::optimal);
    const auto x = lp::exact_values(s.program(), end.basis);
    const auto bound = lp::exact_bound(s.program(), end.basis);
    REQUIRE(x);
    REQUIRE(bound);
    CHECK(lp::fits_exactly(s.program(), *x));
    CHECK(worth(s.program(), *x) == *bound);
  }
}

TEST_CASE("rows that cancel in doubles are told apart exactly", "[lp][exact]") {
  // x + y >= 1 + 2^-52 and x + y <= 1: one step of the last digit apart.
  lp::Simplex s;
  for (int j = 0; j < 2; ++j) s.add_column(1.0, 0.0, 1.0);
  s.add_row(1.0 + 0x1p-52, kInf, {{0, 1.0}, {1, 1.0}}, true);
  s.add_row(-kInf, 1.0, {{0, 1.0}, {1, 1.0}}, true);
  CHECK(lp::refined(s).status == Status::infeasible);
  const Status told = s.solve().status;
  CHECK((told == Status::infeasible || told == Status::optimal));  // within tolerances
}

TEST_CASE("ends that rows imply hold at every vertex and make bounds finite", "[lp][proof]") {
  Random random(414);
  int helped = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    lp::Program p = draw_program(random, {.columns = 4, .rows = 4, .infinite = 0.6});
    const Truth truth = truth_of(p);
    if (truth.kind == Truth::Kind::infeasible) continue;
    WorkCounter work;
    lp::ImpliedEnds ends;
    ends.update(p, kInf, work);
    // No column can be pushed past an end: with it as the goal, the best vertex stays within.
    for (Index j = 0; j < p.num_columns(); ++j)
      for (const double side : {1.0, -1.0}) {
        const double own = side > 0.0 ? p.lower(j) : p.upper(j);
        const double end = side > 0.0 ? ends.lower(p, j) : ends.upper(p, j);
        if (!std::isinf(own) || !std::isfinite(end)) continue;
        lp::Program alone = p;
        for (Index k = 0; k < p.num_columns(); ++k) alone.set_cost(k, k == j ? side : 0.0);
        const Truth least = truth_of(alone);
        REQUIRE(least.kind == Truth::Kind::optimal);
        CHECK(least.value >= Rational::exactly(side * end));
        ++helped;
      }
    if (truth.kind != Truth::Kind::optimal) continue;
    // With ends at hand the bound of perturbed multipliers is still one.
    lp::Simplex s(p);
    REQUIRE(s.solve().status == Status::optimal);
    std::vector<double> y = s.row_duals();
    for (double& v : y) v += 1e-3 * (random.fraction() - 0.5);
    std::vector<Interval> reduced;
    const double bound = lp::safe_bound_in_place(p, y, reduced, &ends);
    if (std::isfinite(bound)) CHECK(Rational::exactly(bound) <= truth.value);
    // Tighter bounds leave the ends standing.
    p.set_bounds(0, std::isinf(p.lower(0)) ? ends.lower(p, 0) : p.lower(0), p.upper(0));
    const std::int64_t before = work.units();
    ends.update(p, kInf, work);
    CHECK(work.units() - before == p.num_columns() + p.num_rows());
  }
  CHECK(helped > 50);
}

TEST_CASE("a storage chain without bounds has a finite quick bound", "[lp][proof]") {
  // stock_t = stock_t-1 + made_t - wanted_t, made_t <= 10: stocks are bounded by rows alone.
  lp::Simplex s;
  constexpr int kPeriods = 12;
  for (int t = 0; t < kPeriods; ++t) {
    s.add_column(1.0 + t % 3, 0.0, 10.0);  // made
    s.add_column(0.1, 0.0, kInf);          // stock
  }
  for (int t = 0; t < kPeriods; ++t) {
    std::vector<lp::Entry> row = {{2 * t, 1.0}, {2 * t + 1, -1.0}};
    if (t > 0) row.push_back({2 * t - 1, 1.0});
    s.add_row(4.0 + t % 2, 4.0 + t % 2, row, true);
  }
  REQUIRE(s.solve().status == Status::optimal);
  std::vector<double> y = s.row_duals();
  for (double& v : y) v += 1e-9;  // as rounding leaves them: no bound by the columns' own ends
  CHECK(std::isinf(lp::safe_bound(s.program(), y)));
  WorkCounter work;
  lp::ImpliedEnds ends;
  ends.update(s.program(), kInf, work);
  std::vector<Interval> reduced;
  const double bound = lp::safe_bound_in_place(s.program(), y, reduced, &ends);
  const auto exact = lp::exact_bound(s.program(), s.basis());
  REQUIRE(exact);
  CHECK(bound <= exact->to_double());
  CHECK(bound >= exact->to_double() - 1e-5);
}

TEST_CASE("amounts that only cost are bounded by the goal, and bounds hold without exact work",
          "[lp][proof]") {
  // wanted_i <= made_i + bought_i, with no end to what is bought at a price.
  Random random(415);
  int helped = 0;
  for (int round = 0; round < 200; ++round) {
    CAPTURE(round);
    lp::Simplex s;
    const auto n = static_cast<Index>(random.between(2, 6));
    for (Index i = 0; i < n; ++i) {
      s.add_column(static_cast<double>(random.between(1, 9)) / 7.0, 0.0, 4.0);
      s.add_column(static_cast<double>(random.between(3, 30)) / 7.0, 0.0, kInf);
    }
    for (Index i = 0; i < n; ++i)
      s.add_row(static_cast<double>(random.between(1, 30)) / 3.0, kInf,
                {{2 * i, 1.0 / 3.0}, {2 * i + 1, 0.7}, {(2 * i + 3) % (2 * n), 0.1}}, true);
    REQUIRE(s.solve().status == Status::optimal);
    const auto exact = lp::exact_bound(s.program(), s.basis());
    REQUIRE(exact);
    const double truth = exact->to_double();
    WorkCounter work;
    lp::ImpliedEnds ends;
    ends.update(s.program(), truth, work);
    CHECK(ends.goal_limit() > truth);
    CHECK(std::isfinite(ends.goal_limit()));
    std::vector<double> y = s.row_duals();
    for (double& v : y) v += 1e-12 * (random.fraction() - 0.5);
    const bool none = std::isinf(lp::safe_bound(s.program(), y));
    std::vector<Interval> reduced;
    const double bound =
        std::min(lp::safe_bound_in_place(s.program(), y, reduced, &ends), ends.goal_limit());
    CHECK(Rational::exactly(bound) <= *exact);
    CHECK(bound >= truth - 1e-6 * (1.0 + truth));
    helped += none ? 1 : 0;
    // A goal far beyond it needs ends of its own.
    const double limit = ends.goal_limit();
    ends.update(s.program(), truth + 1.0, work);
    CHECK(ends.goal_limit() == limit);
    ends.update(s.program(), 2.0 * limit, work);
    CHECK(ends.goal_limit() > 2.0 * limit);
    CHECK(s.bound() >= truth - 1e-6 * (1.0 + truth));
    CHECK(Rational::exactly(s.bound()) <= *exact);
    CHECK(s.bound_holds_to() > truth);
  }
  CHECK(helped > 100);
}

TEST_CASE("ends that rest on a goal go with it", "[lp][proof]") {
  // x costs nothing once y alone is asked for: what x may be then is not what its price allowed.
  lp::Simplex s;
  s.add_column(1.0, 0.0, kInf);
  s.add_column(0.0, 0.0, kInf);
  s.add_row(1.0, kInf, {{0, 1.0 / 3.0}, {1, 0.1}}, true);
  s.add_row(-kInf, 1e6, {{1, 1.0}, {0, -0.7}}, true);
  REQUIRE(s.solve().status == Status::optimal);
  (void)s.bound();
  for (const double cost : {0.0, 1.0, 0.0}) {
    s.set_cost(0, cost);
    s.set_cost(1, cost == 0.0 ? -1.0 : 0.0);
    s.add_row(-kInf, 5e6, {{0, 1.0}}, true);
    REQUIRE(s.solve().status == Status::optimal);
    const auto exact = lp::exact_bound(s.program(), s.basis());
    REQUIRE(exact);
    CHECK(Rational::exactly(s.bound()) <= *exact);
  }
  // The ends themselves: with the goal gone there is none for x.
  lp::Program p;
  p.add_column(1.0, 0.0, kInf);
  p.add_column(1.0, 0.0, kInf);
  p.add_row(1.0, kInf, {{0, 1.0}, {1, 1.0}}, true);
  WorkCounter work;
  lp::ImpliedEnds ends;
  ends.update(p, 1.0, work);
  CHECK(std::isfinite(ends.upper(p, 0)));
  p.set_cost(0, 0.0);
  ends.forget_goal();
  ends.update(p, 1.0, work);
  CHECK(std::isinf(ends.upper(p, 0)));
  CHECK(std::isfinite(ends.upper(p, 1)));
}
