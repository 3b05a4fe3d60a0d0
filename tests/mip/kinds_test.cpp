// The register of constraint kinds: a kind that exists in this file only, "all of these integers
// differ", goes through everything that a search does, against trying all points. And what each
// kind says of itself against what its points say.

#include <set>

#include <catch2/catch.hpp>

#include "mip/branching/disjunction.hpp"
#include "mip/conflict/explanation.hpp"
#include "mip/presolve/components.hpp"
#include "mip/presolve/presolve.hpp"
#include "mip/propagators/propagation.hpp"
#include "mip/relaxation/relaxed_kind.hpp"
#include "mip/separators/separator.hpp"
#include "mip/variants/shared_root.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;
using mip::Change;
using mip::Domain;

namespace {

class AllDifferent final : public mip::ConstraintKind {
 public:
  using Set = std::vector<Index>;  // integer columns
  std::vector<Set> sets;

  std::unique_ptr<ConstraintKind> clone() const override {
    return std::make_unique<AllDifferent>(*this);
  }
  std::string_view name() const override { return "all different"; }
  bool any(const mip::Problem&) const override { return !sets.empty(); }
  std::int64_t num_entries(const mip::Problem&) const override {
    std::int64_t count = 0;
    for (const Set& s : sets) count += static_cast<std::int64_t>(s.size());
    return count;
  }
  void visit(const mip::Problem&, const Visitor& visitor) const override {
    for (const Set& s : sets) visitor(s, {});
  }
  bool satisfied(const mip::Problem&, mip::ExactPoint& point) const override {
    for (const Set& s : sets) {
      std::set<Rational> seen;
      for (const Index j : s)
        if (!seen.insert(point.columns[at(j)]).second) return false;
    }
    return true;
  }
  std::unique_ptr<mip::Propagator> propagator(std::uint8_t kind, Domain& domain) const override;
  bool explains() const override { return true; }
  // Of two columns of the set one was fixed at the end of the other.
  bool explain(const mip::Problem&, Index place, const Change* concluded,
               mip::Explanation& why) const override {
    const Set& set = sets[at(place)];
    if (concluded == nullptr) {
      for (std::size_t a = 0; a < set.size(); ++a)
        for (std::size_t b = 0; b < a; ++b)
          if (why.bound(set[a], false) == why.bound(set[a], true) &&
              why.bound(set[b], false) == why.bound(set[b], true) &&
              why.bound(set[a], false) == why.bound(set[b], false))
            return fixed(set[a], why) && fixed(set[b], why);
      return false;
    }
    const bool upper = concluded->what == Change::What::upper;
    const double end = concluded->value + (upper ? 1.0 : -1.0);
    for (const Index other : set)
      if (other != concluded->index && why.bound(other, false) == end &&
          why.bound(other, true) == end)
        return fixed(other, why) && why.needs({concluded->what, concluded->index, end});
    return false;
  }
  std::unique_ptr<mip::RelaxedKind> relax(const mip::Problem&, mip::Relaxation&) const override {
    return nullptr;
  }
  std::unique_ptr<mip::Disjunction> disjunction() const override;
  std::unique_ptr<mip::Separator> separator() const override { return nullptr; }
  void carry(const mip::Problem&, const mip::Image& image, mip::Problem& to) const override {
    for (Set s : sets) {
      if (image.column[at(s.front())] < 0) continue;
      for (Index& j : s) j = image.column[at(j)];
      to.own<AllDifferent>().sets.push_back(std::move(s));
    }
  }

 private:
  static bool fixed(Index j, mip::Explanation& why) {
    return why.needs({Change::What::lower, j, why.bound(j, false)}) &&
           why.needs({Change::What::upper, j, why.bound(j, true)});
  }
};

// A column that is fixed takes its value off the ends of the others.
class DifferentPropagator final : public mip::Propagator {
 public:
  DifferentPropagator(const AllDifferent& all, std::uint8_t kind) : all_(all), kind_(kind) {}
  std::string_view name() const override { return all_.name(); }
  bool propagate(Domain& domain, const mip::Allowance& allowance) override {
    for (bool moved = true; moved && !allowance.spent();) {
      const std::size_t before = domain.mark();
      for (std::size_t s = 0; s < all_.sets.size(); ++s) {
        domain.because(mip::Reason::of(kind_, static_cast<Index>(s)));
        if (!look_at(all_.sets[s], domain)) return false;
      }
      allowance.work.add(10);
      moved = domain.mark() != before;
    }
    return true;
  }
  void forget(Domain&) override {}

