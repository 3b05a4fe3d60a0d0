// Cuts: every row that a family finds holds, in fractions, at every point that meets the problem's
// rows, and breaks the relaxed point it was made for.
#include <catch2/catch.hpp>

#include "mip/problem/violation.hpp"
#include "mip/propagators/probing.hpp"
#include "mip/separators/cliques.hpp"
#include "mip/separators/cut_manager.hpp"
#include "mip/separators/implied_bounds.hpp"
#include "mip/separators/lifted_covers.hpp"
#include "mip/separators/path_aggregation.hpp"
#include "mip/separators/tableau_rows.hpp"
#include "mip/separators/zero_half.hpp"
#include "support/brute_force.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

namespace {

// Whole columns and at most one real one, the last; rows in the model's own numbers.
struct Mixed {
  mip::Problem problem;
  std::vector<std::vector<Rational>> rows;  // by columns
  std::vector<Rational> lower, upper;       // of rows
  bool real = false;
};

Mixed draw_mixed(Random& random) {
  Mixed m;
  const bool choices = random.chance(0.4);  // binary columns that exclude each other
  const auto whole = choices ? random.between(3, 7) : random.between(2, 5);
  for (std::int64_t j = 0; j < whole; ++j) {
    const auto low =
        !choices && random.chance(0.3) ? static_cast<double>(random.between(-2, 1)) : 0.0;
    m.problem.add_column(low, low + static_cast<double>(choices ? 1 : random.between(1, 3)), true,
                         static_cast<double>(random.between(-20, 20)));
  }
  m.real = random.chance(choices ? 0.2 : 0.6);
  if (m.real)
    m.problem.add_column(0.0, static_cast<double>(random.between(1, 40)) / 4.0, false,
                         static_cast<double>(random.between(-20, 20)));
  const Index n = m.problem.num_columns();
  const bool tenths = random.chance(0.3);  // no doubles: rows say what they stand for
  for (std::int64_t i = choices ? random.between(3, 9) : random.between(1, 4); i > 0; --i) {
    mip::LinearRow row;
    std::vector<Rational> known;
    m.rows.emplace_back(at(n), Rational(0));
    const bool two = random.chance(0.3);  // a column and its limit
    for (Index j = 0; j < n; ++j) {
      if (two ? j != 0 && j != n - 1 : random.chance(choices ? 0.6 : 0.3)) continue;
      const std::int64_t value =
          choices ? (random.chance(0.8) ? 1 : random.between(-2, 3)) : random.between(-15, 15);
      if (value == 0) continue;
      const Rational exactly = tenths ? Rational(value) / Rational(10) : Rational(value);
      row.entries.push_back({j, exactly.to_double()});
      known.push_back(exactly);
      m.rows.back()[at(j)] = exactly;
    }
    const std::int64_t limit = choices ? random.between(0, 2) : random.between(-10, 25);
    const auto side = random.between(0, 3);
    const auto exactly = [&](std::int64_t v) {
      return tenths ? Rational(v) / Rational(10) : Rational(v);
    };
    m.lower.push_back(side == 0   ? exactly(limit - random.between(0, 9))
                      : side == 1 ? exactly(-limit)
                      : side == 2 ? exactly(limit)
                                  : Rational::minus_infinity());
    m.upper.push_back(side == 1 ? Rational::infinity() : exactly(limit));
    row.lower = m.lower.back().to_double();  // rounded outward, as limits are
    row.upper = m.upper.back().to_double();
    if (tenths) {
      row.lower = std::isfinite(row.lower) ? step_down(row.lower) : row.lower;
      row.upper = std::isfinite(row.upper) ? step_up(row.upper) : row.upper;
      row.exact = false;
      row.known = lp::Exact{row.lower, row.upper, m.lower.back(), m.upper.back(), known};
    }
    m.problem.add_row(row);
  }
  return m;
}

// All whole points, each with both ends of what the rows leave of the real column.
std::vector<std::vector<Rational>> points_of(const Mixed& m) {
  std::vector<std::vector<Rational>> points;
  mip::Problem box = m.problem;
  const Index n = box.num_columns();
  if (m.real) box.set_bounds(n - 1, 0.0, 0.0);
  each_point(box, [&](std::span<const Rational> at_zero) {
    std::vector<Rational> x(at_zero.begin(), at_zero.end());
    Rational low = 0, high = m.real ? Rational::exactly(m.problem.upper(n - 1)) : Rational(0);
    for (std::size_t i = 0; i < m.rows.size(); ++i) {
      Rational sum = 0;
      for (Index j = 0; j < n - (m.real ? 1 : 0); ++j) sum += m.rows[i][at(j)] * x[at(j)];
      const Rational a = m.real ? m.rows[i][at(n - 1)] : Rational(0);
      if (a.is_zero()) {
        if (sum < m.lower[i] || sum > m.upper[i]) return;
        continue;
      }
      const Rational& least = a.sign() > 0 ? m.lower[i] : m.upper[i];
      const Rational& most = a.sign() > 0 ? m.upper[i] : m.lower[i];
      if (least.is_finite()) low = std::max(low, (least - sum) / a);
      if (most.is_finite()) high = std::min(high, (most - sum) / a);
    }
    if (low > high) return;
    for (const Rational& end : {low, high}) {
      if (m.real) x[at(n - 1)] = end;
      points.push_back(x);
    }
  });
  return points;
}

bool holds(const mip::LinearRow& row, std::span<const Rational> x) {
  Rational sum = 0;
  for (const lp::Entry& e : row.entries) sum += Rational::exactly(e.value) * x[at(e.index)];
  return (!std::isfinite(row.lower) || sum >= Rational::exactly(row.lower)) &&
         (!std::isfinite(row.upper) || sum <= Rational::exactly(row.upper));
}

std::vector<std::unique_ptr<mip::Separator>> families() {
  std::vector<std::unique_ptr<mip::Separator>> all;
  all.push_back(std::make_unique<mip::TableauRows>());
  all.push_back(std::make_unique<mip::PathAggregation>());
  all.push_back(std::make_unique<mip::ZeroHalfCuts>());
  all.push_back(std::make_unique<mip::CliqueCuts>());
  all.push_back(std::make_unique<mip::LiftedCovers>());
  all.push_back(std::make_unique<mip::ImpliedBounds>());
  return all;
}

// A relaxation with what a separator is shown of it.
struct Scene {
  explicit Scene(const mip::Problem& p)
      : domain(p), propagation(domain), relaxation(p), pool(p, relaxation) {}
  bool probe() {
    return propagation.run(domain, work) &&
           mip::probe(domain, propagation, 1'000'000, work, implied);
  }
  bool solve() {
    relaxation.follow(domain);
    if (relaxation.solve({}).status != lp::Status::optimal) return false;
    point.assign(relaxation.point().begin(), relaxation.point().end());
    return true;
  }
  mip::SeparationContext shown() { return {domain, point, relaxation, work, implied, false}; }
  mip::Domain domain;
  mip::Propagation propagation;
  mip::Relaxation relaxation;
  mip::RowPool pool;
  WorkCounter work;
  mip::Implications implied;
  std::vector<double> point;
};

}  // namespace

