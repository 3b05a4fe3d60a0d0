// The parts of a worker, each driven by itself.

#include <cmath>

#include <catch2/catch.hpp>

#include "mip/problem/exact_rows.hpp"
#include "mip/worker/worker.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

namespace {

struct Bench {
  explicit Bench(mip::Problem p, mip::SearchOptions o = {})
      : options(std::move(o)), space(std::move(p), options, clock, 0) {
    node.task = &task;
  }
  // Propagated and relaxed; false where nothing is left.
  bool relax() {
    if (!space.propagation.run(space.domain, space.work)) return false;
    space.relaxation.follow(space.domain);
    const lp::Report report = space.relaxation.solve({});
    node.relaxed_goal = report.objective;
    return report.status == lp::Status::optimal;
  }
  mip::SearchOptions options;
  Stopwatch clock;
  mip::NodeWorkspace space;
  mip::Task task;
  mip::PresentNode node;
};

// Packing: goods of a sack, and pairs that exclude each other.
mip::Problem packing(Random& random, int n) {
  mip::Problem p;
  for (int j = 0; j < n; ++j)
    (void)p.add_column(0.0, 1.0, true, -static_cast<double>(random.between(5, 20)));
  mip::LinearRow sack{{}, -kInf, 0.0, true};
  for (Index j = 0; j < n; ++j) {
    sack.entries.push_back({j, static_cast<double>(random.between(5, 20))});
    sack.upper += 0.4 * sack.entries.back().value;
  }
  sack.upper = std::floor(sack.upper);
  (void)p.add_row(sack);
  for (Index j = 0; j + 1 < n; j += 2)
    (void)p.add_row({{{j, 1.0}, {j + 1, 1.0}}, -kInf, 1.0, true});
  return p;
}

}  // namespace

TEST_CASE("the known best rules out what is not better, and nothing else", "[mip][parts]") {
  mip::Problem p;
  for (int j = 0; j < 3; ++j) (void)p.add_column(0.0, 5.0, true, 2.0);
  p.set_goal_facts(true, 2.0);
  mip::KnownBest known(p, {});
  CHECK_FALSE(known.any());
  CHECK_FALSE(known.closes(1e300));
  const std::vector<Rational> plan = {1, 2, 2};
  CHECK(known.offer(plan, 10));
  CHECK_FALSE(known.offer(plan, 10));  // no news
  CHECK(known.offer(plan, 8));
  CHECK(known.best() == 8.0);
  CHECK(known.point().size() == 3);
  CHECK_FALSE(known.closes(6.0));  // a goal of 6 would be better
  CHECK(known.closes(6.0001));     // the next one is 8
  CHECK(known.reached_by(Rational(61) / Rational(10)));
  CHECK_FALSE(known.reached_by(6));
  mip::SharedKnowledge others;
  others.goal = Rational(4);
  others.best = 4.0;
  known.learn(others);
  CHECK(known.closes(2.5));
  others.goal = Rational(6);
  others.best = 6.0;
  known.learn(others);  // no news
  CHECK(known.best() == 4.0);
}

TEST_CASE("of the best few a node counts by what its key still holds", "[mip][parts]") {
  mip::Problem p;
  for (int j = 0; j < 2; ++j) (void)p.add_column(0.0, 3.0, true, 1.0);
  mip::SearchOptions options;
  options.few = {2, {0}};
  mip::KnownBest known(p, options);
  CHECK(known.offer(std::vector<Rational>{1, 0}, 1));
  CHECK_FALSE(known.any());  // room for another one
  CHECK(known.offer(std::vector<Rational>{2, 1}, 3));
  CHECK(known.best() == 3.0);
  mip::Domain domain(p);
  REQUIRE((domain.raise_lower(0, 1.0) && domain.drop_upper(0, 1.0)));
  known.narrow_to_key(domain);
  CHECK(known.best() == 1.0);  // of this key only a better one counts
  known.forget_key();
  CHECK(known.best() == 3.0);
}

TEST_CASE("rounds of cuts raise the bound and leave every plan", "[mip][parts]") {
  Random random(81);
  int raised = 0;
  for (int round = 0; round < 40; ++round) {
    const mip::Problem p = packing(random, 12);
    Bench b(p);
    mip::CutLoop cuts(b.space, b.options);
    REQUIRE(b.relax());
    const double before = b.space.relaxation.simplex().bound();
    double bound = before;
    for (int k = 0; k < 100 && cuts.at_root(bound, kInf, b.node); ++k) {
      REQUIRE(b.relax());
      bound = b.space.relaxation.simplex().bound();
    }
    CHECK(bound >= before - 1e-9);
    raised += bound > before + 1e-6 ? 1 : 0;
    each_point(p, [&](std::span<const Rational> x) {
      if (holds_by_trying(p, x)) REQUIRE(b.space.pool.met_exactly(x));
    });
    for (Index name = 0; name < b.space.pool.size(); ++name) {
      const mip::RowView row = b.space.pool.view(name);
      each_point(p, [&](std::span<const Rational> x) {
        if (holds_by_trying(p, x)) REQUIRE(mip::row_holds(row, x));
      });
    }
  }
  CHECK(raised > 20);
}

