// Machines: found where they are and not where they nearly are; shops solved with them against
// trying all orders.
#include "mip/kinds/machines.hpp"

#include <algorithm>
#include <map>
#include <numeric>

#include <catch2/catch.hpp>

#include "mip/presolve/presolve.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

namespace {

struct Stop {
  int machine;
  double takes;
};
using Jobs = std::vector<std::vector<Stop>>;

enum class Stated { conditions, large_numbers };

struct ShopProblem {
  mip::Problem problem;
  std::vector<std::vector<Index>> begins;  // by machines
};

double setup(int a, int b, bool any) {
  return any ? static_cast<double>((a + 2 * b) % 3) : 0.0;
}

/// The end of the last step as the goal, or all ends with weights.
ShopProblem stated(const Jobs& jobs, Stated how, bool whole, bool setups, bool weighted) {
  constexpr double kLong = 60.0;
  ShopProblem s;
  mip::Problem& p = s.problem;
  const Index end = p.add_column(0.0, kLong, whole, weighted ? 0.0 : 1.0);
  std::map<int, std::vector<std::pair<Index, double>>> on;
  int number = 0;
  for (const auto& job : jobs) {
    Index before = -1;
    double took = 0.0;
    for (const Stop& stop : job) {
      const Index begin = p.add_column(0.0, kLong, whole, 0.0);
      if (before >= 0) p.add_row({{{begin, 1.0}, {before, -1.0}}, took, kInf});
      on[stop.machine].emplace_back(begin, stop.takes);
      before = begin;
      took = stop.takes;
    }
    p.add_row({{{end, 1.0}, {before, -1.0}}, took, kInf});
    if (weighted) p.set_cost(before, static_cast<double>(1 + number++ % 3));
  }
  for (const auto& [machine, steps] : on) {
    s.begins.emplace_back();
    for (const auto& [begin, takes] : steps) s.begins.back().push_back(begin);
    for (std::size_t a = 0; a < steps.size(); ++a)
      for (std::size_t b = 0; b < a; ++b) {
        const auto [first, takes_first] = steps[b];
        const auto [second, takes_second] = steps[a];
        const Index z = p.add_column(0.0, 1.0, true, 0.0);
        const double there = takes_first + setup(static_cast<int>(b), static_cast<int>(a), setups);
        const double back = takes_second + setup(static_cast<int>(a), static_cast<int>(b), setups);
        if (how == Stated::conditions) {
          const Index c = p.add_condition(z);
          mip::add_indicator_row(p, {{c, true}, {{{second, 1.0}, {first, -1.0}}, there, kInf}});
          mip::add_indicator_row(p, {{c, false}, {{{first, 1.0}, {second, -1.0}}, back, kInf}});
          continue;
        }
        // One of them the other way round.
        p.add_row({{{second, 1.0}, {first, -1.0}, {z, -(kLong + there)}}, -kLong, kInf});
        p.add_row({{{second, 2.0}, {first, -2.0}, {z, -2.0 * (kLong + back)}}, -kInf, -2.0 * back});
      }
  }
  p.set_goal_facts(true, whole ? 1.0 : 0.0);
  return s;
}

// Over all orders of all machines: begins are longest paths.
std::optional<double> best_by_orders(const ShopProblem& s, const Jobs& jobs, bool setups,
                                     bool weighted) {
  const Index n = s.problem.num_columns();
  std::optional<double> best;
  std::vector<std::vector<std::size_t>> orders;
  std::vector<std::vector<double>> takes(s.begins.size());
  std::map<int, std::size_t> machine;
  for (const auto& job : jobs)
    for (const Stop& stop : job) machine.emplace(stop.machine, 0);
  std::size_t count = 0;
  for (auto& [name, place] : machine) place = count++;
  for (const auto& job : jobs)
    for (const Stop& stop : job) takes[machine[stop.machine]].push_back(stop.takes);
  for (const auto& b : s.begins) {
    orders.emplace_back(b.size());
    std::iota(orders.back().begin(), orders.back().end(), std::size_t{0});
  }
  const auto evaluate = [&] {
    std::vector<double> x(at(n), 0.0);
    for (Index round = 0; round <= n; ++round) {
      bool moved = false;
      const auto push = [&](Index from, Index to, double gap) {
        if (x[at(to)] >= x[at(from)] + gap) return;
        x[at(to)] = x[at(from)] + gap;
        moved = true;
      };
      for (Index i = 0; i < s.problem.num_rows(); ++i) {
        const mip::RowView row = s.problem.row(i);
        if (row.index.size() == 2) {
          const bool forward = row.value[0] > 0.0;
          push(row.index[forward ? 1 : 0], row.index[forward ? 0 : 1], row.lower);
        }
      }
      for (std::size_t m = 0; m < orders.size(); ++m)
        for (std::size_t k = 1; k < orders[m].size(); ++k)
          for (std::size_t l = 0; l < k; ++l) {
            const std::size_t a = orders[m][l], b = orders[m][k];
            push(s.begins[m][a], s.begins[m][b],
                 takes[m][a] + setup(static_cast<int>(a), static_cast<int>(b), setups));
          }
      if (!moved) {
        double goal = 0.0;
        for (Index j = 0; j < n; ++j) {
          if (x[at(j)] > s.problem.upper(j)) return;
          goal += s.problem.cost(j) * x[at(j)];
        }
        if (!best || goal < *best) best = goal;
        return;
      }
    }
  };
  const auto all = [&](auto&& self, std::size_t m) -> void {
    if (m == orders.size()) return evaluate();
    std::ranges::sort(orders[m]);
    do self(self, m + 1);
    while (std::next_permutation(orders[m].begin(), orders[m].end()));
  };
  all(all, 0);
  (void)weighted;
  return best;
}

Jobs draw_jobs(Random& random, int jobs, int machines) {
  Jobs all;
  for (int j = 0; j < jobs; ++j) {
    all.emplace_back();
    std::vector<int> way;
    for (int m = 0; m < machines; ++m) way.push_back(m);
    for (std::size_t k = way.size(); k > 1; --k)
      std::swap(way[k - 1],
                way[static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(k) - 1))]);
    for (const int m : way) all.back().push_back({m, static_cast<double>(random.between(1, 7))});
  }
  return all;
}