TEST_CASE("no cut leaves out a point that meets the rows", "[mip][cuts][oracle]") {
  Random random(71);
  const std::size_t kinds = families().size();
  std::vector<int> found_by(kinds, 0), with_real(kinds, 0), of_tenths(kinds, 0);
  for (int round = 0; round < 6000; ++round) {
    CAPTURE(round);
    const Mixed m = draw_mixed(random);
    const auto points = points_of(m);
    for (std::size_t f = 0; f < kinds; ++f) {
      Scene scene(m.problem);
      const bool implied =
          f + 1 == kinds;  // which probing finds, and little is left to others then
      if ((implied || round % 8 == 0) && !scene.probe()) {
        REQUIRE(points.empty());
        continue;
      }
      const auto family = std::move(families()[f]);
      for (int turn = 0; turn < 6 && scene.solve(); ++turn) {
        std::vector<mip::LinearRow> rows;
        family->look(scene.shown(), rows);
        for (const mip::LinearRow& row : rows) {
          ++found_by[f];
          with_real[f] += m.real ? 1 : 0;
          of_tenths[f] += m.problem.row_exact(0) ? 0 : 1;
          for (const auto& x : points) REQUIRE(holds(row, x));
          const Index name = scene.pool.add(row, -1, true);
          CHECK(row_violation(scene.pool.view(name), scene.point) > 0.0);
          scene.pool.bring_in(name, scene.relaxation);
        }
        if (rows.empty()) break;
      }
    }
  }
  for (std::size_t f = 0; f < kinds; ++f) {
    CAPTURE(f);
    CHECK(found_by[f] > 40);
    if (f >= 2) continue;  // the others are for whole figures, or rare
    CHECK(found_by[f] > 2000);
    CHECK(with_real[f] > 500);
    CHECK(of_tenths[f] > 100);
  }
}

