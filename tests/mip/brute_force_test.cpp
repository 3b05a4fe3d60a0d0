#include "support/brute_force.hpp"

#include <catch2/catch.hpp>

using namespace kiteknot;
using namespace kiteknot::test;

TEST_CASE(
    "thousands of tiny integer problems with every kind of constraint agree with trying all points",
    "[mip][oracle]") {
  Random random(1);
  int feasible = 0, infeasible = 0;
  std::int64_t nodes = 0;
  for (int round = 0; round < 4000; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_problem(random, {});
    const std::optional<Rational> best = best_by_trying(p);
    ++(best ? feasible : infeasible);
    for (const bool looks : {true, false}) {  // without them more is left to the tree
      mip::SearchOptions options;
      options.finding.core = options.node.enumeration = looks;
      if (!looks) options.cuts = mip::CutSwitches::none();
      const mip::SearchResult found = mip::Search(p, judge_of(p), options).run();
      INFO(word(found.outcome) << " " << found.reason);
      if (!looks) nodes += found.counts.nodes;
      REQUIRE(found.outcome == (best ? Outcome::optimal : Outcome::infeasible));
      if (!best) continue;
      REQUIRE(found.goal == *best);
      REQUIRE(found.bound == best->to_double());
      REQUIRE(satisfies(p, *found.plan));
    }
  }
  CHECK(feasible > 500);
  CHECK(infeasible > 500);
  CHECK(nodes > 1500);
}

TEST_CASE("goals without a known step are proven too", "[mip][oracle]") {
  Random random(2);
  for (int round = 0; round < 600; ++round) {
    CAPTURE(round);
    mip::Problem p = draw_problem(random, {.conditional = 0.0, .ordered = 0.0});
    p.set_goal_facts(true, 0.0);
    const std::optional<Rational> best = best_by_trying(p);
    const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
    REQUIRE(found.outcome == (best ? Outcome::optimal : Outcome::infeasible));
    if (best) CHECK(found.goal == *best);
  }
}

TEST_CASE("whole and real columns together: the reals follow the best whole choice",
          "[mip][oracle]") {
  // minimise -sum c z - d y with y real: for every whole choice the best y is a plain formula.
  Random random(3);
  for (int round = 0; round < 400; ++round) {
    CAPTURE(round);
    mip::Problem p;
    const int n = round % 10 == 0 ? 14 : 5;
    std::vector<int> gain, weight;
    for (int j = 0; j < n; ++j) {
      gain.push_back(static_cast<int>(random.between(1, 9)));
      weight.push_back(static_cast<int>(random.between(1, 9)));
      p.add_column(0.0, 1.0, true, -gain.back());
    }
    const auto d = static_cast<int>(random.between(1, 4)),
               cap = static_cast<int>(random.between(5, 5 * n));
    p.add_column(0.0, 4.0, false, -d);
    p.set_goal_facts(true, 0.0);
    mip::LinearRow row{{}, -kInf, static_cast<double>(cap), true};
    for (int j = 0; j < n; ++j)
      row.entries.push_back({j, static_cast<double>(weight[static_cast<std::size_t>(j)])});
    row.entries.push_back({n, 3.0});  // 3 y takes room as well
    p.add_row(row);
    std::optional<Rational> best;
    for (int mask = 0; mask < 1 << n; ++mask) {
      Rational value = 0, room = cap;
      for (int j = 0; j < n; ++j)
        if (mask >> j & 1) {
          value -= gain[static_cast<std::size_t>(j)];
          room -= weight[static_cast<std::size_t>(j)];
        }
      if (room.sign() < 0) continue;
      value -= Rational(d) * std::min<Rational>(4, room / 3);
      if (!best || value < *best) best = value;
    }
    for (const bool looks : {true, false}) {
      mip::SearchOptions options;
      options.finding.core = options.node.enumeration = looks;
      const mip::SearchResult found = mip::Search(p, judge_of(p), options).run();
      REQUIRE(found.outcome == Outcome::optimal);
      CHECK(found.goal == *best);  // exactly, thirds included
      CHECK(found.proven_exactly);
    }
  }
}

TEST_CASE("the same search twice is the same search, node for node", "[mip]") {
  Random random(4);
  for (int round = 0; round < 20; ++round) {
    const mip::Problem p = draw_problem(random, {.columns = 7, .rows = 4, .conditional = 0.1});
    const mip::SearchResult a = mip::Search(p, judge_of(p), {}).run(),
                            b = mip::Search(p, judge_of(p), {}).run();
    CHECK(a.counts.nodes == b.counts.nodes);
    CHECK(a.counts.pivots == b.counts.pivots);
    CHECK(a.counts.work == b.counts.work);
    CHECK(a.plan == b.plan);
  }
}