 private:
  static bool look_at(const AllDifferent::Set& set, Domain& d) {
    for (const Index j : set) {
      if (!d.fixed(j)) continue;
      const double v = d.lower(j);
      for (const Index k : set) {
        if (k == j) continue;
        if (d.fixed(k) && d.lower(k) == v) return false;
        if (d.lower(k) == v && !d.raise_lower(k, v + 1.0)) return false;
        if (d.upper(k) == v && !d.drop_upper(k, v - 1.0)) return false;
      }
    }
    return true;
  }
  const AllDifferent& all_;
  std::uint8_t kind_;
};

// Two that are the same: one goes up, down, or stays and the other leaves.
class SameValues final : public mip::Disjunction {
 public:
  explicit SameValues(const AllDifferent& all) : all_(all) {}
  bool met(const Domain& domain, std::span<const double> point) const override {
    mip::Branching ignored;
    return !split(domain, point, ignored);
  }
  bool split(const Domain&, std::span<const double> point, mip::Branching& out) const override {
    for (const AllDifferent::Set& set : all_.sets)
      for (std::size_t a = 0; a < set.size(); ++a)
        for (std::size_t b = 0; b < a; ++b) {
          const double v = std::round(point[at(set[a])]);
          if (std::round(point[at(set[b])]) != v) continue;
          const Change low{Change::What::lower, set[a], v}, high{Change::What::upper, set[a], v};
          out.children = {{{Change::What::upper, set[a], v - 1.0}},
                          {{Change::What::lower, set[a], v + 1.0}},
                          {low, high, {Change::What::upper, set[b], v - 1.0}},
                          {low, high, {Change::What::lower, set[b], v + 1.0}}};
          return true;
        }
    return false;
  }

 private:
  const AllDifferent& all_;
};

std::unique_ptr<mip::Propagator> AllDifferent::propagator(std::uint8_t kind, Domain&) const {
  return std::make_unique<DifferentPropagator>(*this, kind);
}
std::unique_ptr<mip::Disjunction> AllDifferent::disjunction() const {
  return std::make_unique<SameValues>(*this);
}

// A random problem of the usual kinds, and sets of columns that differ.
mip::Problem draw_different(Random& random) {
  mip::Problem p = draw_problem(random, {});
  const auto n = static_cast<int>(p.num_columns());
  for (int k = static_cast<int>(random.between(1, 2)); k > 0; --k) {
    AllDifferent::Set set;
    for (int j = 0; j < n; ++j)
      if (random.chance(0.6)) set.push_back(static_cast<Index>(j));
    if (set.size() > 1) p.own<AllDifferent>().sets.push_back(std::move(set));
  }
  return p;
}

// Without asking the kind: the oracle is not to share its code.
std::vector<std::pair<Rational, std::vector<Rational>>> plans_by_trying(const mip::Problem& p) {
  mip::Problem rest;  // the usual kinds alone
  for (Index j = 0; j < p.num_columns(); ++j)
    rest.add_column(p.lower(j), p.upper(j), p.integer(j), p.cost(j));
  mip::Image image;
  for (Index j = 0; j < p.num_columns(); ++j) image.column.push_back(j);
  for (Index c = 0; c < p.num_conditions(); ++c)
    image.condition.push_back(rest.add_condition(p.column_of_condition(c)));
  const AllDifferent* different = nullptr;
  for (const auto& kind : p.kinds().all())
    if (const auto* mine = dynamic_cast<const AllDifferent*>(kind.get()))
      different = mine;
    else
      kind->carry(p, image, rest);
  std::vector<std::pair<Rational, std::vector<Rational>>> plans;
  each_point(rest, [&](std::span<const Rational> x) {
    if (!holds_by_trying(rest, x)) return;
    if (different != nullptr)
      for (const AllDifferent::Set& set : different->sets)
        for (std::size_t a = 0; a < set.size(); ++a)
          for (std::size_t b = 0; b < a; ++b)
            if (x[at(set[a])] == x[at(set[b])]) return;
    plans.emplace_back(goal_of(p, x), std::vector<Rational>(x.begin(), x.end()));
  });
  std::sort(plans.begin(), plans.end());
  return plans;
}

void check_best(const mip::Problem& p, const mip::SearchOptions& options,
                const std::optional<Rational>& best) {
  const mip::SearchResult found = mip::Search(p, judge_of(p), options).run();
  if (!best) {
    CHECK(found.outcome == Outcome::infeasible);
  } else {
    REQUIRE(found.outcome == Outcome::optimal);
    CHECK(found.goal == *best);
  }
}

}  // namespace