TEST_CASE("lifted covers hold at every point of their row, whichever way it is written",
          "[mip][cuts][oracle]") {
  Random random(72);
  int found = 0, lifted = 0;
  for (int round = 0; round < 700; ++round) {
    CAPTURE(round);
    const Index n = 9;
    mip::Problem p;
    std::vector<double> sign;
    mip::LinearRow row;
    double sum = 0.0, low = 0.0;
    for (Index j = 0; j < n; ++j) {
      p.add_column(0.0, 1.0, true, 0.0);
      const auto weight = static_cast<double>(random.between(3, 40));
      sign.push_back(random.chance(0.3) ? -1.0 : 1.0);
      p.set_cost(j, -sign.back() * (weight + static_cast<double>(random.between(0, 20))));
      row.entries.push_back({j, sign.back() * weight});
      sum += weight;
      if (sign.back() < 0.0) low -= weight;
    }
    const double limit = low + std::floor(sum * (0.3 + 0.5 * random.fraction()));
    const bool turned = random.chance(0.5);
    if (turned)
      for (lp::Entry& e : row.entries) e.value = -e.value;
    row.lower = turned ? -limit : -kInf;
    row.upper = turned ? kInf : limit;
    p.add_row(row);
    Scene scene(p);
    mip::LiftedCovers covers;
    for (int turn = 0; turn < 5 && scene.solve(); ++turn) {
      std::vector<mip::LinearRow> rows;
      covers.look(scene.shown(), rows);
      if (rows.empty()) break;
      for (const mip::LinearRow& cut : rows) {
        ++found;
        for (const lp::Entry& e : cut.entries) lifted += std::abs(e.value) > 1.0 ? 1 : 0;
        each_point(p, [&](std::span<const Rational> x) {
          if (satisfies(p, x)) REQUIRE(holds(cut, x));
        });
        scene.pool.bring_in(scene.pool.add(cut, -1, true), scene.relaxation);
      }
    }
  }
  CHECK(found > 500);
  CHECK(lifted > 20);
}

TEST_CASE("a row over whole columns is rounded without a loss", "[mip][cuts]") {
  // x + y + z <= 1 from the three pairs: half of their sum, rounded.
  mip::Problem p;
  for (int j = 0; j < 3; ++j) p.add_column(0.0, 1.0, true, -1.0);
  p.add_row({{{0, 1.0}, {1, 1.0}}, -kInf, 1.0, true});
  p.add_row({{{1, 1.0}, {2, 1.0}}, -kInf, 1.0, true});
  p.add_row({{{0, 1.0}, {2, 1.0}}, -kInf, 1.0, true});
  Scene scene(p);
  REQUIRE(scene.solve());
  mip::RowCombination sum;
  sum.reset(3, 3);
  for (Index i = 0; i < 3; ++i) sum.add(scene.relaxation.simplex().program(), i, 0.5);
  const mip::SumVariables variables(scene.relaxation);
  CHECK(sum.make_whole(variables) == 2.0);
  mip::RoundingPlan plan{2.0, false, {}};
  for (Index i = 0; i < 3; ++i) plan.from_upper.push_back(3 + i);
  mip::SafeRounding rounding;
  const auto cut = rounding.round(variables, sum, plan, 0.0);
  REQUIRE(cut);
  REQUIRE(cut->row.entries.size() == 3);
  const double a = cut->row.entries[0].value;
  for (const lp::Entry& e : cut->row.entries) CHECK(e.value == a);
  CHECK(cut->row.upper == a);
  CHECK(cut->efficacy > 0.28);  // (3/2 - 1) / sqrt 3
}

TEST_CASE("a flow through a link is rounded to the link", "[mip][cuts]") {
  // flow1 + flow2 >= 5 with flow1 <= 8 link1 and flow2 <= 8 link2: one link at least is open, and
  // if only one is, it carries all.
  mip::Problem p;
  for (int k = 0; k < 2; ++k) p.add_column(0.0, 8.0, false, 1.0);
  for (int k = 0; k < 2; ++k) p.add_column(0.0, 1.0, true, 40.0 + k);
  p.add_row({{{0, 1.0}, {1, 1.0}}, 5.0, kInf, true});
  p.add_row({{{0, 1.0}, {2, -8.0}}, -kInf, 0.0, true});
  p.add_row({{{1, 1.0}, {3, -8.0}}, -kInf, 0.0, true});
  Scene scene(p);
  REQUIRE(scene.solve());
  CHECK(scene.relaxation.simplex().solve({}).objective == Approx(30.0));
  mip::PathAggregation paths;
  std::vector<mip::LinearRow> rows;
  paths.look(scene.shown(), rows);
  REQUIRE_FALSE(rows.empty());
  for (const mip::LinearRow& row : rows)
    scene.pool.bring_in(scene.pool.add(row, -1, true), scene.relaxation);
  REQUIRE(scene.solve());
  CHECK(scene.relaxation.simplex().solve({}).objective == Approx(45.0));
}

