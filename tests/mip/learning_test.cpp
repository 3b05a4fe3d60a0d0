// Learned conflicts: no feasible point (with a cutoff: none that is better) has all their bounds,
// and what is concluded from them cuts no such point off.

#include <catch2/catch.hpp>

#include "mip/conflict/analysis.hpp"
#include "mip/propagators/propagation.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;
using mip::Change;

namespace {

// Points of the problem within the bounds, also those of conditions without a column.
template <class Visit>
void each_within(const mip::Problem& p, const std::vector<Change>& bounds, const Visit& visit) {
  mip::Problem q = p;
  for (const Change& c : bounds) {
    const Index column =
        c.what == Change::What::condition ? p.column_of_condition(c.index) : c.index;
    if (column < 0) {
      const mip::IndicatorRows* rows = mip::indicator_rows(p);
      for (Index k = 0; rows != nullptr && k < rows->num_rows(); ++k)
        if (rows->when(k).condition == c.index && rows->when(k).holds == (c.value == 1.0)) {
          const mip::RowView view = rows->row(k);
          mip::LinearRow row{{}, view.lower, view.upper, view.exact};
          for (std::size_t e = 0; e < view.index.size(); ++e)
            row.entries.push_back({view.index[e], view.value[e]});
          q.add_row(row);
        }
      continue;
    }
    const bool lower =
        c.what == Change::What::lower || (c.what == Change::What::condition && c.value == 1.0);
    if (lower)
      q.set_bounds(column, std::max(c.value, q.lower(column)), q.upper(column));
    else
      q.set_bounds(column, q.lower(column), std::min(c.value, q.upper(column)));
    if (q.lower(column) > q.upper(column)) return;
  }
  each_point(q, [&](std::span<const Rational> x) {
    if (satisfies(q, x)) visit(x);
  });
}

// Few choices in many short rows, some of them on a condition: most branches come to nothing.
mip::Problem draw_choices(Random& random) {
  mip::Problem p;
  constexpr int kColumns = 9, kRows = 13;
  for (int j = 0; j < kColumns; ++j)
    p.add_column(0.0, j < 2 ? 2.0 : 1.0, true, static_cast<double>(random.between(-6, 6)));
  p.set_goal_facts(true, 1.0);
  for (int i = 0; i < kRows; ++i) {
    mip::LinearRow row;
    std::vector<char> used(kColumns, 0);
    for (int k = 0; k < 4; ++k) {
      const auto j = static_cast<Index>(random.between(0, kColumns - 1));
      if (std::exchange(used[at(j)], 1)) continue;
      row.entries.push_back({j, random.chance(0.5) ? 1.0 : -1.0});
      if (random.chance(0.2)) row.entries.back().value *= 2.0;
    }
    row.lower = static_cast<double>(random.between(-2, 1));
    row.upper = random.chance(0.6) ? kInf : row.lower + 2.0;
    if (random.chance(0.8)) {
      p.add_row(row);
      continue;
    }
    const Index column = random.chance(0.5) ? static_cast<Index>(random.between(2, 8)) : -1;
    const bool taken = column >= 0 && p.condition_of_column(column) >= 0;
    const Index c = taken ? p.condition_of_column(column) : p.add_condition(column);
    mip::add_indicator_row(p, {{c, random.chance(0.5)}, row});
  }
  return p;
}

// A search by hand: branchings at random, each with propagation.
struct Walk {
  explicit Walk(const mip::Problem& problem)
      : p(problem), domain(p), propagation(domain), relaxation(p), pool(p, relaxation) {
    auto own = std::make_unique<mip::LearnedPropagator>(domain);
    learned = own.get();
    propagation.add(std::move(own));
    analysis.emplace(domain, pool, *learned);
  }
  void back_to_root() {
    marks.clear();
    decisions.clear();
    domain.undo_to(root);
  }
  bool branch(Random& random) {
    std::vector<Index> open;
    for (Index j = 0; j < p.num_columns(); ++j)
      if (!domain.fixed(j)) open.push_back(j);
    if (open.empty()) return false;
    const Index j = open[static_cast<std::size_t>(
        random.between(0, static_cast<std::int64_t>(open.size()) - 1))];
    const double value =
        domain.lower(j) + static_cast<double>(random.between(
                              0, static_cast<std::int64_t>(domain.upper(j) - domain.lower(j)) - 1));
    const Change c = random.chance(0.5) ? Change{Change::What::upper, j, value}
                                        : Change{Change::What::lower, j, value + 1.0};
    marks.push_back(domain.mark());
    decisions.push_back(c);
    return domain.apply(c);
  }

  mip::Problem p;
  mip::Domain domain;
  mip::Propagation propagation;
  mip::Relaxation relaxation;
  mip::RowPool pool;
  mip::LearnedPropagator* learned = nullptr;
  std::optional<mip::Analysis> analysis;
  WorkCounter work;
  std::size_t root = 0;
  std::vector<std::size_t> marks;
  std::vector<Change> decisions;
};

}  // namespace

