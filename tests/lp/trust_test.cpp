// What makes an answer trustworthy: scaling that changes no digit, residuals looked at, proofs of
// unboundedness, limits that are kept, an inner loop that leaves the memory alone.
#include <atomic>
#include <cmath>
#include <thread>

#include <catch2/catch.hpp>

#include "kiteknot/errors.hpp"
#include "lp/exact_basis.hpp"
#include "lp/proof.hpp"
#include "lp/ray.hpp"
#include "lp/scaling.hpp"
#include "lp/simplex.hpp"
#include "support/allocations.hpp"
#include "support/random_programs.hpp"
#include "support/vertex_oracle.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using lp::Index;
using lp::Status;

namespace {

lp::Program transport(int n, std::uint64_t seed) {
  Random random(seed);
  lp::Program p;
  for (int i = 0; i < n; ++i) p.add_row(-kInf, 20.0, {}, true);
  for (int j = 0; j < n; ++j) p.add_row(static_cast<double>(random.between(5, 18)), kInf, {}, true);
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j)
      p.add_column(static_cast<double>(random.between(1, 100)), 0.0, kInf,
                   {{i, 1.0}, {n + j, 1.0}});
  return p;
}

double exact_value(const lp::Simplex& s) {
  const auto bound = lp::exact_bound(s.program(), s.basis());
  REQUIRE(bound);
  return bound->to_double();
}

}  // namespace

// Column j counted in units of 10^-u and every row multiplied by 10^v: whole figures again, so that
// the truth of the plain program is the truth of this one.
lp::Program ill_scaled(const lp::Program& plain, Random& random) {
  lp::Program p;
  std::vector<int> unit;
  const auto ten = [](int power) { return std::pow(10.0, power); };
  for (Index j = 0; j < plain.num_columns(); ++j) {
    unit.push_back(static_cast<int>(random.between(0, 6)));
    p.add_column(plain.cost(j) * ten(6 - unit.back()), plain.lower(j) * ten(unit.back()),
                 plain.upper(j) * ten(unit.back()));
  }
  for (Index i = 0; i < plain.num_rows(); ++i) {
    const int more = static_cast<int>(random.between(0, 3));
    std::vector<lp::Entry> entries;
    for (std::size_t e = 0; e < plain.rows().index(i).size(); ++e) {
      const Index j = plain.rows().index(i)[e];
      entries.push_back(
          {j, plain.rows().value(i)[e] * ten(6 - unit[static_cast<std::size_t>(j)] + more)});
    }
    p.add_row(plain.row_lower(i) * ten(6 + more), plain.row_upper(i) * ten(6 + more), entries,
              true);
  }
  return p;
}

TEST_CASE("coefficients over nine powers of ten leave status and value as they are",
          "[lp][trust]") {
  Random random(31);
  int counts[3] = {0, 0, 0};
  for (int round = 0; round < 3000; ++round) {
    CAPTURE(round);
    const lp::Program plain = draw_program(random, {.columns = 4, .rows = 4});
    lp::Simplex s(ill_scaled(plain, random));
    const lp::Report report = s.solve();
    const Truth truth = truth_of(plain);
    INFO(report.reason);
    ++counts[static_cast<int>(truth.kind)];
    switch (truth.kind) {
      case Truth::Kind::infeasible:
        REQUIRE(report.status == Status::infeasible);
        break;
      case Truth::Kind::unbounded:
        REQUIRE(report.status == Status::unbounded);
        break;
      default:
        REQUIRE(report.status == Status::optimal);
        CHECK(*lp::exact_bound(s.program(), s.basis()) == truth.value * Rational(1'000'000));
    }
  }
  for (const int count : counts) CHECK(count > 30);
}