TEST_CASE("cuts shorten the search, each family can be left out, and all of them", "[mip][cuts]") {
  const mip::Problem p = lots(3, 8, 5);
  const auto search = [&](const mip::CutSwitches& cuts) {
    mip::SearchOptions options;
    options.cuts = cuts;
    options.budget.nodes = 100'000;
    return mip::Search(p, judge_of(p), options).run();
  };
  const mip::SearchResult without = search(mip::CutSwitches::none()), all = search({});
  CHECK(without.counts.cuts == 0);
  CHECK(all.counts.cuts > 0);
  REQUIRE(all.outcome == Outcome::optimal);
  CHECK(10 * all.counts.nodes < without.counts.nodes);
  if (without.outcome == Outcome::optimal) CHECK(without.goal == all.goal);
  for (const bool tableau : {false, true}) {
    mip::CutSwitches one = mip::CutSwitches::none();
    (tableau ? one.tableau : one.paths) = true;
    const mip::SearchResult r = search(one);
    CHECK(r.counts.cuts > 0);
    CHECK(r.counts.nodes < without.counts.nodes);
    for (const mip::PartTally& part : r.parts)
      if (part.kind == "cuts") CHECK((part.name == "rows of the basis, rounded") == tableau);
    if (r.outcome == Outcome::optimal) CHECK(r.goal == all.goal);
  }
}

TEST_CASE("cuts near the root hold below their branching only", "[mip][cuts]") {
  std::int64_t nodes[2] = {0, 0}, rows = 0;
  for (std::uint64_t seed = 1; seed <= 6; ++seed) {
    const mip::Problem p = network(18, 3, seed);
    Rational goals[2];
    for (const bool below : {false, true}) {
      mip::SearchOptions options;
      options.cuts.below = below;
      options.budget.seed = seed;
      const mip::SearchResult r = mip::Search(p, judge_of(p), options).run();
      REQUIRE(r.outcome == Outcome::optimal);
      goals[below ? 1 : 0] = r.goal;
      nodes[below ? 1 : 0] += r.counts.nodes;
      for (const mip::PartTally& part : r.parts)
        if (part.kind == "cuts below the root") rows += part.tally.steps;
    }
    CHECK(goals[0] == goals[1]);
  }
  CHECK(rows > 0);
  CHECK(2 * nodes[1] < nodes[0]);
}

TEST_CASE("pairs that exclude each other make one clique, and an odd ring half a sum",
          "[mip][cuts]") {
  // A complete graph of six: at most one, though rows speak of pairs only; a ring of seven: three.
  for (const bool ring : {false, true}) {
    const Index n = ring ? 7 : 6;
    mip::Problem p;
    for (Index j = 0; j < n; ++j) p.add_column(0.0, 1.0, true, -1.0);
    for (Index a = 0; a < n; ++a)
      for (Index b = a + 1; b < n; ++b)
        if (!ring || b == a + 1 || (a == 0 && b == n - 1))
          p.add_row({{{a, 1.0}, {b, 1.0}}, -kInf, 1.0, true});
    p.set_goal_facts(true, 1.0);
    Scene scene(p);
    REQUIRE(scene.solve());
    std::unique_ptr<mip::Separator> family;
    if (ring)
      family = std::make_unique<mip::ZeroHalfCuts>();
    else
      family = std::make_unique<mip::CliqueCuts>();
    std::vector<mip::LinearRow> rows;
    family->look(scene.shown(), rows);
    REQUIRE_FALSE(rows.empty());
    for (const mip::LinearRow& row : rows)
      scene.pool.bring_in(scene.pool.add(row, -1, true), scene.relaxation);
    REQUIRE(scene.solve());
    CHECK(scene.relaxation.simplex().solve({}).objective == Approx(ring ? -3.0 : -1.0));
  }
}
