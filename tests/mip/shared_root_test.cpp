// One look at the root for several problems, against every point of each.
#include "mip/variants/shared_root.hpp"

#include <algorithm>
#include <cmath>

#include <catch2/catch.hpp>

#include "base/random.hpp"

using namespace kiteknot;
using namespace kiteknot::mip;

namespace {

constexpr int kColumns = 7;

struct Drawn {
  Problem problem;
  std::vector<LinearRow> rows;
};

// Rows of all senses over small whole columns; `packing`: as in budgets, so that limits bind.
Drawn draw(Random& random, bool packing) {
  Drawn d;
  for (int j = 0; j < kColumns; ++j) {
    const auto low = packing ? 0.0 : static_cast<double>(random.between(-2, 0));
    d.problem.add_column(
        low, low + static_cast<double>(random.between(1, 2)), true,
        static_cast<double>(packing ? -random.between(1, 20) : random.between(-9, 9)));
  }
  for (int r = 0; r < 4; ++r) {
    LinearRow row;
    for (Index j = 0; j < kColumns; ++j)
      if (random.chance(0.7))
        row.entries.push_back(
            {j, static_cast<double>(packing ? random.between(1, 9) : random.between(-5, 5))});
    std::erase_if(row.entries, [](const Entry& e) { return e.value == 0.0; });
    row.lower =
        packing || random.chance(0.5) ? -HUGE_VAL : static_cast<double>(random.between(-9, 0));
    row.upper =
        !packing && random.chance(0.3) ? HUGE_VAL : static_cast<double>(random.between(0, 20));
    if (!packing && random.chance(0.1)) row.lower = row.upper = 1.0;
    d.problem.add_row(row);
    d.rows.push_back(std::move(row));
  }
  d.problem.set_goal_facts(true, 1.0);
  return d;
}

// Changes as they come of a swept number, of rows left out, or any.
LimitChanges change(Random& random, const Drawn& d) {
  LimitChanges c;
  for (Index i = 0; i < 4; ++i) {
    if (!random.chance(0.4)) continue;
    const LinearRow& row = d.rows[static_cast<std::size_t>(i)];
    const double by = 0.5 * static_cast<double>(random.between(-12, 12));
    switch (random.between(0, 3)) {
      case 0:
        c.push_back({i, -HUGE_VAL, HUGE_VAL});
        break;
      case 1:
        c.push_back({i, row.lower, row.upper + by});
        break;
      case 2:
        c.push_back({i, row.lower + by, row.upper});
        break;
      default:
        c.push_back({i, -6.5 + by, 3.5 + by});
    }
  }
  return c;
}

bool fits(const Drawn& d, const LimitChanges& changes, const std::vector<double>& x) {
  for (Index i = 0; i < 4; ++i) {
    const LinearRow& row = d.rows[static_cast<std::size_t>(i)];
    double sum = 0.0, low = row.lower, high = row.upper;
    for (const Entry& e : row.entries) sum += e.value * x[static_cast<std::size_t>(e.index)];
    for (const RowLimits& c : changes)
      if (c.row == i) low = c.lower, high = c.upper;
    if (sum < low || sum > high) return false;
  }
  return true;
}

double goal(const Problem& p, const std::vector<double>& x) {
  double sum = 0.0;
  for (Index j = 0; j < p.num_columns(); ++j) sum += p.cost(j) * x[static_cast<std::size_t>(j)];
  return sum;
}

// The least goal under each of the changes, infinite where nothing fits.
std::vector<double> least(const Drawn& d, const std::vector<LimitChanges>& changes) {
  std::vector<double> best(changes.size(), HUGE_VAL), x;
  for (Index j = 0; j < kColumns; ++j) x.push_back(d.problem.lower(j));
  while (true) {
    for (std::size_t k = 0; k < changes.size(); ++k)
      if (fits(d, changes[k], x)) best[k] = std::min(best[k], goal(d.problem, x));
    Index j = 0;
    while (j < kColumns && x[static_cast<std::size_t>(j)] >= d.problem.upper(j)) {
      x[static_cast<std::size_t>(j)] = d.problem.lower(j);
      ++j;
    }
    if (j == kColumns) return best;
    x[static_cast<std::size_t>(j)] += 1.0;
  }
}

}  // namespace