TEST_CASE("a kind that only this file knows is searched, in all strengths of presolve",
          "[mip][kinds]") {
  Random random(41);
  int some = 0, none = 0, with_kind = 0;
  for (int round = 0; round < 5000; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_different(random);
    const auto plans = plans_by_trying(p);
    ++(plans.empty() ? none : some);
    with_kind += p.kinds().find<AllDifferent>() != nullptr;
    std::optional<Rational> best;
    if (!plans.empty()) best = plans.front().first;
    mip::SearchOptions o;
    o.presolving.keeps =
        std::array{mip::ReductionStrength::a_best_plan, mip::ReductionStrength::all_best_plans,
                   mip::ReductionStrength::all_plans}[static_cast<std::size_t>(round) % 3];
    o.presolving.brief_look = round % 2 == 0;
    if (round % 5 == 0) o.presolving.on = false;
    if (round % 7 == 0)
      o.finding.construction = o.finding.dives = o.finding.pump = o.finding.rounding =
          o.finding.core = o.finding.near_plan = false;
    check_best(p, o, best);
  }
  CHECK(some > 1000);
  CHECK(none > 300);
  CHECK(with_kind > 3000);
}

TEST_CASE("presolve leaves the plans that it is asked to keep, whatever the kinds",
          "[mip][kinds]") {
  Random random(42);
  int reduced_some = 0;
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_different(random);
    const auto plans = plans_by_trying(p);
    const mip::ReductionStrength keeps =
        std::array{mip::ReductionStrength::a_best_plan, mip::ReductionStrength::all_best_plans,
                   mip::ReductionStrength::all_plans}[static_cast<std::size_t>(round) % 3];
    WorkCounter work;
    const auto reduced = mip::presolve(p, keeps, true, work, "");
    if (!reduced) continue;
    if (!reduced->possible) {
      CHECK(plans.empty());
      continue;
    }
    const mip::Problem& left = reduced->left.problem;
    reduced_some += left.num_columns() < p.num_columns();
    std::set<std::vector<Rational>> kept;
    each_point(left, [&](std::span<const Rational> x) {
      if (!satisfies(left, x)) return;
      const std::vector<Rational> full = reduced->left.postsolve.restore(x);
      CHECK(satisfies(p, full));
      CHECK(goal_of(p, full) == goal_of(left, x) + reduced->left.constant);
      kept.insert(full);
    });
    std::size_t best = 0;
    while (best < plans.size() && plans[best].first == plans.front().first) ++best;
    const std::size_t all = keeps == mip::ReductionStrength::all_plans        ? plans.size()
                            : keeps == mip::ReductionStrength::all_best_plans ? best
                                                                              : 0;
    for (std::size_t k = 0; k < all; ++k) CHECK(kept.contains(plans[k].second));
    if (!plans.empty())
      CHECK(std::any_of(plans.begin(), plans.begin() + static_cast<std::ptrdiff_t>(best),
                        [&](const auto& plan) { return kept.contains(plan.second); }));
  }
  CHECK(reduced_some > 100);
}

TEST_CASE("components, symmetries and sweeps ask the kinds", "[mip][kinds]") {
  Random random(43);
  for (int round = 0; round < 600; ++round) {
    CAPTURE(round);
    mip::Problem p = draw_different(random);
    const auto first = plans_by_trying(p);
    const mip::Problem q = draw_different(random);
    const auto second = plans_by_trying(q);
    add_beside(p, q);
    std::optional<Rational> best;
    if (!first.empty() && !second.empty()) best = first.front().first + second.front().first;
    mip::SearchOptions o;
    o.presolving.brief_look = false;
    check_best(p, o, best);
    // Columns that have to differ are of one part.
    for (const auto& part : mip::components(p)) {
      const std::set<Index> here(part.begin(), part.end());
      for (const auto& kind : p.kinds().all())
        kind->visit(p, [&](std::span<const Index> columns, std::span<const Index>) {
          if (columns.empty()) return;
          const bool in = here.contains(columns.front());
          CHECK(std::all_of(columns.begin(), columns.end(),
                            [&](Index j) { return here.contains(j) == in; }));
        });
    }
    if (const auto* mine = p.kinds().find<AllDifferent>(); mine != nullptr) {
      WorkCounter work;
      CHECK_FALSE(mip::can_share(p));
      CHECK(mip::find_symmetry(p, 1'000'000, work).empty());
      CHECK_FALSE(p.linear());
    }
  }
  // Two columns that linear rows take for the same, and the kind does not.
  mip::Problem p;
  for (int j = 0; j < 4; ++j) p.add_column(0.0, 3.0, true, 1.0);
  p.set_goal_facts(true, 1.0);
  p.add_row({{{0, 1.0}, {1, 1.0}, {2, 1.0}, {3, 1.0}}, 1.0, kInf, true});
  p.own<AllDifferent>().sets.push_back({0, 1, 2, 3});
  check_best(p, {}, Rational(6));
}