TEST_CASE("what is learned from rows excludes no plan, nor does what follows from it",
          "[mip][learning][oracle]") {
  Random random(77);
  int conflicts = 0, shorter = 0, concluded = 0;
  for (int round = 0; round < 100; ++round) {
    CAPTURE(round);
    Walk w(draw_choices(random));
    if (!w.propagation.run(w.domain, w.work)) continue;
    w.root = w.domain.mark();
    for (int dive = 0; dive < 20; ++dive) {
      w.back_to_root();
      while (w.branch(random)) {
        const bool possible = w.propagation.run(w.domain, w.work);
        for (const auto& step : w.domain.trail())
          concluded += step.reason.by == mip::Reason::By::conflict;
        if (w.learned->find(0) != nullptr)
          each_within(w.p, w.decisions, [&](std::span<const Rational> x) {
            REQUIRE(possible);
            for (Index j = 0; j < w.p.num_columns(); ++j) {
              REQUIRE(x[at(j)] >= Rational(w.domain.lower(j)));
              REQUIRE(x[at(j)] <= Rational(w.domain.upper(j)));
            }
          });
        if (possible) continue;
        w.analysis->begin(w.root, w.marks, w.work);
        const auto conflict = w.analysis->of(w.propagation.conflict());
        if (!conflict || conflict->bounds.empty()) break;
        ++conflicts;
        shorter += conflict->bounds.size() < w.decisions.size();
        each_within(w.p, conflict->bounds, [](std::span<const Rational>) {
          FAIL("a point has all bounds of the conflict");
        });
        w.learned->add(*conflict);
        break;
      }
    }
  }
  CHECK(conflicts > 80);
  CHECK(shorter > 10);
  CHECK(concluded > 40);
}

TEST_CASE("what is learned from relaxations excludes no plan that is good enough",
          "[mip][learning][oracle]") {
  Random random(78);
  int infeasible = 0, exceeding = 0;
  for (int round = 0; round < 3'000; ++round) {
    CAPTURE(round);
    Walk w(draw_problem(random, {.columns = 7, .rows = 7}));
    const mip::Cutoff cutoff{static_cast<double>(random.between(-20, 20)), 1.0};
    if (!w.propagation.run(w.domain, w.work)) continue;
    w.root = w.domain.mark();
    for (int dive = 0; dive < 4; ++dive) {
      w.back_to_root();
      while (w.branch(random) && (dive % 2 == 0 || w.propagation.run(w.domain, w.work))) {
        w.relaxation.follow(w.domain);
        const lp::Report report = w.relaxation.solve({});
        const bool none = report.status == lp::Status::infeasible;
        if (!none && !cutoff.closes(w.relaxation.simplex().bound())) continue;
        w.analysis->begin(w.root, w.marks, w.work);
        const auto conflict =
            w.analysis->of(w.relaxation, none ? std::nullopt : std::optional(cutoff));
        if (!conflict) break;
        (none ? infeasible : exceeding) += 1;
        each_within(w.p, conflict->bounds, [&](std::span<const Rational> x) {
          INFO("a point has all bounds of the conflict");
          REQUIRE_FALSE(none);
          REQUIRE(goal_of(w.p, x) >= Rational(cutoff.best));
        });
        break;
      }
    }
  }
  CHECK(infeasible > 100);
  CHECK(exceeding > 100);
}

TEST_CASE("symmetries are no reason for a conflict", "[mip][learning]") {
  // x0 + x1 = 1; an orbit has put x1 at 0, and then x0 = 0 leaves nothing.
  mip::Problem p;
  for (int j = 0; j < 2; ++j) p.add_column(0.0, 1.0, true, 1.0);
  p.add_row({{{0, 1.0}, {1, 1.0}}, 1.0, 1.0});
  for (const bool by_orbit : {true, false}) {
    Walk w(p);
    w.marks.push_back(0);
    REQUIRE(w.domain.drop_upper(0, 0.0));
    w.domain.because({by_orbit ? mip::Reason::By::orbit : mip::Reason::By::decision});
    REQUIRE(w.domain.drop_upper(1, 0.0));
    w.domain.because({});
    REQUIRE_FALSE(w.propagation.run(w.domain, w.work));
    w.analysis->begin(0, w.marks, w.work);
    CHECK(w.analysis->of(w.propagation.conflict()).has_value() == !by_orbit);
  }
}

TEST_CASE("learned conflicts that are of no use go, the others stay", "[mip][learning]") {
  mip::Problem p;
  for (int j = 0; j < 60; ++j) p.add_column(0.0, 1.0, true, 0.0);
  mip::Domain domain(p);
  mip::LearnedPropagator learned(domain);
  WorkCounter work;
  const auto both = [&](Index a, Index b) {
    learned.add({{{Change::What::lower, a, 1.0}, {Change::What::lower, b, 1.0}}});
  };
  const auto use_the_first = [&] {
    REQUIRE(domain.raise_lower(0, 1.0));
    REQUIRE(learned.propagate(domain, {work, work.units() + 1'000}));
    CHECK(domain.upper(1) == 0.0);
    CHECK(domain.trail().back().reason == mip::Reason{mip::Reason::By::conflict, 0});
    domain.undo_to(0);
    learned.forget(domain);
  };
  both(0, 1);
  for (int k = 0; k < 3'000; ++k) {
    if (k % 300 == 0) use_the_first();
    both(2 + k % 58, 2 + (k + 1 + k / 58) % 58);
  }
  int left = 0;
  for (Index id = 1; id < 3'000; ++id) left += learned.find(id) != nullptr;
  CHECK(left < 1'100);
  REQUIRE(learned.find(0) != nullptr);
  REQUIRE(domain.raise_lower(1, 1.0));
  REQUIRE(learned.propagate(domain, {work, work.units() + 1'000}));
  CHECK(domain.upper(0) == 0.0);
}
