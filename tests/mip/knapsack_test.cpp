// Knapsacks by their own algorithm: all points, the textbook's table by room, and the search's
// word; and problems that are nearly knapsacks, which are none.
#include "mip/structures/knapsack.hpp"

#include <catch2/catch.hpp>

#include "support/brute_force.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

namespace {

constexpr std::int64_t kManyStates = 10'000'000;

// Weights of either sign or none, boxes anywhere, a limit on either side or both.
mip::Problem draw_knapsack(Random& random, int columns) {
  mip::Problem p;
  mip::LinearRow row;
  for (Index j = 0; j < columns; ++j) {
    const auto low = static_cast<double>(random.between(-2, 2));
    p.add_column(low, low + static_cast<double>(random.between(0, 4)), true,
                 static_cast<double>(random.between(-20, 20)));
    if (random.chance(0.9))
      row.entries.push_back({j, static_cast<double>(random.between(-12, 12))});
  }
  const auto limit =
      static_cast<double>(random.between(-20, 40)) + (random.chance(0.3) ? 0.5 : 0.0);
  const auto side = random.between(0, 2);
  row.lower = side == 0 ? -kInf : limit - (side == 2 ? 1000.0 : 0.0);
  row.upper = side == 1 ? kInf : limit;
  p.add_row(row);
  p.set_goal_facts(true, 1.0);
  return p;
}

double goal_at(const mip::Problem& p, const std::vector<double>& x) {
  double goal = 0.0;
  for (Index j = 0; j < p.num_columns(); ++j) goal += p.cost(j) * x[at(j)];
  return goal;
}

}  // namespace

TEST_CASE("small knapsacks of every sign are solved as all points say", "[mip][knapsack]") {
  Random random(19);
  int solved = 0, planless = 0;
  for (int round = 0; round < 1500; ++round) {
    const mip::Problem p = draw_knapsack(random, static_cast<int>(random.between(1, 6)));
    const auto best = best_by_trying(p);
    WorkCounter work;
    const auto found = mip::solve_knapsack(p, kManyStates, work);
    CAPTURE(round);
    if (!best) CHECK_FALSE(found);
    planless += best ? 0 : 1;
    if (!found) continue;
    ++solved;
    const std::vector<Rational> plan(found->begin(), found->end());
    REQUIRE(satisfies(p, plan));
    REQUIRE(goal_of(p, plan) == *best);
  }
  CHECK(solved > 1000);
  CHECK(planless > 30);
}

TEST_CASE("knapsacks of hundreds of items are solved as a table by room says", "[mip][knapsack]") {
  Random random(20);
  for (int round = 0; round < 40; ++round) {
    mip::Problem p;
    mip::LinearRow row{{}, -kInf, 0.0, true};
    std::vector<int> weight, worth;
    const int n = static_cast<int>(random.between(50, 300));
    for (Index j = 0; j < n; ++j) {
      weight.push_back(static_cast<int>(random.between(1, 100)));
      const int noise = static_cast<int>(random.between(-2, 2));
      worth.push_back(round % 3 == 0   ? static_cast<int>(random.between(1, 100))
                      : round % 3 == 1 ? weight.back() + 10
                                       : std::max(1, weight.back() + noise));
      p.add_column(0.0, 1.0, true, -worth.back());
      row.entries.push_back({j, static_cast<double>(weight.back())});
      row.upper += weight.back() / 2.0;
    }
    row.upper = std::floor(row.upper);
    p.add_row(row);
    p.set_goal_facts(true, 1.0);
    std::vector<int> best(static_cast<std::size_t>(row.upper) + 1, 0);
    for (std::size_t j = 0; j < weight.size(); ++j)
      for (std::size_t room = best.size(); room-- > static_cast<std::size_t>(weight[j]);)
        best[room] =
            std::max(best[room], best[room - static_cast<std::size_t>(weight[j])] + worth[j]);
    WorkCounter work;
    const auto found = mip::solve_knapsack(p, kManyStates, work);
    REQUIRE(found);
    CHECK(-goal_at(p, *found) == best.back());
    const mip::SearchResult said = mip::Search(p, exact_judge(p), {}).run();
    CHECK(said.outcome == Outcome::optimal);
    CHECK(said.proven_exactly);
    CHECK(said.goal == Rational(-best.back()));
    CHECK(said.bound == -best.back());
    CHECK(said.counts.nodes == 0);
    CHECK(said.found_by == "a dynamic program for knapsacks");
  }
}

TEST_CASE("what is nearly a knapsack is none, and its limits are kept", "[mip][knapsack]") {
  const auto plain = [] {
    mip::Problem p;
    for (Index j = 0; j < 4; ++j) p.add_column(0.0, 1.0, true, -static_cast<double>(j + 1));
    p.set_goal_facts(true, 1.0);
    return p;
  };
  const std::vector<lp::Entry> entries = {{0, 3.0}, {1, 4.0}, {2, 5.0}, {3, 6.0}};
  const auto solved = [](const mip::Problem& p, std::int64_t states = kManyStates) {
    WorkCounter work;
    return mip::solve_knapsack(p, states, work).has_value();
  };
  mip::Problem one = plain();
  CHECK_FALSE(solved(one));  // no row
  one.add_row({entries, -kInf, 10.0, true});
  CHECK(solved(one));
  CHECK_FALSE(solved(one, 0));  // no room for states
  mip::Problem two = one;
  two.add_row({{{0, 1.0}, {1, 1.0}}, -kInf, 1.0, true});
  CHECK_FALSE(solved(two));
  mip::Problem equation = plain();
  equation.add_row({entries, 9.0, 9.0, true});
  CHECK_FALSE(solved(equation));
  mip::Problem both = plain();
  both.add_row({entries, 4.0, 10.0, true});
  CHECK_FALSE(solved(both));
  mip::Problem idle = plain();  // the lower limit is met by every point
  idle.add_row({entries, 0.0, 10.0, true});
  CHECK(solved(idle));
  mip::Problem real = plain();
  real.add_column(0.0, 1.0, false, 0.0);
  real.add_row({entries, -kInf, 10.0, true});
  CHECK_FALSE(solved(real));
  mip::Problem endless = plain();
  endless.add_column(0.0, kInf, true, 1.0);
  endless.add_row({entries, -kInf, 10.0, true});
  CHECK_FALSE(solved(endless));
  mip::Problem fraction = plain();
  fraction.add_row({{{0, 2.5}, {1, 1.0}}, -kInf, 3.0, true});
  CHECK_FALSE(solved(fraction));
  mip::Problem conditional = one;
  const Index c = conditional.add_condition(0);
  mip::add_indicator_row(conditional, {{c, true}, {{{1, 1.0}}, -kInf, 0.0, true}});
  CHECK_FALSE(solved(conditional));
  mip::Problem narrow = plain();
  narrow.set_bounds(1, 0.25, 0.75);  // no whole value
  narrow.add_row({entries, -kInf, 10.0, true});
  CHECK_FALSE(solved(narrow));
}
