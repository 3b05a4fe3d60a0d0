// What is left of a node, against every point of its domain.
#include "mip/heuristics/enumerate.hpp"

#include <algorithm>
#include <cmath>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "mip/relaxation/relaxation.hpp"

using namespace kiteknot;
using namespace kiteknot::mip;

namespace {

struct Drawn {
  Problem problem;
  std::vector<LinearRow> rows;
};

Drawn draw(Random& random) {
  Drawn d;
  for (int j = 0; j < 6; ++j) {
    const auto low = static_cast<double>(random.between(-1, 1));
    d.problem.add_column(low, low + static_cast<double>(random.between(0, 2)), true,
                         static_cast<double>(random.between(-9, 9)));
  }
  for (int r = 0; r < 3; ++r) {
    LinearRow row;
    for (Index j = 0; j < 6; ++j)
      if (random.chance(0.7))
        row.entries.push_back({j, static_cast<double>(random.between(-5, 5))});
    std::erase_if(row.entries, [](const Entry& e) { return e.value == 0.0; });
    row.lower = random.chance(0.5) ? -HUGE_VAL : static_cast<double>(random.between(-12, 0));
    row.upper = random.chance(0.3) ? HUGE_VAL : static_cast<double>(random.between(0, 8));
    d.problem.add_row(row);
    d.rows.push_back(std::move(row));
  }
  d.problem.set_goal_facts(true, 1.0);
  return d;
}

// The least goal over the domain, infinite where nothing fits.
double least(const Drawn& d, const Domain& domain) {
  const Problem& p = d.problem;
  double best = HUGE_VAL;
  std::vector<double> x(6);
  for (Index j = 0; j < 6; ++j) x[static_cast<std::size_t>(j)] = domain.lower(j);
  while (true) {
    double goal = 0.0;
    for (Index j = 0; j < 6; ++j) goal += p.cost(j) * x[static_cast<std::size_t>(j)];
    const bool fits = std::all_of(d.rows.begin(), d.rows.end(), [&](const LinearRow& row) {
      double sum = 0.0;
      for (const Entry& e : row.entries) sum += e.value * x[static_cast<std::size_t>(e.index)];
      return sum >= row.lower && sum <= row.upper;
    });
    if (fits) best = std::min(best, goal);
    Index j = 0;
    while (j < 6 && x[static_cast<std::size_t>(j)] >= domain.upper(j)) {
      x[static_cast<std::size_t>(j)] = domain.lower(j);
      ++j;
    }
    if (j == 6) return best;
    x[static_cast<std::size_t>(j)] += 1.0;
  }
}

}  // namespace

TEST_CASE("what enumeration leaves out is not better than the best", "[mip][enumerate]") {
  Random random(909);
  int better = 0, nothing = 0, cut_short = 0;
  for (int round = 0; round < 3000; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random);
    Relaxation relaxation(d.problem);
    Domain domain(d.problem);
    relaxation.take(domain);
    if (relaxation.solve({}).status != lp::Status::optimal) continue;
    std::vector<Interval> reduced;
    const double bound = relaxation.simplex().bound(&reduced);
    // A domain tighter than the box of the bound, as after propagation.
    for (int k = 0; k < 2; ++k) {
      const auto j = static_cast<Index>(random.between(0, 5));
      if (random.chance(0.5)) (void)domain.raise_lower(j, domain.upper(j));
    }
    const double best = std::ceil(bound) + static_cast<double>(random.between(0, 12));
    const NodePrices prices{reduced, &relaxation.simplex().program()};
    WorkCounter work;
    const double truth = least(d, domain);
    BestPoint all({best, 1.0}, bound);
    REQUIRE(enumerate(d.problem, domain, prices, all, 100'000, work));
    REQUIRE(all.found() == (truth < best));
    ++(all.found() ? better : nothing);
    if (all.found()) {
      double goal = 0.0;
      for (Index j = 0; j < 6; ++j)
        goal += d.problem.cost(j) * all.point()[static_cast<std::size_t>(j)];
      CHECK(goal == truth);
    }
    BestPoint few({best, 1.0}, bound);
    if (enumerate(d.problem, domain, prices, few, 3, work))
      CHECK(few.found() == all.found());
    else
      ++cut_short;
  }
  CHECK(better > 500);
  CHECK(nothing > 500);
  CHECK(cut_short > 150);
}