TEST_CASE("a learned conflict rules out no plan", "[mip][parts]") {
  Random random(82);
  std::int64_t kept = 0;
  for (int round = 0; round < 600; ++round) {
    const mip::Problem p = draw_problem(random, {.columns = 7, .rows = 9});
    Bench b(p);
    mip::PseudoCosts costs(p.num_columns());
    mip::ConflictLearner learner(b.space, costs);
    if (!b.space.propagation.run(b.space.domain, b.space.work)) continue;
    const std::size_t root = b.space.domain.mark();
    // Down by chance, a decision at a time, until nothing is left.
    for (int dive = 0; dive < 12; ++dive) {
      std::int64_t number = 1000 * round + 50 * dive;
      std::vector<mip::Change> change(1);
      for (Index j = 0; j < p.num_columns(); ++j) {
        const double low = b.space.domain.lower(j), high = b.space.domain.upper(j);
        if (low == high || !std::isfinite(low) || !std::isfinite(high)) continue;
        const auto value = static_cast<double>(
            random.between(static_cast<std::int64_t>(low), static_cast<std::int64_t>(high) - 1));
        const bool up = random.chance(0.5);
        change[0] = up ? mip::Change{mip::Change::What::lower, j, value + 1.0}
                       : mip::Change{mip::Change::What::upper, j, value};
        b.space.path.leave(number++, b.space.domain.mark());
        if (b.space.domain.apply(change[0]) &&
            b.space.propagation.run(b.space.domain, b.space.work))
          continue;
        learner.from_rows({static_cast<int>(b.space.path.numbers().size()), 0, root});
        break;
      }
      (void)b.space.path.go(0, {}, root, b.space.domain);
    }
    kept += learner.tally().steps;
    each_point(p, [&](std::span<const Rational> x) {
      if (!holds_by_trying(p, x)) return;
      const std::size_t mark = b.space.domain.mark();
      for (Index j = 0; j < p.num_columns(); ++j) {
        const double v = x[static_cast<std::size_t>(j)].to_double();
        REQUIRE((b.space.domain.raise_lower(j, v) || v <= b.space.domain.lower(j)));
        REQUIRE((b.space.domain.drop_upper(j, v) || v >= b.space.domain.upper(j)));
      }
      REQUIRE(b.space.propagation.run(b.space.domain, b.space.work));
      b.space.domain.undo_to(mark);
    });
  }
  CHECK(kept > 50);
}

TEST_CASE("what the root knows of reduced costs leaves every better plan", "[mip][parts]") {
  Random random(83);
  std::int64_t tightened = 0;
  for (int round = 0; round < 100; ++round) {
    const mip::Problem p = packing(random, 10);
    Bench b(p);
    REQUIRE(b.relax());
    std::vector<Interval> reduced;
    const double bound = b.space.relaxation.simplex().sharp_bound(&reduced);
    mip::RootState root;
    root.remember(bound, {reduced}, b.space.relaxation);
    CHECK(root.hand_out(b.space.domain, false)->bound == bound);
    const Rational best = *best_by_trying(p);
    mip::KnownBest known(p, {});
    std::vector<Rational> nothing(static_cast<std::size_t>(p.num_columns()), 0);
    (void)known.offer(nothing, best + 1);  // only its goal counts here
    const std::size_t before = b.space.domain.mark();
    root.tighten(known, b.space);
    tightened += static_cast<std::int64_t>(b.space.domain.mark() - before);
    CHECK(root.mark() == b.space.domain.mark());
    each_point(p, [&](std::span<const Rational> x) {
      if (!holds_by_trying(p, x) || goal_of(p, x) > best) return;
      for (Index j = 0; j < p.num_columns(); ++j) {
        const double v = x[static_cast<std::size_t>(j)].to_double();
        REQUIRE((v >= b.space.domain.lower(j) && v <= b.space.domain.upper(j)));
      }
    });
  }
  CHECK(tightened > 100);
}

TEST_CASE("reduced costs that hold up to a goal say nothing of plans beyond it", "[mip][parts]") {
  mip::Problem p;
  for (int j = 0; j < 2; ++j) (void)p.add_column(0.0, 5.0, true, 1.0);
  mip::Domain domain(p);
  const std::vector<double> lower(2, 0.0), upper(2, 5.0);
  const mip::CertainCosts costs{{{2.0, 2.0}, {0.0, 0.0}}, 10.0};
  mip::tighten_by_reduced_costs(domain, costs, {11.0, 0.0, 0.0}, 7.0, {lower, upper});
  CHECK(domain.upper(0) == 5.0);
  mip::tighten_by_reduced_costs(domain, costs, {10.0, 0.0, 0.0}, 7.0, {lower, upper});
  CHECK(domain.upper(0) == 1.0);
  CHECK(domain.upper(1) == 5.0);
}

