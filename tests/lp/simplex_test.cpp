#include "lp/simplex.hpp"

#include <cmath>

#include <catch2/catch.hpp>

#include "kiteknot/errors.hpp"
#include "lp/exact_basis.hpp"
#include "lp/proof.hpp"
#include "support/random_programs.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using lp::Status;

TEST_CASE("a textbook program gives values, duals and reduced costs with the right signs", "[lp]") {
  // minimise -3x - 5y; x <= 4, 2y <= 12, 3x + 2y <= 18: x = 2, y = 6.
  lp::Simplex s;
  s.add_column(-3.0, 0.0, kInf);
  s.add_column(-5.0, 0.0, kInf);
  s.add_row(-kInf, 4.0, {{0, 1.0}}, true);
  s.add_row(-kInf, 12.0, {{1, 2.0}}, true);
  s.add_row(-kInf, 18.0, {{0, 3.0}, {1, 2.0}}, true);
  const lp::Report report = s.solve();
  REQUIRE(report.status == Status::optimal);
  CHECK(report.objective == Approx(-36.0));
  CHECK(s.column_values()[0] == Approx(2.0));
  CHECK(s.column_values()[1] == Approx(6.0));
  const std::vector<double> y = s.row_duals();  // change of the goal per unit of the limit
  CHECK(y[0] == Approx(0.0).margin(1e-12));
  CHECK(y[1] == Approx(-1.5));
  CHECK(y[2] == Approx(-1.0));
  CHECK(s.row_values()[2] == Approx(18.0));
  // Raising a limit by one moves the goal by its dual.
  s.set_row_limits(2, -kInf, 19.0);
  (void)s.solve();
  CHECK(-36.0 + y[2] == Approx(-37.0));
  CHECK(s.program().cost(0) * s.column_values()[0] + s.program().cost(1) * s.column_values()[1] ==
        Approx(-37.0));
}

TEST_CASE("the classic cycling example ends at its optimum", "[lp]") {
  // Beale 1955.
  lp::Simplex s;
  for (const double c : {-0.75, 20.0, -0.5, 6.0}) s.add_column(c, 0.0, kInf);
  s.add_row(-kInf, 0.0, {{0, 0.25}, {1, -8.0}, {2, -1.0}, {3, 9.0}}, true);
  s.add_row(-kInf, 0.0, {{0, 0.5}, {1, -12.0}, {2, -0.5}, {3, 3.0}}, true);
  s.add_row(-kInf, 1.0, {{2, 1.0}}, true);
  REQUIRE(s.solve().status == Status::optimal);
  CHECK(lp::exact_bound(s.program(), s.basis()) == Rational::ratio(-5, 4));
}

TEST_CASE("Kuhn's cycling example ends at its optimum, whatever the method", "[lp]") {
  lp::Program p;
  const double cost[] = {-2.0, -3.0, 1.0, 12.0};
  for (const double c : cost) p.add_column(c, 0.0, kInf);
  p.add_row(-kInf, 0.0, {{0, -2.0}, {1, -9.0}, {2, 1.0}, {3, 9.0}}, true);
  p.add_row(-kInf, 0.0, {{0, 1.0}, {1, 3.0}, {2, -1.0}, {3, -6.0}}, true);
  p.add_row(-kInf, 2.0, {{0, 2.0}, {1, 3.0}, {2, -1.0}, {3, -12.0}}, true);
  for (const lp::Path path : {lp::Path::choose, lp::Path::dual, lp::Path::primal}) {
    lp::Simplex s(p);
    lp::SimplexOptions options;
    options.path = path;
    options.max_pivots = 5000;
    REQUIRE(s.solve(options).status == Status::optimal);
    CHECK(s.bound() == Approx(-2.0));
  }
}

