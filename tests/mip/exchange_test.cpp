// Mending, exchanging and looking around a relaxed point: what comes out is feasible and no worse.
#include "mip/heuristics/exchange.hpp"

#include <algorithm>
#include <cmath>

#include <catch2/catch.hpp>

#include "base/random.hpp"

using namespace kiteknot;
using namespace kiteknot::mip;

namespace {

// Packing rows over columns from 0 to 2, some of them with a least amount.
Problem packing(Random& random, int columns) {
  Problem p;
  for (int j = 0; j < columns; ++j)
    p.add_column(0.0, static_cast<double>(random.between(1, 2)), true,
                 -static_cast<double>(random.between(1, 20)));
  for (int r = 0; r < 3; ++r) {
    LinearRow row;
    for (Index j = 0; j < columns; ++j)
      if (random.chance(0.7)) row.entries.push_back({j, static_cast<double>(random.between(1, 9))});
    row.lower = r == 0 ? static_cast<double>(random.between(0, 6)) : -HUGE_VAL;
    row.upper = static_cast<double>(random.between(10, 25));
    p.add_row(row);
  }
  return p;
}

bool fits(const Problem& p, const std::vector<double>& x) {
  for (Index j = 0; j < p.num_columns(); ++j)
    if (x[static_cast<std::size_t>(j)] < p.lower(j) || x[static_cast<std::size_t>(j)] > p.upper(j))
      return false;
  for (Index i = 0; i < p.num_rows(); ++i) {
    double sum = 0.0;
    for (std::size_t k = 0; k < p.rows().index(i).size(); ++k)
      sum += p.rows().value(i)[k] * x[static_cast<std::size_t>(p.rows().index(i)[k])];
    if (sum < p.row_lower(i) || sum > p.row_upper(i)) return false;
  }
  return true;
}

double goal(const Problem& p, const std::vector<double>& x) {
  double sum = 0.0;
  for (Index j = 0; j < p.num_columns(); ++j) sum += p.cost(j) * x[static_cast<std::size_t>(j)];
  return sum;
}

// Every point within the bounds.
template <class Visit>
void each_point(const Problem& p, const Visit& visit) {
  std::vector<double> x(static_cast<std::size_t>(p.num_columns()), 0.0);
  while (true) {
    visit(x);
    Index j = 0;
    while (j < p.num_columns() && x[static_cast<std::size_t>(j)] >= p.upper(j))
      x[static_cast<std::size_t>(j++)] = 0.0;
    if (j == p.num_columns()) return;
    x[static_cast<std::size_t>(j)] += 1.0;
  }
}

}  // namespace

TEST_CASE("an exchange mends and improves, and no single move betters it", "[mip][exchange]") {
  Random random(404);
  int mended = 0;
  for (int round = 0; round < 400; ++round) {
    CAPTURE(round);
    const Problem p = packing(random, 6);
    std::vector<double> start;
    for (Index j = 0; j < 6; ++j) start.push_back(static_cast<double>(random.between(0, 1)));
    const bool fitted = fits(p, start);
    WorkCounter work;
    const auto better = exchange(p, start, 100'000, work);
    if (!better) {
      CHECK_FALSE(fitted);
      continue;
    }
    CHECK(fits(p, *better));
    CHECK(work.units() > 0);
    if (fitted) CHECK(goal(p, *better) <= goal(p, start));
    mended += fitted ? 0 : 1;
    for (std::size_t j = 0; j < 6; ++j) {
      std::vector<double> one = *better;
      one[j] += 1.0;
      CHECK_FALSE((fits(p, one) && goal(p, one) < goal(p, *better)));
    }
  }
  CHECK(mended > 40);
}

TEST_CASE("a look around a point finds the best of its core", "[mip][exchange]") {
  Random random(405);
  int best_of_all = 0, found = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    const Problem p = packing(random, 7);  // smaller than the core
    std::vector<double> point, none(7, 0.0);
    for (Index j = 0; j < 7; ++j) point.push_back(0.25 * static_cast<double>(random.between(0, 4)));
    double all = HUGE_VAL;
    each_point(p, [&](const std::vector<double>& x) {
      if (fits(p, x)) all = std::min(all, goal(p, x));
    });
    WorkCounter work;
    BestPoint any, below_all({.best = all});
    best_in_core(p, point, none, any, work);
    if (!any.found()) continue;
    ++found;
    CHECK(fits(p, any.point()));
    CHECK(goal(p, any.point()) == any.below());
    CHECK(any.below() >= all);
    const auto better = exchange(p, any.point(), 100'000, work);  // as the search goes on from it
    REQUIRE(better);
    CHECK(goal(p, *better) <= any.below());
    best_of_all += goal(p, *better) == all ? 1 : 0;
    best_in_core(p, point, none, below_all, work);
    CHECK_FALSE(below_all.found());
  }
  CHECK(found > 200);
  CHECK(best_of_all > found / 2);
}

TEST_CASE("neither is tried where more than rows over whole columns counts", "[mip][exchange]") {
  Problem p;
  p.add_column(0.0, 1.0, true, -1.0);
  p.add_column(0.0, 1.0, false, -1.0);
  WorkCounter work;
  CHECK_FALSE(exchange(p, {0.0, 0.0}, 1000, work));
  BestPoint any;
  best_in_core(p, std::vector<double>{0.0, 0.0}, std::vector<double>{0.0, 0.0}, any, work);
  CHECK_FALSE(any.found());
}