TEST_CASE("what holds below a node is not taken for true at the root", "[mip][parts]") {
  Random random(84);
  const mip::Problem p = packing(random, 10);
  Bench b(p);
  b.space.propagation.add(std::make_unique<mip::RowPropagator>(
      "generated rows", b.space.pool.source(), b.space.domain));
  REQUIRE(b.relax());
  std::vector<Interval> reduced;
  const double bound = b.space.relaxation.simplex().sharp_bound(&reduced);
  mip::RootState root;
  root.remember(bound, {reduced}, b.space.relaxation);
  (void)root.hand_out(b.space.domain, false);
  // Below node 5, where the search stands, the first column is 0; a plan makes nothing tighter.
  (void)b.space.pool.add({{{0, 1.0}}, -kInf, 0.0, true}, 5);
  b.space.pool.enter([](std::int64_t scope) { return scope == 5; }, b.space.relaxation);
  mip::KnownBest known(p, {});
  const std::vector<Rational> nothing(static_cast<std::size_t>(p.num_columns()), 0);
  (void)known.offer(nothing, 0);
  root.tighten(known, b.space);
  CHECK(b.space.domain.upper(0) == 1.0);
}

TEST_CASE("a branching parts what there is, and its estimate is no better than the relaxation",
          "[mip][parts]") {
  Random random(84);
  int parted = 0;
  for (int round = 0; round < 60; ++round) {
    mip::SearchOptions options;
    options.node.strong = round % 2 == 0;
    Bench b(packing(random, 12), options);
    mip::Brancher brancher(b.space, b.options);
    const mip::KnownBest known(b.space.problem, b.options);
    REQUIRE(b.relax());
    for (Index j = 0; j < b.space.problem.num_columns(); ++j) {
      const double x = b.space.relaxation.point()[static_cast<std::size_t>(j)];
      if (std::abs(x - std::round(x)) > 1e-6) b.node.fractional.push_back(j);
    }
    const mip::Brancher::Choice choice = brancher.choose(known, b.node);
    if (b.node.fractional.empty()) {
      CHECK(choice.column == -1);
      continue;
    }
    if (choice.tightened || choice.nothing_left) continue;
    CHECK(std::count(b.node.fractional.begin(), b.node.fractional.end(), choice.column) == 1);
    CHECK(brancher.estimate(b.node) >= b.node.relaxed_goal);
    const double x = b.space.relaxation.point()[static_cast<std::size_t>(choice.column)];
    mip::Branching branching;
    branching.children = {{{mip::Change::What::upper, choice.column, std::floor(x)}},
                          {{mip::Change::What::lower, choice.column, std::floor(x) + 1.0}}};
    brancher.split(branching, choice.column, x, b.node);
    REQUIRE(b.node.out.children.size() == 2);
    CHECK(b.node.out.children[0].branched.distance + b.node.out.children[1].branched.distance ==
          Approx(1.0));
    CHECK_FALSE(b.node.out.children[0].branched.up);
    CHECK(b.node.out.children[1].branched.up);
    ++parted;
  }
  CHECK(parted > 20);
}

TEST_CASE("a plan finder hands out what the judge takes, and only what is better", "[mip][parts]") {
  Random random(85);
  int found = 0;
  for (int round = 0; round < 40; ++round) {
    const mip::Problem p = packing(random, 10);
    const mip::Judge judge = judge_of(p);
    Bench b(p);
    const mip::WorkerSetting setting{judge, b.options, b.clock, {}, p.num_columns()};
    mip::KnownBest known(p, b.options);
    mip::PseudoCosts costs(p.num_columns());
    mip::PlanFinder finder(setting, b.space, known, costs, b.node);
    const std::vector<Rational> nothing(10, 0), all(10, 1);
    CHECK(finder.judge(nothing, "by hand"));
    CHECK(finder.judge(nothing, "by hand"));  // it holds, but is no news
    CHECK(b.node.out.plans.size() == 1);
    CHECK_FALSE(finder.judge(all, "by hand"));
    REQUIRE(b.relax());
    (void)finder.propose(mip::NodeView::Moment::relaxed);
    const Rational best = *best_by_trying(p);
    for (const mip::Found& f : b.node.out.plans) {
      CHECK(holds_by_trying(p, f.plan));
      CHECK(f.goal == goal_of(p, f.plan));
      CHECK(f.goal >= best);
    }
    found += b.node.out.plans.size() > 1 ? 1 : 0;
  }
  CHECK(found > 20);
}