TEST_CASE("scales are powers of two, bring entries near 1 and leave marked columns alone",
          "[lp][trust]") {
  CHECK(lp::row_scale(std::vector<double>{3.0, -40.0}) == 1.0 / 32.0);
  CHECK(lp::row_scale(std::vector<double>{0.0}) == 1.0);
  lp::Program p;
  for (int j = 0; j < 3; ++j) p.add_column(1.0, 0.0, 1.0);
  p.add_row(0.0, 1.0, {{0, 1.0}, {1, 3e6}, {2, 1.0}});
  p.add_row(0.0, 1.0, {{0, 2.0}, {1, 1e6}});
  const std::vector<double> scale = lp::column_scales(p.rows(), {0, 1, 1});
  CHECK(scale[0] == 1.0);
  CHECK(scale[1] < 1e-5);
  CHECK(scale[1] > 1e-8);
  int exponent = 0;
  CHECK(std::frexp(scale[1], &exponent) == 0.5);
}

TEST_CASE("a direction without an end is confirmed exactly, and a false one refused",
          "[lp][trust]") {
  lp::Program p;
  p.add_column(-1.0, 0.0, kInf);
  p.add_column(8.0, 0.0, kInf);
  p.add_row(-kInf, 4.0, {{0, 1.0}, {1, -7.0}}, true);
  lp::Simplex s(p);
  REQUIRE(s.solve().status == Status::optimal);  // 7 units of the first cost 8 of the second
  s.set_cost(1, 7.0);
  REQUIRE(s.solve().status == Status::optimal);
  s.set_cost(0, -1.01);
  s.set_cost(1, 7.0);
  REQUIRE(s.solve().status == Status::unbounded);
  CHECK(lp::proves_unbounded(s.program(), s.ray()));
  CHECK_FALSE(lp::proves_unbounded(s.program(), std::vector<double>{1.0, 0.1}));
  CHECK_FALSE(lp::proves_unbounded(s.program(), std::vector<double>{0.0, 0.0}));
  const auto exact = lp::exact_direction(s.program(), s.basis(), 1, true);
  REQUIRE(exact);
  CHECK((*exact)[1] == Rational(1));
}

TEST_CASE("a free start is made dual feasible by the boxed subproblem", "[lp][trust]") {
  // Free columns with costs: no bound to flip to. min |x - 3| + |x + 1| + |y - x|
  lp::Program p;
  for (int j = 0; j < 2; ++j) p.add_column(0.0, -kInf, kInf);
  for (int j = 0; j < 3; ++j) p.add_column(1.0, -kInf, kInf);
  const double at[] = {3.0, -1.0};
  for (int k = 0; k < 2; ++k) {
    p.add_row(-at[k], kInf, {{2 + k, 1.0}, {0, -1.0}}, true);
    p.add_row(at[k], kInf, {{2 + k, 1.0}, {0, 1.0}}, true);
  }
  p.add_row(0.0, kInf, {{4, 1.0}, {1, -1.0}, {0, 1.0}}, true);
  p.add_row(0.0, kInf, {{4, 1.0}, {1, 1.0}, {0, -1.0}}, true);
  for (const lp::Path path : {lp::Path::choose, lp::Path::dual, lp::Path::primal}) {
    lp::Simplex s(p);
    lp::SimplexOptions options;
    options.path = path;
    REQUIRE(s.solve(options).status == Status::optimal);
    CHECK(s.bound() == Approx(4.0));
  }
}

TEST_CASE("limits on time and a stop from another thread are kept within moments", "[lp][trust]") {
  const lp::Program p = transport(150, 3);
  lp::Simplex s(p);
  std::atomic<bool> stopped{false};
  lp::SimplexOptions options;
  const Stopwatch clock;
  options.interrupt = {&clock, 0.01, &stopped};
  const lp::Report report = s.solve(options);
  // Generous: the machine may be busy. Measured figures are in docs/benchmarks.md.
  CHECK((report.status == Status::optimal || clock.seconds() < 1.0));
  CHECK(s.bound() <= 1e9);

  lp::Simplex other(p);
  std::thread stopper([&] { stopped = true; });
  options.interrupt = {nullptr, 0.0, &stopped};
  const lp::Report second = other.solve(options);
  stopper.join();
  CHECK((second.status == Status::limit || second.status == Status::optimal));
  CHECK(other.solve(options).status == Status::limit);
}

