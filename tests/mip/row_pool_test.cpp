// Rows that come, leave and return: their names last, bases stay valid, local ones hold where they
// should.
#include "mip/relaxation/row_pool.hpp"

#include <catch2/catch.hpp>

#include "mip/relaxation/basis_difference.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

namespace {

// minimise -x0 - 2 x1 - ... over the unit box.
mip::Problem box(Index columns) {
  mip::Problem p;
  for (Index j = 0; j < columns; ++j) p.add_column(0.0, 1.0, true, -1.0 - static_cast<double>(j));
  p.set_goal_facts(true, 1.0);
  return p;
}

mip::LinearRow at_most(std::vector<lp::Entry> entries, double upper) {
  return {std::move(entries), -kInf, upper, true};
}

}  // namespace

TEST_CASE("a row that is given twice has one name", "[mip][pool]") {
  const mip::Problem p = box(3);
  const mip::Relaxation relaxation(p);
  mip::RowPool pool(p, relaxation);
  const Index first = pool.add(at_most({{0, 1.0}, {1, 1.0}}, 1.0));
  CHECK(pool.add(at_most({{0, 1.0}, {1, 1.0}}, 1.0)) == first);
  CHECK(pool.add(at_most({{0, 1.0}, {1, 1.0}}, 2.0)) != first);
  CHECK(pool.add(at_most({{0, 1.0}, {1, 1.0}}, 1.0), 7) != first);  // below node 7 only
  CHECK(pool.size() == 3);
}

TEST_CASE("rows that are slack for long leave, and come back for points and bases", "[mip][pool]") {
  constexpr Index kColumns = 12;
  const mip::Problem p = box(kColumns);
  mip::Relaxation relaxation(p);
  mip::RowPool pool(p, relaxation);
  for (Index j = 0; j < kColumns; ++j)
    pool.bring_in(pool.add(at_most({{j, 2.0}}, 1.0)), relaxation);
  const lp::Report first = relaxation.solve({});
  REQUIRE(first.status == lp::Status::optimal);
  const mip::NodeBasis tight = pool.basis(relaxation);
  for (Index j = 0; j < kColumns; ++j) relaxation.simplex().set_bounds(j, 0.0, 0.0);
  int left = 0;
  for (int solve = 0; solve < 30; ++solve) {
    REQUIRE(relaxation.solve({}).status == lp::Status::optimal);
    left += pool.age(relaxation) ? 1 : 0;
  }
  CHECK(left == 1);
  for (Index name = 0; name < kColumns; ++name) CHECK_FALSE(pool.in_relaxation(name));
  CHECK(relaxation.simplex().program().num_rows() == 0);

  const std::vector<double> point(kColumns, 0.75);
  SECTION("a point that breaks them") {
    CHECK(pool.bring_in_broken(point, relaxation) == kColumns);
    CHECK(pool.bring_in_broken(point, relaxation) == 0);
  }
  SECTION("a basis that rests on them, with others in between") {
    pool.bring_in(5, relaxation);
    pool.bring_in(2, relaxation);
    for (Index j = 0; j < kColumns; ++j) relaxation.simplex().set_bounds(j, 0.0, 1.0);
    pool.set_basis(tight, relaxation);
    const lp::Report report = relaxation.solve({});
    REQUIRE(report.status == lp::Status::optimal);
    CHECK(report.pivots == 0);
    CHECK(report.objective == Approx(first.objective));
  }
}

TEST_CASE("a local row has limits only where it holds", "[mip][pool]") {
  const mip::Problem p = box(2);
  mip::Relaxation relaxation(p);
  mip::RowPool pool(p, relaxation);
  pool.bring_in(pool.add(at_most({{0, 1.0}, {1, 1.0}}, 1.0), 4), relaxation);
  const auto best = [&] {
    const lp::Report report = relaxation.solve({});
    REQUIRE(report.status == lp::Status::optimal);
    return report.objective;
  };
  CHECK(best() == Approx(-2.0));
  pool.enter([](std::int64_t scope) { return scope == 3; }, relaxation);
  CHECK(best() == Approx(-3.0));
  CHECK(pool.view(0).upper == kInf);
  pool.enter([](std::int64_t scope) { return scope == 4; }, relaxation);
  CHECK(best() == Approx(-2.0));
}

TEST_CASE("a basis kept as differences is the one that was kept", "[mip][pool]") {
  Random random(64);
  constexpr std::size_t kColumns = 200;
  std::shared_ptr<const mip::BasisDifference> full;
  mip::NodeBasis now;
  now.basis.columns.assign(kColumns, lp::VariableStatus::at_lower);
  std::vector<std::pair<std::shared_ptr<const mip::BasisDifference>, mip::NodeBasis>> kept;
  std::size_t small = 0;
  for (int round = 0; round < 300; ++round) {
    const auto moves = random.chance(0.1) ? 60 : random.between(0, 3);
    for (std::int64_t k = 0; k < moves; ++k)
      now.basis.columns[static_cast<std::size_t>(random.between(0, kColumns - 1))] =
          static_cast<lp::VariableStatus>(random.between(0, 2));
    now.basis.rows.assign(static_cast<std::size_t>(random.between(1, 4)),
                          lp::VariableStatus::basic);
    now.basis.weights.assign(now.basis.rows.size(), static_cast<float>(round));
    now.named.assign(1, round);
    kept.emplace_back(mip::BasisDifference::keep(now, full), now);
    small += kept.back().first->bytes() < kColumns + sizeof(mip::BasisDifference) ? 1 : 0;
  }
  CHECK(small > 100);
  CHECK(small < 300);  // some are full
  for (const auto& [basis, stated] : kept) {
    const mip::NodeBasis loaded = basis->load();
    CHECK(loaded.basis.columns == stated.basis.columns);
    CHECK(loaded.basis.rows == stated.basis.rows);
    CHECK(loaded.basis.weights == stated.basis.weights);
    CHECK(loaded.named == stated.named);
  }
  // Another number of columns is another beginning.
  now.basis.columns.resize(10);
  CHECK(mip::BasisDifference::keep(now, full)->load().basis.columns.size() == 10);
}
