// The parts of the search on their own: open nodes, pseudo-costs, the relaxation's scaling,
// problems.
#include <catch2/catch.hpp>

#include "kiteknot/errors.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

TEST_CASE("open nodes come by best bound, then the deepest, then the newest", "[mip][parts]") {
  std::int64_t alive = 0;
  mip::OpenNodes open;
  const auto put = [&](double bound, int depth, std::int64_t number) {
    auto node = std::make_shared<mip::Node>(alive);
    node->bound = bound;
    node->depth = depth;
    node->number = number;
    open.push(node);
  };
  put(3.0, 1, 1);
  put(2.0, 1, 2);
  put(2.0, 4, 3);
  put(2.0, 4, 4);
  put(-1.0, 0, 5);
  CHECK(open.best_bound() == -1.0);
  std::vector<std::int64_t> order;
  while (!open.empty()) order.push_back(open.pop()->number);
  CHECK(order == std::vector<std::int64_t>{5, 4, 3, 2, 1});
  CHECK(alive == 0);
}

TEST_CASE("the way to a node is walked from the nearest common ancestor", "[mip][parts]") {
  mip::Problem p;
  for (int j = 0; j < 4; ++j) p.add_column(0.0, 9.0, true, 0.0);
  mip::Domain domain(p);
  std::int64_t alive = 0;
  const auto child = [&](const std::shared_ptr<mip::Node>& of, Index j, double upper) {
    auto node = std::make_shared<mip::Node>(alive);
    node->parent = of;
    node->depth = of ? of->depth + 1 : 0;
    if (of) node->changes = {{mip::Change::What::upper, j, upper}};
    return node;
  };
  const auto root = child({}, 0, 0), left = child(root, 0, 3.0), right = child(root, 0, 7.0),
             deep = child(child(right, 1, 5.0), 2, 4.0), near = child(left, 3, 1.0);
  mip::Way way;
  way.leave(root, domain.mark());
  REQUIRE(way.go_to(left, 0, domain));
  way.leave(left, domain.mark());
  REQUIRE(way.go_to(near, 0, domain));
  CHECK((domain.upper(0) == 3.0 && domain.upper(3) == 1.0));
  REQUIRE(way.go_to(deep, 0, domain));  // over a node that the search never left
  CHECK((domain.upper(0) == 7.0 && domain.upper(1) == 5.0 && domain.upper(2) == 4.0));
  CHECK(domain.upper(3) == 9.0);
  REQUIRE(way.go_to(child(deep->parent, 3, 2.0), 0, domain));
  CHECK((domain.upper(1) == 5.0 && domain.upper(2) == 9.0 && domain.upper(3) == 2.0));
  CHECK_FALSE(way.go_to(child(left, 0, -1.0), 0, domain));
}

TEST_CASE("a chain of a million nodes is taken apart without recursion", "[mip][parts]") {
  std::int64_t alive = 0;
  auto last = std::make_shared<mip::Node>(alive);
  for (int k = 0; k < 1'000'000; ++k) {
    auto next = std::make_shared<mip::Node>(alive);
    next->parent = std::move(last);
    last = std::move(next);
  }
  CHECK(alive == 1'000'001);
  last.reset();
  CHECK(alive == 0);
}

TEST_CASE("pseudo-costs prefer the column that moved the goal most on both sides", "[mip][parts]") {
  mip::Problem p;
  for (int j = 0; j < 3; ++j) p.add_column(0.0, 1.0, true, 0.0);
  const mip::Domain domain(p);
  mip::PseudoCosts costs(3);
  const std::vector<double> point = {0.5, 0.5, 1.0};
  costs.learn(0, false, 0.5, 1.0);
  costs.learn(0, true, 0.5, 1.0);
  costs.learn(1, false, 0.5, 9.0);
  costs.learn(1, true, 0.5, 9.0);
  CHECK(costs.choose(domain, point) == 1);
  CHECK(costs.choose(domain, std::vector<double>{0.4, 1.0, 0.0}) == 0);
  CHECK(costs.choose(domain, std::vector<double>{0.0, 1.0, 1.0 - 1e-9}) == -1);
  costs.learn(1, true, 0.0, 5.0);  // no distance, nothing learned
  CHECK(costs.choose(domain, point) == 1);
}