mip::Precedences found_in(const mip::Problem& p) {
  WorkCounter work;
  return mip::find_precedences(p, work);
}

}  // namespace

TEST_CASE("machines are found in rows under conditions and with large numbers", "[mip][machines]") {
  Random random(6201);
  const Jobs jobs = draw_jobs(random, 4, 3);
  for (const Stated how : {Stated::conditions, Stated::large_numbers})
    for (const bool whole : {true, false}) {
      const ShopProblem s = stated(jobs, how, whole, false, false);
      const mip::Precedences found = found_in(s.problem);
      REQUIRE(found.machines.size() == 3);
      CHECK(found.always.size() == 12);  // two gaps and an end of each job
      for (const mip::MachineTasks& m : found.machines) {
        CHECK(std::ranges::find(s.begins, m.begin) != s.begins.end());
        for (std::size_t a = 0; a < m.size(); ++a)
          for (std::size_t b = 0; b < m.size(); ++b) {
            if (a == b) continue;
            CHECK(m.order(a, b).gap == m.takes[a]);
            CHECK(m.order(a, b).when.column == m.order(b, a).when.column);
            CHECK(m.order(a, b).when.one != m.order(b, a).when.one);
          }
      }
    }
}

TEST_CASE("what is nearly a machine is none", "[mip][machines]") {
  const auto pairs = [](auto&& state) {
    mip::Problem p;
    for (int k = 0; k < 3; ++k) (void)p.add_column(0.0, 50.0, true, 1.0);
    for (Index a = 0; a < 3; ++a)
      for (Index b = 0; b < a; ++b) {
        const Index z = p.add_column(0.0, 1.0, true, 0.0),
                    other = p.add_column(0.0, 1.0, true, 0.0);
        state(p, a, b, z, other);
      }
    return p;
  };
  const auto row = [](Index to, Index from, double a, Index z, double large, double gap) {
    return mip::LinearRow{{{to, a}, {from, -a}, {z, large}}, gap, kInf};
  };
  SECTION("a machine, to compare with") {
    CHECK(found_in(pairs([&](mip::Problem& p, Index a, Index b, Index z, Index) {
            p.add_row(row(a, b, 1.0, z, 60.0, 5.0));
            p.add_row(row(b, a, 1.0, z, -60.0, 5.0 - 60.0));
          })).machines.size() == 1);
  }
  SECTION("both rows under the same value") {
    CHECK(found_in(pairs([&](mip::Problem& p, Index a, Index b, Index z, Index) {
            p.add_row(row(a, b, 1.0, z, 60.0, 5.0));
            p.add_row(row(b, a, 1.0, z, 60.0, 5.0));
          })).machines.empty());
  }
  SECTION("under different binaries: neither need hold") {
    CHECK(found_in(pairs([&](mip::Problem& p, Index a, Index b, Index z, Index other) {
            p.add_row(row(a, b, 1.0, z, 60.0, 5.0));
            p.add_row(row(b, a, 1.0, other, -60.0, 5.0 - 60.0));
          })).machines.empty());
  }
  SECTION("twice one and once the other") {
    CHECK(found_in(pairs([&](mip::Problem& p, Index a, Index b, Index z, Index) {
            p.add_row({{{a, 2.0}, {b, -1.0}, {z, 60.0}}, 5.0, kInf});
            p.add_row(row(b, a, 1.0, z, -60.0, 5.0 - 60.0));
          })).machines.empty());
  }
  SECTION("a pair that is not kept apart") {
    CHECK(found_in(pairs([&](mip::Problem& p, Index a, Index b, Index z, Index) {
            if (a == 2 && b == 1) return;
            p.add_row(row(a, b, 1.0, z, 60.0, 5.0));
            p.add_row(row(b, a, 1.0, z, -60.0, 5.0 - 60.0));
          })).machines.empty());
  }
  SECTION("one may begin before the other has ended") {
    CHECK(found_in(pairs([&](mip::Problem& p, Index a, Index b, Index z, Index) {
            p.add_row(row(a, b, 1.0, z, 60.0, 0.0));
            p.add_row(row(b, a, 1.0, z, -60.0, -60.0));
          })).machines.empty());
  }
}

