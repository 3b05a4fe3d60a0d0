// Warm starts and limits: snapshots with weights, budgets in work, programs that grow and shrink.
#include <catch2/catch.hpp>

#include "lp/proof.hpp"
#include "lp/simplex.hpp"
#include "support/random_programs.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using lp::Index;
using lp::Status;

namespace {

// A cover relaxation, large enough for a few hundred pivots.
lp::Program cover(int rows, int columns, std::uint64_t seed) {
  Random random(seed);
  lp::Program p;
  for (int i = 0; i < rows; ++i) p.add_row(1.0, kInf, {}, true);
  for (int j = 0; j < columns; ++j) {
    std::vector<lp::Entry> entries;
    for (int i = 0; i < rows; ++i)
      if (random.chance(0.06)) entries.push_back({i, 1.0});
    p.add_column(static_cast<double>(random.between(1, 100)), 0.0, 1.0, entries);
  }
  return p;
}

}  // namespace

TEST_CASE("a budget of work ends a solve with a valid bound, and more of it goes further",
          "[lp][warm]") {
  const lp::Program p = cover(80, 600, 1);
  lp::Simplex whole(p);
  const lp::Report full = whole.solve();
  REQUIRE(full.status == Status::optimal);
  double last = -kInf;
  std::int64_t pivots = 0;
  for (const std::int64_t work : {20'000, 100'000, 300'000}) {
    lp::Simplex s(p);
    lp::SimplexOptions options;
    options.max_work = work;
    const lp::Report report = s.solve(options);
    CHECK(s.bound() <= full.objective + 1e-9);
    CHECK(s.bound() >= last - 1e-9);
    CHECK(report.pivots >= pivots);
    last = s.bound();
    pivots = report.pivots;
  }
}

TEST_CASE("a snapshot carries its steepest-edge weights through a jump and back", "[lp][warm]") {
  lp::Simplex s(cover(80, 600, 2));
  REQUIRE(s.solve().status == Status::optimal);
  const lp::Basis snapshot = s.basis();
  REQUIRE(snapshot.weights.size() == 80);
  s.set_bounds(0, 1.0, 1.0);
  s.set_bounds(1, 1.0, 1.0);
  (void)s.solve();
  s.set_bounds(0, 0.0, 1.0);
  s.set_bounds(1, 0.0, 1.0);
  s.set_basis(snapshot);
  const lp::Report again = s.solve();
  CHECK(again.status == Status::optimal);
  CHECK(again.pivots == 0);
  const lp::Basis back = s.basis();
  REQUIRE(back.weights.size() == snapshot.weights.size());
  for (std::size_t k = 0; k < back.weights.size(); ++k)
    CHECK(back.weights[k] == snapshot.weights[k]);
}

TEST_CASE("added rows that cut the point off cost a few pivots, not a new start", "[lp][warm]") {
  const lp::Program p = cover(80, 600, 3);
  lp::Simplex warm(p);
  const lp::Report first = warm.solve();
  REQUIRE(first.status == Status::optimal);
  std::vector<lp::Entry> row;
  double value = 0.0;
  for (Index j = 0; j < p.num_columns(); ++j)
    if (warm.column_values()[static_cast<std::size_t>(j)] > 0.3) {
      row.push_back({j, 1.0});
      value += warm.column_values()[static_cast<std::size_t>(j)];
    }
  warm.add_row(value + 0.5, kInf, row, true);
  const lp::Report second = warm.solve();
  REQUIRE(second.status == Status::optimal);
  CHECK(second.objective > first.objective);
  CHECK(second.pivots * 4 < first.pivots);
  lp::Simplex cold(warm.program());
  CHECK(cold.solve().objective == Approx(second.objective));
  // And away again: the old optimum comes back.
  std::vector<char> gone(81, 0);
  gone[80] = 1;
  warm.remove_rows(gone);
  CHECK(warm.solve().objective == Approx(first.objective));
}

TEST_CASE("steepest-edge weights stay where rows that do not bind leave", "[lp][warm]") {
  lp::Simplex s(cover(80, 600, 5));
  std::vector<lp::Entry> all;
  for (Index j = 0; j < 600; ++j) all.push_back({j, 1.0});
  const Index slack = s.add_row(-kInf, 1000.0, all, true);
  REQUIRE(s.solve().status == Status::optimal);
  std::vector<char> gone(81, 0);
  std::vector<float> weights = s.basis().weights;
  REQUIRE(s.basis().rows[at(slack)] == lp::VariableStatus::basic);
  REQUIRE(weights.size() == 81);
  weights.pop_back();  // the last row's own
  SECTION("a basic one") {
    gone[at(slack)] = 1;
    s.remove_rows(gone);
    const lp::Report report = s.solve();
    CHECK(report.pivots == 0);
    CHECK(s.basis().weights == weights);
  }
  SECTION("one that binds: they begin anew") {
    const lp::Basis before = s.basis();
    for (Index i = 0; i < slack; ++i)
      if (before.rows[at(i)] != lp::VariableStatus::basic && s.row_duals()[at(i)] != 0.0) {
        gone[at(i)] = 1;
        break;
      }
    const double value = s.solve().objective;
    s.remove_rows(gone);
    const lp::Report report = s.solve();
    REQUIRE(report.status == Status::optimal);
    CHECK(report.objective <= value + 1e-9);
  }
}

TEST_CASE("a changed goal starts from the old optimum", "[lp][warm]") {
  lp::Simplex s(cover(80, 600, 4));
  const lp::Report first = s.solve();
  REQUIRE(first.status == Status::optimal);
  for (Index j = 0; j < 5; ++j) s.set_cost(j, s.program().cost(j) + 3.0);
  const lp::Report second = s.solve();
  REQUIRE(second.status == Status::optimal);
  CHECK(second.pivots * 3 < first.pivots);
  CHECK(second.objective >= first.objective - 1e-9);
}

TEST_CASE("removed columns leave the others as they were", "[lp][warm]") {
  Random random(5);
  lp::Simplex s(cover(60, 400, 5));
  REQUIRE(s.solve().status == Status::optimal);
  for (int round = 0; round < 5; ++round) {
    std::vector<char> gone(static_cast<std::size_t>(s.program().num_columns()), 0);
    for (char& g : gone) g = random.chance(0.1) ? 1 : 0;
    s.remove_columns(gone);
    lp::Simplex cold(s.program());
    const lp::Report a = s.solve(), b = cold.solve();
    REQUIRE(a.status == b.status);
    if (a.status == Status::optimal) CHECK(a.objective == Approx(b.objective));
  }
}

TEST_CASE("the same program solved twice takes the same pivots and the same work", "[lp][warm]") {
  lp::Simplex a(cover(80, 600, 6)), b(cover(80, 600, 6));
  CHECK(a.solve().pivots == b.solve().pivots);
  CHECK(a.work().units() == b.work().units());
}