TEST_CASE("a kept factor comes back with its basis, and rows added since join it", "[lp][trust]") {
  lp::Simplex s(transport(20, 4));
  CHECK_THROWS_AS(lp::Simplex(transport(2, 1)).save(), UsageError);
  const lp::Report first = s.solve();
  REQUIRE(first.status == Status::optimal);
  const lp::BasisSnapshot kept = s.save();
  for (Index j = 0; j < 40; ++j) s.set_bounds(j, 0.0, 0.0);
  REQUIRE(s.solve().pivots > 0);
  for (Index j = 0; j < 40; ++j) s.set_bounds(j, 0.0, kInf);
  s.restore(kept);
  const lp::Report again = s.solve();
  CHECK(again.pivots == 0);
  CHECK(again.objective == first.objective);

  std::vector<lp::Entry> every;
  for (Index j = 0; j < 400; j += 3) every.push_back({j, 1.0});
  double sum = 0.0;
  for (const lp::Entry& e : every) sum += s.column_values()[static_cast<std::size_t>(e.index)];
  s.add_row(-kInf, sum / 2.0, every, true);
  s.restore(kept);
  const lp::Report cut = s.solve();
  REQUIRE(cut.status == Status::optimal);
  CHECK(cut.pivots < first.pivots);
  CHECK(exact_value(s) == Approx(cut.objective));
  lp::Simplex cold(s.program());
  CHECK(cold.solve().objective == Approx(cut.objective));
  std::vector<char> gone(41, 0);
  gone[40] = 1;
  s.remove_rows(gone);
  CHECK_THROWS_AS(s.restore(kept), UsageError);
}

TEST_CASE("the triangular start puts columns in the place of equations, regularly", "[lp][trust]") {
  lp::Program p;
  for (int i = 0; i < 30; ++i) p.add_row(10.0, 10.0, {}, true);
  for (int i = 0; i < 30; ++i) {
    p.add_column(1.0, 0.0, kInf, {{i, 1.0}});
    if (i + 1 < 30) p.add_column(2.0, 0.0, kInf, {{i, -1.0}, {i + 1, 1.0}});
  }
  lp::Simplex s(p);
  s.start_from_triangle();
  const lp::Basis start = s.basis();
  CHECK(std::count(start.columns.begin(), start.columns.end(), lp::VariableStatus::basic) == 30);
  CHECK(std::count(start.rows.begin(), start.rows.end(), lp::VariableStatus::basic) == 0);
  const lp::Report report = s.solve();
  CHECK(report.status == Status::optimal);
  CHECK(report.objective == Approx(300.0));
  CHECK(report.pivots < 30);
}

TEST_CASE("pivots of a warm object ask for no memory", "[lp][trust]") {
  lp::Simplex s(transport(30, 5));
  REQUIRE(s.solve().status == Status::optimal);
  std::vector<Index> used;
  for (Index j = 0; j < 900; ++j)
    if (s.column_values()[static_cast<std::size_t>(j)] > 2.0) used.push_back(j);
  used.resize(24);
  std::int64_t pivots = 0, quiet_solves = 0;
  long asked = 0;
  const auto solve = [&] {
    lp::Parts parts;
    lp::SimplexOptions options;
    options.parts = &parts;
    const long before = test::allocations();
    const std::int64_t made = s.solve(options).pivots;
    if (parts.factor > 0.0) return;  // a new factor may
    asked += test::allocations() - before;
    pivots += made;
    ++quiet_solves;
  };
  for (int round = 0; round < 4; ++round) {
    if (round < 3) pivots = quiet_solves = asked = 0;  // warm up
    for (const Index j : used) {
      s.set_bounds(j, 0.0, 1.0);
      solve();
      s.set_bounds(j, 0.0, kInf);
      solve();
    }
  }
  CHECK(quiet_solves > 40);
  CHECK(pivots > 60);
  CHECK(asked == 0);
}
