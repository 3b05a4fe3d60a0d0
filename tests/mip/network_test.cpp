// Problems that are networks as a whole, in whatever signs and scales; problems that nearly are.

#include "mip/structures/network.hpp"

#include <catch2/catch.hpp>

#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

namespace {

// Every column in at most two rows, of either sign as the rows' directions ask for.
mip::Problem draw_network(Random& random, Index nodes, int columns, bool whole) {
  std::vector<double> factor;
  std::vector<std::vector<mip::Entry>> entries(at(nodes));
  for (Index i = 0; i < nodes; ++i)
    factor.push_back((random.chance(0.5) ? 1.0 : -1.0) * static_cast<double>(random.between(1, 3)));
  mip::Problem p;
  for (int k = 0; k < columns; ++k) {
    const auto low = static_cast<double>(random.between(-1, 1));
    const Index j = p.add_column(low, low + static_cast<double>(random.between(0, 2)), whole,
                                 static_cast<double>(random.between(-9, 9)));
    const auto from = static_cast<Index>(random.between(0, nodes)),
               to = static_cast<Index>(random.between(0, nodes));
    if (from == to) continue;
    if (from < nodes) entries[at(from)].push_back({j, factor[at(from)]});
    if (to < nodes) entries[at(to)].push_back({j, -factor[at(to)]});
  }
  for (Index i = 0; i < nodes; ++i) {
    const double size = std::abs(factor[at(i)]);
    const double low = size * static_cast<double>(random.between(-2, 1));
    const double high = low + size * static_cast<double>(random.between(0, 2));
    const auto side = random.between(0, 3);
    p.add_row({entries[at(i)], side == 0 ? -kInf : low, side == 1 ? kInf : high});
  }
  p.set_goal_facts(true, 1.0);
  return p;
}

mip::Problem assignment(int size, Random& random, double present) {
  mip::Problem p;
  std::vector<mip::LinearRow> rows(2 * static_cast<std::size_t>(size));
  for (int i = 0; i < size; ++i)
    for (int j = 0; j < size; ++j) {
      if (i != j && !random.chance(present)) continue;
      const Index x = p.add_column(0.0, 1.0, true, static_cast<double>(random.between(1, 1'000)));
      rows[static_cast<std::size_t>(i)].entries.push_back({x, 1.0});
      rows[static_cast<std::size_t>(size + j)].entries.push_back({x, 1.0});
    }
  for (mip::LinearRow& row : rows) {
    row.lower = row.upper = 1.0;
    p.add_row(row);
  }
  p.set_goal_facts(true, 1.0);
  return p;
}

}  // namespace

TEST_CASE("the linear engine has nothing left to do at the basis of a network",
          "[mip][network][oracle]") {
  Random random(11);
  int started = 0, ready = 0;
  for (int round = 0; round < 2'000; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_network(random, static_cast<Index>(random.between(1, 6)),
                                        static_cast<int>(random.between(1, 8)), true);
    bool empty_row = false;
    for (Index i = 0; i < p.num_rows(); ++i) empty_row = empty_row || p.row(i).index.empty();
    if (empty_row) continue;
    WorkCounter work;
    REQUIRE(mip::as_network(p).has_value());
    const auto start = mip::network_start(p, 0, work);
    const auto best = best_by_trying(p);
    REQUIRE(start.has_value() == best.has_value());
    if (!start) continue;
    ++started;
    mip::Relaxation relaxation(p);
    relaxation.simplex().set_basis(start->basis);
    const lp::Report report = relaxation.solve({});
    REQUIRE(report.status == lp::Status::optimal);
    REQUIRE(report.objective == Approx(best->to_double()).margin(1e-9));
    ready += report.pivots == 0 ? 1 : 0;
  }
  CHECK(started > 400);
  CHECK(5 * ready > 4 * started);
}

TEST_CASE("searches of networks and assignments say so, and find what others find",
          "[mip][network]") {
  Random random(12);
  for (const bool square : {true, false}) {
    const mip::Problem p =
        square ? assignment(40, random, 0.7) : draw_network(random, 150, 700, true);
    const auto judge = [&](std::span<const Rational> x) {
      return mip::Verdict{satisfies(p, x), goal_of(p, x)};
    };
    mip::SearchOptions options;
    const mip::SearchResult own = mip::Search(p, judge, options).run();
    options.structures = false;
    const mip::SearchResult general = mip::Search(p, judge, options).run();
    CHECK(own.outcome == general.outcome);
    if (own.outcome != Outcome::optimal) continue;
    CHECK(own.goal == general.goal);
    CHECK(own.structure.name == (square ? "assignment" : "network of flows"));
    CHECK(own.counts.nodes == 1);
    CHECK(own.counts.pivots * 10 <= general.counts.pivots);
    CHECK(general.structure.name.empty());
  }
}

TEST_CASE("what is nearly a network is none", "[mip][network]") {
  Random random(13);
  const mip::Problem p = assignment(5, random, 1.0);
  REQUIRE(mip::as_network(p));
  SECTION("a side rule") {
    mip::Problem q = p;
    q.add_row({{{0, 1.0}, {7, 1.0}, {20, 1.0}}, -kInf, 2.0});
    CHECK_FALSE(mip::as_network(q));
  }
  SECTION("entries of two sizes") {
    mip::Problem q;
    for (int j = 0; j < 3; ++j) q.add_column(0.0, 4.0, true, 1.0);
    q.add_row({{{0, 1.0}, {1, 2.0}}, 1.0, 3.0});
    q.add_row({{{1, 1.0}, {2, 1.0}}, 1.0, 3.0});
    CHECK_FALSE(mip::as_network(q));
  }
  SECTION("an odd ring of pairs, whose corners are halves") {
    mip::Problem q;
    for (int j = 0; j < 3; ++j) q.add_column(0.0, 1.0, true, -1.0);
    for (int j = 0; j < 3; ++j) q.add_row({{{j, 1.0}, {(j + 1) % 3, 1.0}}, -kInf, 1.0});
    CHECK_FALSE(mip::as_network(q));
  }
  SECTION("a bound that is no whole number") {
    mip::Problem q = p;
    q.set_bounds(3, 0.0, 0.5);
    CHECK_FALSE(mip::as_network(q));
  }
  SECTION("numbers that no double says") {
    mip::Problem q;
    q.add_column(0.0, 4.0, true, 1.0);
    mip::LinearRow row{{{0, 0.1}}, 1.0, 3.0};
    row.exact = false;
    q.add_row(row);
    CHECK_FALSE(mip::as_network(q));
  }
  SECTION("a condition") {
    mip::Problem q = p;
    const Index c = q.add_condition(0);
    mip::add_indicator_row(q, {{c, true}, {{{1, 1.0}}, -kInf, 0.0}});
    CHECK_FALSE(mip::as_network(q));
  }
}
