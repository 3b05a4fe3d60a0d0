// Limits leave the best plan, a valid bound and the gap; what is unbounded is proven so.
#include <catch2/catch.hpp>

#include "lp/ray.hpp"
#include "mip/relaxation/ray.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

// Strongly correlated packing: long enough to be stopped.
mip::Problem packing(int n, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  mip::LinearRow row{{}, -kInf, 0.0, true};
  double sum = 0.0;
  for (int j = 0; j < n; ++j) {
    const auto w = static_cast<double>(random.between(100, 1000));
    p.add_column(0.0, 1.0, true, -(w + 100.0));
    row.entries.push_back({j, w});
    sum += w;
  }
  row.upper = std::floor(sum / 2.0);
  p.add_row(row);
  p.set_goal_facts(true, 1.0);
  return p;
}

class Counter final : public mip::Listener {
 public:
  void better_plan(const mip::Standing& s, std::span<const Rational>) override {
    CHECK(s.best < last);
    CHECK(s.bound <= s.best);
    last = s.best;
    ++plans;
  }
  void progress(const mip::Standing&) override { ++steps; }
  double last = kInf;
  int plans = 0, steps = 0;
};

}  // namespace

TEST_CASE("a node limit keeps the best plan, and the bound is never above the true optimum",
          "[mip][limits]") {
  Random random(51);
  for (int round = 0; round < 150; ++round) {
    const mip::Problem p = draw_problem(random, {.columns = 8, .rows = 4, .conditional = 0.1});
    const std::optional<Rational> best = best_by_trying(p);
    for (std::int64_t nodes = 1; nodes < 8; nodes += 3) {
      mip::SearchOptions options;
      options.budget.nodes = nodes;
      const mip::SearchResult found = mip::Search(p, judge_of(p), options).run();
      if (best) {
        CHECK(found.outcome != Outcome::infeasible);
        CHECK((std::isinf(found.bound) || Rational::exactly(found.bound) <= *best));
      }
      if (found.plan) CHECK(satisfies(p, *found.plan));
      if (found.outcome == Outcome::optimal) CHECK(found.goal == *best);
      if (found.outcome == Outcome::unproven || found.outcome == Outcome::undecided)
        CHECK(found.stopped_by == mip::StoppedBy::nodes);
    }
  }
}

TEST_CASE("a gap is accepted as such and is kept", "[mip][limits]") {
  const mip::Problem p = packing(60, 5);
  mip::SearchOptions options;
  options.gap = 0.02;
  const mip::SearchResult found = mip::Search(p, judge_of(p), options).run();
  REQUIRE((found.outcome == Outcome::accepted || found.outcome == Outcome::optimal));
  CHECK(mip::relative_gap(found.goal.to_double(), found.bound, 1.0) <= 0.02);
}

TEST_CASE("time and the stop switch end a long search with its plan", "[mip][limits]") {
  const mip::Problem p = packing(120, 6);
  Counter listener;
  mip::SearchOptions options;
  options.budget.seconds = 0.2;
  const mip::SearchResult timed = mip::Search(p, judge_of(p), options, &listener).run();
  REQUIRE(timed.plan);
  CHECK(listener.plans > 0);
  if (timed.outcome != Outcome::optimal) {
    CHECK(timed.outcome == Outcome::unproven);
    CHECK(timed.stopped_by == mip::StoppedBy::time);
    CHECK(listener.steps > 0);
  }
  CHECK(timed.seconds < 2.0);
  const std::atomic<bool> stop{true};
  mip::SearchOptions stopped;
  stopped.budget.stop = &stop;
  const mip::SearchResult found = mip::Search(p, judge_of(p), stopped).run();
  CHECK(found.stopped_by == mip::StoppedBy::hand);
}

TEST_CASE("a plan from before is taken up and a basis from before saves pivots", "[mip][limits]") {
  const mip::Problem p = packing(40, 7);
  const mip::SearchResult first = mip::Search(p, judge_of(p), {}).run();
  REQUIRE(first.plan);
  mip::SearchOptions options;
  options.given.plans = {*first.plan};
  options.given.basis = first.root.basis;
  options.budget.nodes = 1;
  const mip::SearchResult second = mip::Search(p, judge_of(p), options).run();
  REQUIRE(second.plan);
  CHECK(second.goal == first.goal);
}

TEST_CASE("an endless goal is proven by a plan and a direction", "[mip][limits]") {
  mip::Problem p;
  p.add_column(0.0, kInf, true, -1.0);
  p.add_column(0.0, kInf, true, 0.0);
  p.add_row({{{0, 3.0}, {1, -7.0}}, -kInf, 5.0, true});
  p.set_goal_facts(true, 1.0);
  CHECK(mip::Search(p, judge_of(p), {}).run().outcome == Outcome::unbounded);
  p.add_row({{{0, 2.0}, {1, 2.0}}, 3.0, 3.0, true});  // no whole point at all
  CHECK(mip::Search(p, judge_of(p), {}).run().outcome == Outcome::infeasible);
}

TEST_CASE("an unbounded relaxation without a whole plan is not called unbounded", "[mip][limits]") {
  mip::Problem p;  // 2x = 1 with y free to fall
  p.add_column(0.0, 5.0, true, 0.0);
  p.add_column(-kInf, 5.0, false, 1.0);
  p.add_row({{{0, 2.0}}, 1.0, 1.0, true});
  p.set_goal_facts(true, 0.0);
  CHECK(mip::Search(p, judge_of(p), {}).run().outcome == Outcome::infeasible);
}

TEST_CASE("near fractions and exact rays", "[mip][limits]") {
  CHECK(lp::near_fraction(1.0 / 3.0, 100) == Rational::ratio(1, 3));
  CHECK(lp::near_fraction(-0.625, 100) == Rational::ratio(-5, 8));
  mip::Problem p;
  p.add_column(0.0, kInf, false, -1.0);
  p.add_column(0.0, kInf, false, 0.0);
  p.add_row({{{0, 3.0}, {1, -1.0}}, -kInf, 0.0, true});
  p.set_goal_facts(true, 0.0);
  CHECK(mip::exact_ray(p, std::vector<double>{1.0 / 3.0, 1.0}));
  CHECK_FALSE(mip::exact_ray(p, std::vector<double>{0.34, 1.0}));  // breaks the row
  CHECK_FALSE(mip::exact_ray(p, std::vector<double>{0.0, 1.0}));   // gains nothing
}