TEST_CASE("the relaxation scales rows by powers of two and unscales duals", "[mip][parts]") {
  // minimise x with 1000 x >= 3000: the goal changes by 1/1000 per unit of the limit.
  mip::Problem p;
  p.add_column(0.0, 10.0, false, 1.0);
  p.add_row({{{0, 1000.0}}, 3000.0, kInf, true});
  mip::Relaxation relaxation(p);
  const lp::Program& program = relaxation.simplex().program();
  CHECK(program.rows().value(0)[0] == 1000.0 / 512.0);
  CHECK(program.row_lower(0) == 3000.0 / 512.0);
  REQUIRE(relaxation.solve({}).status == lp::Status::optimal);
  CHECK(relaxation.point()[0] == Approx(3.0));
  CHECK(relaxation.row_duals()[0] == Approx(0.001));
  CHECK(relaxation.limit_room(0).high == Approx(7000.0));
}

TEST_CASE("loose bounds give reals their own limits back and leave whole decisions fixed",
          "[mip][parts]") {
  mip::Problem p;
  p.add_column(0.0, 5.0, true, 0.0);
  p.add_column(0.0, 10.0, false, 0.0);
  mip::Domain d(p);
  REQUIRE(d.raise_lower(0, 2.0));
  REQUIRE(d.drop_upper(1, 10.0 / 3.0));
  mip::Relaxation relaxation(p);
  relaxation.take(d);
  CHECK(relaxation.simplex().program().upper(1) == 10.0 / 3.0);
  relaxation.take(d, true);
  CHECK(relaxation.simplex().program().upper(1) == 10.0);
  CHECK(relaxation.simplex().program().lower(0) == 2.0);
  REQUIRE(d.drop_upper(1, 0.0));  // a whole bound is exact and stays
  relaxation.take(d, true);
  CHECK(relaxation.simplex().program().upper(1) == 0.0);
}

TEST_CASE("problems refuse bad numbers and round limits only where rows are whole",
          "[mip][parts]") {
  mip::Problem p;
  CHECK_THROWS_AS(p.add_column(std::nan(""), 1.0, true, 0.0), UsageError);
  CHECK_THROWS_AS(p.add_column(0.0, 1.0, true, kInf), UsageError);
  p.add_column(0.0, 9.0, true, 1.0);
  p.add_column(0.0, 9.0, false, 1.0);
  CHECK_THROWS_AS(p.add_row({{{0, std::nan("")}}, 0.0, 1.0, true}), UsageError);
  mip::Problem q;
  q.add_column(0.0, 9.0, true, 1.0);
  q.add_column(0.0, 9.0, false, 1.0);
  q.add_row({{{0, 2.0}}, 0.5, 7.5, true});
  q.add_row({{{0, 2.0}, {1, 1.0}}, 0.5, 7.5, true});
  q.add_row({{{0, 2.5}}, 0.5, 7.5, true});
  q.add_row({{{0, 2.0}}, 0.5, 7.5, false});
  REQUIRE(q.round_limits());
  CHECK(q.row_lower(0) == 1.0);
  CHECK(q.row_upper(0) == 7.0);
  for (linalg::Index i = 1; i < 4; ++i) CHECK(q.row_upper(i) == 7.5);
}

TEST_CASE("gaps are relative to the value and 0 when equal", "[mip][parts]") {
  CHECK(mip::relative_gap(482.0, 482.0, 1.0) == 0.0);
  CHECK(mip::relative_gap(100.0, 98.0, 1.0) == Approx(0.02));
  CHECK(mip::relative_gap(-100.0, -102.0, 1.0) == Approx(0.02));
  CHECK(mip::relative_gap(0.0, -1.0, 1.0) == Approx(1e10));
}