TEST_CASE("problems that differ in limits get each its own best point", "[mip][variants]") {
  Random random(7100);
  int none = 0, some = 0, left = 0;
  for (int round = 0; round < 400; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random, round % 2 == 0);
    std::vector<LimitChanges> changes = {{}};
    const std::int64_t count = random.between(1, 12);
    for (std::int64_t k = 0; k < count; ++k) changes.push_back(change(random, d));
    const std::vector<double> truth = least(d, changes);
    const SharedResult found = settle_at_root(d.problem, changes, {});
    REQUIRE(found.answers.size() == changes.size());
    for (std::size_t k = 0; k < changes.size(); ++k) {
      CAPTURE(k);
      const SharedAnswer& a = found.answers[k];
      left += a.settled ? 0 : 1;
      if (!a.point.empty()) REQUIRE(fits(d, changes[k], a.point));
      if (!a.settled) continue;
      REQUIRE(a.point.empty() == std::isinf(truth[k]));
      if (!a.point.empty()) CHECK(goal(d.problem, a.point) == truth[k]);
      ++(a.point.empty() ? none : some);
    }
  }
  CHECK(none > 200);
  CHECK(some > 1000);
  // Those that the root leaves to a search of their own, of about 3,000.
  CHECK(left < 120);
}

TEST_CASE("more problems than fit one search", "[mip][variants]") {
  Random random(7101);
  const Drawn d = draw(random, true);
  std::vector<LimitChanges> changes;
  for (int k = 0; k < 150; ++k) changes.push_back({{1, -HUGE_VAL, -5.0 + 0.25 * k}});
  const std::vector<double> truth = least(d, changes);
  const SharedResult found = settle_at_root(d.problem, changes, {});
  for (std::size_t k = 0; k < changes.size(); ++k) {
    CAPTURE(k);
    REQUIRE(found.answers[k].settled);
    REQUIRE(found.answers[k].point.empty() == std::isinf(truth[k]));
    if (std::isfinite(truth[k])) CHECK(goal(d.problem, found.answers[k].point) == truth[k]);
  }
  CHECK(std::isinf(truth[0]));
  CHECK(std::isfinite(truth[149]));
}

TEST_CASE("a limit leaves problems open, and what is settled is right", "[mip][variants]") {
  Random random(7102);
  int open = 0, settled = 0;
  for (int round = 0; round < 200; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random, false);
    std::vector<LimitChanges> changes;
    for (int k = 0; k < 6; ++k) changes.push_back(change(random, d));
    const std::vector<double> truth = least(d, changes);
    SharedOptions options;
    options.budget.nodes = random.between(0, 3);
    const SharedResult found = settle_at_root(d.problem, changes, options);
    for (std::size_t k = 0; k < changes.size(); ++k) {
      const SharedAnswer& a = found.answers[k];
      ++(a.settled ? settled : open);
      if (!a.point.empty()) REQUIRE(fits(d, changes[k], a.point));
      if (a.settled) CHECK((a.point.empty() ? HUGE_VAL : goal(d.problem, a.point)) == truth[k]);
    }
  }
  CHECK(open > 100);
  CHECK(settled > 100);
}

TEST_CASE("only whole rows over whole columns with an end are shared", "[mip][variants]") {
  const auto problem = [](bool whole_column, double upper, double entry) {
    Problem p;
    p.add_column(0.0, upper, whole_column, -1.0);
    p.add_row({{{0, entry}}, -HUGE_VAL, 3.0, true});
    p.set_goal_facts(true, 1.0);
    return p;
  };
  CHECK(can_share(problem(true, 5.0, 2.0)));
  CHECK_FALSE(can_share(problem(false, 5.0, 2.0)));
  CHECK_FALSE(can_share(problem(true, HUGE_VAL, 2.0)));
  CHECK_FALSE(can_share(problem(true, 5.0, 0.5)));
  CHECK_FALSE(can_share(problem(true, 5.0, 0x1p51)));  // sums would not be exact
  const SharedResult none = settle_at_root(problem(false, 5.0, 2.0), {{}, {}}, {});
  CHECK_FALSE(none.answers[0].settled);
  CHECK(none.answers[1].point.empty());
}