TEST_CASE("Klee and Minty's cubes end at the far corner", "[lp]") {
  for (int n = 2; n <= 12; ++n) {
    lp::Simplex s;
    for (int j = 0; j < n; ++j) s.add_column(-std::ldexp(1.0, n - 1 - j), 0.0, kInf);
    for (int i = 0; i < n; ++i) {
      std::vector<lp::Entry> row;
      for (int j = 0; j < i; ++j) row.push_back({j, std::ldexp(1.0, i - j + 1)});
      row.push_back({i, 1.0});
      s.add_row(-kInf, std::pow(5.0, i + 1), row, true);
    }
    const lp::Report report = s.solve();
    REQUIRE(report.status == Status::optimal);
    CHECK(report.objective == Approx(-std::pow(5.0, n)));
  }
}

TEST_CASE("rows without entries, duplicates and contradictions are judged rightly", "[lp]") {
  SECTION("an empty row that allows 0") {
    lp::Simplex s;
    s.add_column(1.0, 2.0, 5.0);
    s.add_row(-1.0, 1.0, {}, true);
    REQUIRE(s.solve().status == Status::optimal);
    CHECK(s.column_values()[0] == 2.0);
  }
  SECTION("an empty row that does not") {
    lp::Simplex s;
    s.add_column(1.0, 2.0, 5.0);
    s.add_row(1.0, 2.0, {}, true);
    CHECK(s.solve().status == Status::infeasible);
  }
  SECTION("duplicated rows") {
    lp::Simplex s;
    s.add_column(-1.0, 0.0, kInf);
    s.add_column(-1.0, 0.0, kInf);
    for (int k = 0; k < 5; ++k) s.add_row(3.0, 3.0, {{0, 1.0}, {1, 1.0}}, true);
    REQUIRE(s.solve().status == Status::optimal);
    s.add_row(4.0, 4.0, {{0, 1.0}, {1, 1.0}}, true);
    CHECK(s.solve().status == Status::infeasible);
  }
  SECTION("nothing at all") {
    lp::Simplex s;
    CHECK(s.solve().status == Status::optimal);
  }
  SECTION("a free column that the goal pulls") {
    lp::Simplex s;
    s.add_column(1.0, -kInf, kInf);
    CHECK(s.solve().status == Status::unbounded);
    REQUIRE(s.ray().size() == 1);
    CHECK(s.ray()[0] < 0.0);
  }
}

TEST_CASE("a Hilbert-like matrix keeps its answer within the exact one", "[lp]") {
  const int n = 8;
  lp::Simplex s;
  for (int j = 0; j < n; ++j) s.add_column(1.0 + j, 0.0, 10.0);
  for (int i = 0; i < n; ++i) {
    std::vector<lp::Entry> row;
    double sum = 0.0;
    for (int j = 0; j < n; ++j) {
      row.push_back({j, 1.0 / (i + j + 1)});
      sum += 1.0 / (i + j + 1);
    }
    s.add_row(sum, kInf, row, true);
  }
  const lp::Report report = s.solve();
  REQUIRE(report.status == Status::optimal);
  const auto exact = lp::exact_bound(s.program(), s.basis(), {});
  if (exact) CHECK(report.objective == Approx(exact->to_double()).epsilon(1e-5));
  CHECK(Rational::exactly(s.bound()) <=
        Rational::exactly(report.objective) + Rational::ratio(1, 1000));
}

TEST_CASE("a cutoff stops the search once the bound has passed it", "[lp]") {
  Random random(8);
  int stopped = 0;
  for (int round = 0; round < 200; ++round) {
    lp::Program p = draw_program(random, {.columns = 8, .rows = 8, .infinite = 0.0});
    lp::Simplex full(p), cut(p);
    const lp::Report whole = full.solve();
    if (whole.status != Status::optimal) continue;
    lp::SimplexOptions options;
    options.cutoff = whole.objective - 1.0;
    const lp::Report early = cut.solve(options);
    if (early.status != Status::cutoff) continue;
    ++stopped;
    CHECK(cut.bound() > options.cutoff);
    CHECK(cut.bound() <= whole.objective + 1e-6);
  }
  CHECK(stopped > 20);
}