TEST_CASE("the best few plans of a problem with a kind of its own", "[mip][kinds]") {
  Random random(44);
  int several = 0;
  for (int round = 0; round < 800; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_different(random);
    const auto plans = plans_by_trying(p);
    mip::FewWanted few{4, {}};
    for (Index j = 0; j < p.num_columns(); ++j) few.key.push_back(j);
    const mip::SearchResult found =
        mip::Search(p, judge_of(p), mip::for_few({}, std::move(few))).run();
    if (plans.empty()) {
      CHECK(found.outcome == Outcome::infeasible);
      continue;
    }
    REQUIRE(found.few.plans.size() == std::min<std::size_t>(4, plans.size()));
    several += found.few.plans.size() == 4;
    for (std::size_t k = 0; k < found.few.plans.size(); ++k)
      CHECK(found.few.plans[k].goal == plans[k].first);
  }
  CHECK(several > 100);
}

TEST_CASE("what a kind concludes it can explain, and what it says of locks holds", "[mip][kinds]") {
  Random random(45);
  int moves = 0;
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_different(random);
    const auto plans = plans_by_trying(p);
    // From a plan, a column that nothing locks may move that way, as far as its bounds.
    mip::Locks locks{std::vector<Index>(at(p.num_columns()), 0),
                     std::vector<Index>(at(p.num_columns()), 0)};
    for (const auto& kind : p.kinds().all()) kind->lock(p, locks);
    for (std::size_t k = 0; k < plans.size() && k < 5; ++k)
      for (Index j = 0; j < p.num_columns(); ++j)
        for (const bool up : {true, false}) {
          if ((up ? locks.up : locks.down)[at(j)] > 0) continue;
          std::vector<Rational> moved = plans[k].second;
          moved[at(j)] = Rational(up ? p.upper(j) : p.lower(j));
          CHECK(satisfies(p, moved));
          ++moves;
        }
  }
  CHECK(moves > 100);
}

TEST_CASE("dual fixing goes by the locks of all kinds", "[mip][kinds]") {
  // A literal that costs and that nothing needs fails; the row that waited for it goes.
  mip::Problem p;
  const Index z = p.add_column(0.0, 1.0, true, 1.0), x = p.add_column(0.0, 5.0, true, -1.0);
  p.set_goal_facts(true, 1.0);
  const Index c = p.add_condition(z);
  mip::add_indicator_row(p, {{c, true}, {{{x, 1.0}}, -kInf, 2.0, true}});
  WorkCounter work;
  const auto all = mip::presolve(p, mip::ReductionStrength::all_best_plans, false, work, "");
  REQUIRE((all && all->possible));
  const Index there = all->left.place[at(z)];
  REQUIRE(there >= 0);
  CHECK(all->left.problem.upper(there) == 0.0);
  CHECK(mip::num_indicator_rows(all->left.problem) == 0);
  // Nor one in an indicator row whose entry doubles take for 0 and the model does not.
  mip::Problem tiny;
  tiny.add_column(0.0, 1.0, true, 0.0);
  tiny.add_column(0.0, 1.0, true, -1.0);
  tiny.set_goal_facts(true, 1.0);
  lp::Exact known{-kInf, 0.0, Rational::minus_infinity(), Rational(0), {}};
  known.values = {*Rational::parse("1e-399")};
  const Index on = tiny.add_condition(0);
  mip::add_indicator_row(tiny, {{on, true}, {{{1, 0.0}}, -kInf, 0.0, true, known}});
  mip::Locks locks{{0, 0}, {0, 0}};
  for (const auto& kind : tiny.kinds().all()) kind->lock(tiny, locks);
  CHECK(locks.up[1] > 0);
  // One that must hold for the row to be off stays open: the row would bind.
  mip::Problem q;
  q.add_column(0.0, 1.0, true, 1.0);
  q.add_column(0.0, 5.0, true, -1.0);
  q.set_goal_facts(true, 1.0);
  const Index off = q.add_condition(0);
  mip::add_indicator_row(q, {{off, false}, {{{1, 1.0}}, -kInf, 2.0, true}});
  const auto open = mip::presolve(q, mip::ReductionStrength::all_best_plans, false, work, "");
  if (open) CHECK(open->left.problem.upper(open->left.place[0]) == 1.0);
  check_best(q, {}, Rational(-4));
}