TEST_CASE("given points serve where they fit", "[mip][variants]") {
  Problem p;
  for (int j = 0; j < 3; ++j) p.add_column(0.0, 1.0, true, -1.0 - j);
  p.add_row({{{0, 1.0}, {1, 1.0}, {2, 1.0}}, -HUGE_VAL, 1.0, true});
  p.set_goal_facts(true, 1.0);
  SharedOptions options;
  options.budget.nodes = 0;
  options.plans = {{1.0, 1.0, 0.0}, {0.5, 0.0, 0.0}, {0.0, 0.0, 2.0}};
  const SharedResult r =
      settle_at_root(p, {{}, {{0, -HUGE_VAL, 2.0}}, {{0, -HUGE_VAL, 9.0}}}, options);
  CHECK(r.answers[0].point.empty());
  CHECK(r.answers[1].point == std::vector<double>{1.0, 1.0, 0.0});
  CHECK(r.answers[2].point == std::vector<double>{1.0, 1.0, 0.0});
  for (const SharedAnswer& a : r.answers) CHECK_FALSE(a.settled);
}

namespace {

// The most worth for every weight and number of items, by dynamic programming over the items
// (Bellman 1957).
std::vector<double> most_worth(const std::vector<int>& weight, const std::vector<int>& worth,
                               int count, int room) {
  const auto at = [&](int c, int r) { return static_cast<std::size_t>(c * (room + 1) + r); };
  std::vector<double> best(at(count, room) + 1, 0.0);
  for (std::size_t k = 0; k < weight.size(); ++k)
    for (int c = count; c > 0; --c)
      for (int r = room; r >= weight[k]; --r)
        best[at(c, r)] = std::max(best[at(c, r)], best[at(c - 1, r - weight[k])] + worth[k]);
  return {best.end() - room - 1, best.end()};  // with at most `count` items
}

}  // namespace

TEST_CASE("roots of hard problems that are shared agree with dynamic programming",
          "[mip][variants]") {
  Random random(7103);
  int settled = 0;
  for (int round = 0; round < 12; ++round) {
    CAPTURE(round);
    constexpr int kItems = 44, kCount = 19;
    const int room = static_cast<int>(random.between(3900, 4700));
    std::vector<int> weight, worth;
    Problem p;
    LinearRow fits{{}, -HUGE_VAL, 0.0, true}, few{{}, -HUGE_VAL, kCount, true};
    for (Index j = 0; j < kItems; ++j) {
      weight.push_back(static_cast<int>(random.between(60, 400)));
      // Worth close to weight keeps all bounds close together.
      worth.push_back(weight.back() + 10 + static_cast<int>(random.between(0, 5 * (round % 3))));
      p.add_column(0.0, 1.0, true, -worth.back());
      fits.entries.push_back({j, static_cast<double>(weight.back())});
      few.entries.push_back({j, 1.0});
    }
    fits.upper = room;
    p.add_row(fits);
    p.add_row(few);
    p.set_goal_facts(true, 1.0);
    std::vector<LimitChanges> changes;
    for (int k = 0; k < 16; ++k) changes.push_back({{0, -HUGE_VAL, room - 2.0 * k}});
    const std::vector<double> truth = most_worth(weight, worth, kCount, room);
    const SharedResult found = settle_at_root(p, changes, {});
    for (int k = 0; k < 16; ++k) {
      const SharedAnswer& a = found.answers[static_cast<std::size_t>(k)];
      REQUIRE_FALSE(a.point.empty());
      CHECK(-goal(p, a.point) <= truth[static_cast<std::size_t>(room - 2 * k)]);
      if (!a.settled) continue;
      ++settled;
      CHECK(-goal(p, a.point) == truth[static_cast<std::size_t>(room - 2 * k)]);
    }
  }
  CHECK(settled > 100);
}

TEST_CASE("changes of very many rows are split over searches", "[mip][variants]") {
  Problem p;
  for (int j = 0; j < 2; ++j) p.add_column(0.0, 100.0, true, -1.0 - j);
  for (int i = 0; i < 500; ++i) p.add_row({{{0, 1.0}, {1, 1.0}}, -HUGE_VAL, 40.0 + i, true});
  p.set_goal_facts(true, 1.0);
  std::vector<LimitChanges> changes(60);
  for (int k = 0; k < 60; ++k)
    for (Index i = 0; i < 500; ++i)
      changes[static_cast<std::size_t>(k)].push_back({i, -HUGE_VAL, 10.0 + k + i});
  const SharedResult found = settle_at_root(p, changes, {});
  for (int k = 0; k < 60; ++k) {
    const SharedAnswer& a = found.answers[static_cast<std::size_t>(k)];
    REQUIRE(a.settled);
    CHECK(a.point == std::vector<double>{0.0, 10.0 + k});
  }
}