TEST_CASE("stopped early, the bound is valid all the same", "[lp]") {
  Random random(9);
  for (int round = 0; round < 200; ++round) {
    lp::Program p = draw_program(random, {.columns = 10, .rows = 10, .infinite = 0.0});
    lp::Simplex full(p), early(p);
    const lp::Report whole = full.solve();
    if (whole.status != Status::optimal) continue;
    for (std::int64_t pivots = 0; pivots < 6; ++pivots) {
      lp::SimplexOptions options;
      options.max_pivots = pivots;
      const lp::Report report = early.solve(options);
      CHECK(early.bound() <= whole.objective + 1e-6 * (1.0 + std::abs(whole.objective)));
      if (report.status == Status::optimal) break;
      CHECK(report.status == Status::limit);
    }
  }
}

TEST_CASE("a saved basis brings the optimum back without a pivot", "[lp]") {
  Random random(10);
  for (int round = 0; round < 100; ++round) {
    lp::Program p = draw_program(random, {.columns = 12, .rows = 10, .infinite = 0.0});
    lp::Simplex s(p);
    const lp::Report first = s.solve();
    if (first.status != Status::optimal) continue;
    lp::Simplex again(p);
    again.set_basis(s.basis());
    const lp::Report second = again.solve();
    REQUIRE(second.status == Status::optimal);
    CHECK(second.pivots == 0);
    CHECK(second.objective == Approx(first.objective));
  }
}

TEST_CASE("bad numbers are refused at the door", "[lp]") {
  lp::Simplex s;
  CHECK_THROWS_AS(s.add_column(std::nan(""), 0.0, 1.0), UsageError);
  CHECK_THROWS_AS(s.add_column(kInf, 0.0, 1.0), UsageError);
  CHECK_THROWS_AS(s.add_column(1.0, 2.0, 1.0), UsageError);
  s.add_column(1.0, 0.0, 1.0);
  CHECK_THROWS_AS(s.add_row(0.0, 1.0, {{0, kInf}}), UsageError);
  CHECK_THROWS_AS(s.add_row(std::nan(""), 1.0, {{0, 1.0}}), UsageError);
  CHECK_THROWS_AS(s.add_row(0.0, 1.0, {{1, 1.0}}), UsageError);
  CHECK_THROWS_AS(s.add_column(0.0, 0.0, 1.0, {{0, 1.0}}), UsageError);
  CHECK_THROWS_AS(s.set_bounds(0, 1.0, 0.0), UsageError);
  CHECK_THROWS_AS(s.set_bounds(0, kInf, kInf), UsageError);
}

TEST_CASE("a stop request ends a solve with a limit", "[lp]") {
  Random random(12);
  lp::Simplex s(draw_program(random, {.columns = 12, .rows = 12, .infinite = 0.0}));
  const std::atomic<bool> stopped{true};
  lp::SimplexOptions options;
  options.interrupt.stopped = &stopped;
  CHECK(s.solve(options).status == Status::limit);
}

TEST_CASE("small programs with whole figures are never left undecided", "[lp]") {
  Random random(13);
  for (int round = 0; round < 20000; ++round) {
    CAPTURE(round);
    const lp::Program p = draw_program(random, {.columns = 10, .rows = 10, .density = 0.5});
    lp::SimplexOptions options;
    options.max_pivots = 2000;
    Status first = Status::undecided;
    for (const lp::Path path : {lp::Path::choose, lp::Path::primal}) {
      options.path = path;
      lp::Simplex s(p);
      const Status status = s.solve(options).status;
      REQUIRE(status != Status::undecided);
      REQUIRE(status != Status::limit);
      if (path == lp::Path::choose) first = status;
      REQUIRE(status == first);
    }
  }
}