TEST_CASE("shops are solved as by trying all orders", "[mip][machines][oracle]") {
  Random random(6202);
  std::int64_t told = 0, learned = 0, divided = 0;
  for (int round = 0; round < 160; ++round) {
    CAPTURE(round);
    const bool setups = round % 5 == 0, weighted = round % 4 == 1, whole = round % 3 != 0;
    const auto how = round % 2 == 0 ? Stated::conditions : Stated::large_numbers;
    const Jobs jobs = draw_jobs(random, round % 8 == 0 ? 4 : 3, round % 8 == 0 ? 2 : 3);
    const ShopProblem s = stated(jobs, how, whole, setups, weighted);
    const auto best = best_by_orders(s, jobs, setups, weighted);
    REQUIRE(best.has_value());
    mip::SearchOptions options;
    options.presolving.brief_look = false;
    options.node.learning = round % 7 != 0;
    if (round % 3 == 1) {  // branching has to do it
      options.finding = {};
      options.finding.sequencing = options.finding.dives = options.finding.construction = false;
    }
    const mip::SearchResult r = mip::Search(s.problem, judge_of(s.problem), options).run();
    REQUIRE(r.outcome == Outcome::optimal);
    CHECK(r.goal.to_double() == Approx(*best));
    CHECK(holds_by_trying(s.problem, *r.plan));
    for (const mip::PartTally& part : r.parts) {
      if (part.name == "machines" && part.kind == "propagator") told += part.tally.steps;
      if (part.name == "machines" && part.kind == "presolve") divided += part.tally.steps;
      if (part.kind == "learning") learned += part.tally.steps;
    }
  }
  CHECK(told > 500);
  CHECK(learned > 50);
  CHECK(divided > 100);
}

TEST_CASE("six jobs on six machines, the classic of 1963, take 55", "[mip][machines]") {
  const Jobs jobs = {{{2, 1}, {0, 3}, {1, 6}, {3, 7}, {5, 3}, {4, 6}},
                     {{1, 8}, {2, 5}, {4, 10}, {5, 10}, {0, 10}, {3, 4}},
                     {{2, 5}, {3, 4}, {5, 8}, {0, 9}, {1, 1}, {4, 7}},
                     {{1, 5}, {0, 5}, {2, 5}, {3, 3}, {4, 8}, {5, 9}},
                     {{2, 9}, {1, 3}, {4, 5}, {5, 4}, {0, 3}, {3, 1}},
                     {{1, 3}, {3, 3}, {5, 9}, {0, 10}, {4, 4}, {2, 1}}};
  for (const Stated how : {Stated::conditions, Stated::large_numbers})
    for (const bool whole : {true, false}) {
      const ShopProblem s = stated(jobs, how, whole, false, false);
      const mip::SearchResult r = mip::Search(s.problem, judge_of(s.problem), {}).run();
      CHECK(r.outcome == Outcome::optimal);
      CHECK(r.goal == Rational(55));
      CHECK(r.counts.nodes < 3'000);
    }
}

// Fractions of a difference system that is whole at its corners: the goal moves in whole steps.
TEST_CASE("real columns of whole differences are whole, others are not", "[mip][presolve]") {
  const auto whole_columns = [](const mip::Problem& p, mip::ReductionStrength keeps) {
    WorkCounter work;
    const auto reduced = mip::presolve(p, keeps, false, work, "whole differences");
    REQUIRE(reduced.has_value());
    return reduced->left.problem.num_integers() - p.num_integers();
  };
  const auto base = [] {
    mip::Problem p;
    for (int k = 0; k < 3; ++k) (void)p.add_column(0.0, 40.0, false, k == 0 ? 3.0 : 0.0);
    (void)p.add_column(0.0, 1.0, true, 0.0);
    p.add_row({{{0, 1.0}, {1, -1.0}, {3, 7.0}}, 4.0, kInf});
    p.add_row({{{1, 2.0}, {2, -2.0}}, 6.0, kInf});
    p.set_goal_facts(true, 0.0);
    return p;
  };
  using enum mip::ReductionStrength;
  CHECK(whole_columns(base(), a_best_plan) == 3);
  CHECK(whole_columns(base(), all_best_plans) == 0);
  {
    WorkCounter work;
    const auto reduced = mip::presolve(base(), a_best_plan, false, work, "whole differences");
    CHECK(reduced->left.problem.goal_step() == 3.0);
  }
  mip::Problem p = base();
  SECTION("a limit in halves") {
    p.add_row({{{2, 1.0}, {1, -1.0}}, -kInf, 0.5});
  }
  SECTION("a sum of two") {
    p.add_row({{{2, 1.0}, {1, 1.0}}, 3.0, kInf});
  }
  SECTION("three of them") {
    p.add_row({{{0, 1.0}, {1, -1.0}, {2, 1.0}}, 3.0, kInf});
  }
  SECTION("half of a binary") {
    p.add_row({{{2, 2.0}, {3, 1.0}}, 2.0, kInf});
  }
  SECTION("a bound in thirds") {
    p.set_bounds(2, 1.0 / 3.0, 40.0);
  }
  CHECK(whole_columns(p, a_best_plan) == 0);
}

// A plan from before that is not whole, and goals of steps later on.
TEST_CASE("a better plan a part of a step away is found", "[mip][presolve][oracle]") {
  Random random(6203);
  int fractional = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    mip::Problem p;
    for (int k = 0; k < 4; ++k)
      (void)p.add_column(0.0, 4.0, false, k == 0 ? static_cast<double>(random.between(1, 3)) : 0.0);
    for (int k = 0; k < 3; ++k) (void)p.add_column(0.0, 1.0, true, 0.0);
    p.set_goal_facts(true, 0.0);
    mip::Problem in_whole;
    for (Index j = 0; j < p.num_columns(); ++j)
      (void)in_whole.add_column(p.lower(j), p.upper(j), true, p.cost(j));
    in_whole.set_goal_facts(true, 1.0);
    for (int i = 0; i < 6; ++i) {
      const auto a = static_cast<Index>(random.between(0, 3)),
                 b = static_cast<Index>(random.between(0, 3));
      if (a == b) continue;
      const mip::LinearRow row{
          {{a, 1.0},
           {b, -1.0},
           {static_cast<Index>(random.between(4, 6)), static_cast<double>(random.between(-4, 4))}},
          static_cast<double>(random.between(-3, 3)),
          kInf};
      p.add_row(row);
      in_whole.add_row(row);
    }
    const auto best = best_by_trying(in_whole);
    mip::SearchOptions options;
    options.presolving.brief_look = false;
    // A plan half a step above the best one, as an earlier answer.
    if (best && round % 2 == 0) {
      each_point(in_whole, [&](std::span<const Rational> x) {
        if (!options.given.plans.empty()) return;
        std::vector<Rational> half(x.begin(), x.end());
        for (std::size_t j = 0; j < 4; ++j) half[j] += Rational(1) / Rational(2);
        if (holds_by_trying(p, half)) options.given.plans.push_back(std::move(half));
      });
      fractional += !options.given.plans.empty();
    }
    const mip::SearchResult r = mip::Search(p, judge_of(p), options).run();
    REQUIRE((r.outcome == Outcome::optimal) == best.has_value());
    if (best) CHECK(r.goal == *best);
  }
  CHECK(fractional > 50);
}
