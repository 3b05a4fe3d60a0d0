// Presolve: every reduction alone and all together, in all three strengths, against every point of
// small problems, in fractions.
#include "mip/presolve/presolve.hpp"

#include <map>
#include <set>

#include <catch2/catch.hpp>

#include "mip/kinds/generated_rows.hpp"
#include "mip/kinds/indicator_rows.hpp"
#include "mip/presolve/components.hpp"
#include "mip/presolve/reduced_generator.hpp"
#include "support/random_mips.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;
using mip::ReductionStrength;

namespace {

using Point = std::vector<Rational>;

std::set<Point> plans_of(const mip::Problem& p) {
  std::set<Point> plans;
  each_point(p, [&](std::span<const Rational> x) {
    if (satisfies(p, x)) plans.emplace(x.begin(), x.end());
  });
  return plans;
}

std::set<Point> best_of(const mip::Problem& p, const std::set<Point>& plans) {
  std::optional<Rational> best;
  for (const Point& x : plans) best = best ? std::min(*best, goal_of(p, x)) : goal_of(p, x);
  std::set<Point> found;
  for (const Point& x : plans)
    if (goal_of(p, x) == *best) found.insert(x);
  return found;
}

// Everything that a reduction promises of a problem over whole columns; how much it changed.
std::int64_t check_promises(const mip::Problem& p, ReductionStrength keeps, std::string_view only) {
  WorkCounter work;
  const auto reduced = mip::presolve(p, keeps, true, work, only);
  REQUIRE(reduced);
  const std::set<Point> plans = plans_of(p);
  if (!reduced->possible) {
    CHECK(plans.empty());
    return 1;
  }
  const mip::PresolveModel::Reduced& left = reduced->left;
  const std::set<Point> there = plans_of(left.problem);
  std::set<Point> back;
  for (const Point& y : there) {
    const Point x = left.postsolve.restore(std::span<const Rational>(y));
    CHECK(satisfies(p, x));
    CHECK(goal_of(p, x) == goal_of(left.problem, y) + left.constant);
    const auto again = left.postsolve.reduce(x);
    REQUIRE(again);
    CHECK(*again == y);
    back.insert(x);
  }
  CHECK(plans.empty() == there.empty());
  if (!plans.empty()) {
    const std::set<Point> best = best_of(p, plans), best_back = best_of(p, back);
    CHECK(goal_of(p, *best.begin()) == goal_of(p, *best_back.begin()));
    if (keeps == ReductionStrength::all_best_plans) CHECK(best == best_back);
    if (keeps == ReductionStrength::all_plans) CHECK(plans == back);
    const double step = left.problem.goal_step();
    for (const Point& y : there)
      if (step > 0.0) CHECK((goal_of(left.problem, y) / Rational(step)).is_integer());
  }
  for (const mip::Implication& i : reduced->implied)
    for (const Point& y : there) {
      const bool when = y[at(mip::column_of(i.when))] == Rational(mip::is_no(i.when) ? 0 : 1);
      if (!when) continue;
      CHECK(
          (i.upper ? y[at(i.column)] <= Rational(i.bound) : y[at(i.column)] >= Rational(i.bound)));
    }
  return reduced->changes;
}

}  // namespace

TEST_CASE("every reduction keeps what it says, in every strength", "[mip][presolve][oracle]") {
  Random random(1301);
  std::vector<std::string_view> names = mip::names_of_reductions();
  names.emplace_back();  // all of them
  std::map<std::string_view, std::int64_t> changed;
  for (int round = 0; round < 250; ++round) {
    CAPTURE(round);
    const mip::Problem p = round % 8 == 1   ? tiny::big_figures(random).problem
                           : round % 4 == 0 ? draw_problem(random, {.columns = 5, .rows = 4})
                                            : draw_reducible(random, false);
    for (const ReductionStrength keeps :
         {ReductionStrength::a_best_plan, ReductionStrength::all_best_plans,
          ReductionStrength::all_plans})
      for (const std::string_view name : names) {
        CAPTURE(static_cast<int>(keeps), name);
        changed[name] += check_promises(p, keeps, name);
      }
  }
  for (const std::string_view name : names) {
    CAPTURE(name);
    if (name == "slacks of equations" || name == "columns that an equation keeps in" ||
        name == "real columns that are whole")
      CHECK(changed[name] >= 0);  // the next test asks them
    else
      CHECK(changed[name] > 20);
  }
}

TEST_CASE("with a real column every reduction keeps the best value", "[mip][presolve][oracle]") {
  Random random(1302);
  std::map<std::string_view, std::int64_t> changed;
  const std::vector<std::string_view> some = {"",
                                              "slacks of equations",
                                              "columns that an equation keeps in",
                                              "equations of two",
                                              "real columns that are whole",
                                              "coefficients",
                                              "rows",
                                              "columns that the goal fixes"};
  for (int round = 0; round < 600; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_reducible(random, true);
    const std::optional<Rational> best = best_with_one_real(p, p.num_columns() - 1);
    for (const ReductionStrength keeps :
         {ReductionStrength::a_best_plan, ReductionStrength::all_plans})
      for (const std::string_view name : some) {
        CAPTURE(static_cast<int>(keeps), name);
        WorkCounter work;
        const auto reduced = mip::presolve(p, keeps, true, work, name);
        REQUIRE(reduced);
        changed[name] += reduced->changes;
        if (!reduced->possible) {
          CHECK_FALSE(best);
          continue;
        }
        const mip::Problem& q = reduced->left.problem;
        Index real = -1;
        for (Index j = 0; j < q.num_columns(); ++j)
          if (!q.integer(j)) real = j;
        const std::optional<Rational> there = best_with_one_real(q, real);
        REQUIRE(there.has_value() == best.has_value());
        if (best) CHECK(*there + reduced->left.constant == *best);
      }
  }
  for (const auto& [name, count] : changed) {
    CAPTURE(name);
    CHECK(count > 20);
  }
}

TEST_CASE("searches with presolve find what they find without, and plans of the model as it came",
          "[mip][presolve]") {
  for (const std::uint64_t seed : {1U, 2U}) {
    for (const mip::Problem& p : {many_knapsacks(5, 20, seed), assignment(4, 12, seed),
                                  cover(30, 60, 0.1, seed), lots(2, 6, seed), long_row(60, seed)}) {
      mip::SearchOptions without, with;
      without.presolving.on = false;
      with.presolving.brief_look = false;
      const mip::SearchResult a = mip::Search(p, exact_judge(p), without).run();
      const mip::SearchResult b = mip::Search(p, exact_judge(p), with).run();
      REQUIRE(a.outcome == Outcome::optimal);
      REQUIRE(b.outcome == Outcome::optimal);
      CHECK(a.goal == b.goal);
      CHECK(a.proven_exactly == b.proven_exactly);
      REQUIRE(b.plan);
      CHECK(satisfies(p, *b.plan));
      CHECK(b.root.basis.columns.size() == at(p.num_columns()));
      REQUIRE(b.pseudo_costs);
      CHECK(b.pseudo_costs->num_columns() == p.num_columns());
    }
  }
}

TEST_CASE("whoever listens sees one search: nodes rise, plans get better, bounds hold",
          "[mip][presolve]") {
  const mip::Problem p = many_knapsacks(10, 30, 5);
  class Watch final : public mip::Listener {
   public:
    explicit Watch(const mip::Problem& problem) : problem_(problem) {}
    void better_plan(const mip::Standing& s, std::span<const Rational> plan) override {
      progress(s);
      CHECK(satisfies(problem_, plan));
      CHECK(s.best == goal_of(problem_, plan).to_double());
      CHECK(s.best < best_);
      best_ = s.best;
      ++plans;
    }
    void progress(const mip::Standing& s) override {
      CHECK(s.nodes >= nodes);
      CHECK(s.bound <= s.best);
      nodes = s.nodes;
      bound = std::max(bound, s.bound);
    }
    std::int64_t nodes = 0, plans = 0;
    double bound = -kInf;

   private:
    const mip::Problem& problem_;
    double best_ = kInf;
  } watch(p);
  const mip::SearchResult r = mip::Search(p, exact_judge(p), {}, &watch).run();
  REQUIRE(r.outcome == Outcome::optimal);
  REQUIRE(r.root.left);  // it went inside
  CHECK(watch.plans > 1);
  CHECK(watch.bound <= r.goal.to_double());
  CHECK(watch.nodes <= r.counts.nodes);
  for (std::size_t k = 1; k < r.history.size(); ++k) {
    CHECK(r.history[k].nodes >= r.history[k - 1].nodes);
    CHECK(r.history[k].best <= r.history[k - 1].best);
    CHECK(r.history[k].seconds >= r.history[k - 1].seconds);
  }
}

TEST_CASE("parts that nothing ties together are searched one by one", "[mip][presolve]") {
  mip::Problem p;
  Rational sum = 0;
  for (const std::uint64_t seed : {1U, 2U, 3U}) {
    const mip::Problem q = many_knapsacks(4, 12, seed);
    sum += mip::Search(q, exact_judge(q), {}).run().goal;
    add_beside(p, q);
  }
  p.set_goal_facts(true, 1.0);
  const std::vector<std::vector<Index>> parts = mip::components(p);
  REQUIRE(parts.size() == 3);
  for (const auto& part : parts) CHECK(part.size() == 12);
  mip::SearchOptions together, apart;
  together.presolving.brief_look = apart.presolving.brief_look = false;
  together.presolving.components = false;
  const mip::SearchResult a = mip::Search(p, exact_judge(p), together).run();
  const mip::SearchResult b = mip::Search(p, exact_judge(p), apart).run();
  CHECK(a.outcome == Outcome::optimal);
  CHECK(b.outcome == Outcome::optimal);
  CHECK(a.goal == sum);
  CHECK(b.goal == sum);
  CHECK(satisfies(p, *b.plan));
  CHECK(b.counts.nodes <= a.counts.nodes);
}

TEST_CASE("a part takes along the rows of its conditions that have no entries", "[mip][presolve]") {
  // When the condition holds no sum of nothing is within limits: it fails, and x is at most 0.
  mip::Problem p;
  p.add_column(-1.0, 1.0, true, -2.0);
  p.add_column(0.0, 1.0, true, -3.0);
  p.add_column(0.0, 1.0, true, -4.0);
  const Index c = p.add_condition();
  mip::add_indicator_row(p, {{c, true}, {{}, -3.0, -2.0, true}});
  mip::add_indicator_row(p, {{c, false}, {{{0, 7.0}}, -7.0, 3.0, true}});
  p.add_row({{{1, 1.0}, {2, 1.0}}, -kInf, 1.0, true});
  p.set_goal_facts(true, 1.0);
  const std::vector<std::vector<Index>> parts = mip::components(p);
  REQUIRE(parts.size() == 2);
  CHECK(mip::num_indicator_rows(mip::part_of(p, parts[0])) == 2);
  mip::SearchOptions options;
  options.presolving.brief_look = false;
  const mip::SearchResult r = mip::Search(p, judge_of(p), options).run();
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal == Rational(-4));
}

namespace {

// The better one of two depots is closed: a rule that no row says.
class Closed final : public mip::RowGenerator {
 public:
  [[nodiscard]] bool wants_fractions() const override { return false; }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool) override {
    if (point[0] < 0.5) return {};
    return {{{{0, 1.0}}, -kInf, 0.0, true}};
  }
};

// Two depots of which either will do; the first is the cheaper one.
mip::Problem two_depots() {
  mip::Problem p;
  p.add_column(0.0, 1.0, true, 2.0);
  p.add_column(0.0, 1.0, true, 3.0);
  p.add_row({{{0, 1.0}, {1, 1.0}}, 1.0, kInf, true});
  p.set_goal_facts(true, 1.0);
  return p;
}

}  // namespace

TEST_CASE("a plan would be lost to a generator if the strength were ignored", "[mip][presolve]") {
  mip::Problem p = two_depots();
  WorkCounter work;
  // Without the generator the dearer depot may go; with it that would leave no plan at all.
  const auto weak = mip::presolve(p, ReductionStrength::a_best_plan, false, work);
  REQUIRE(weak);
  CHECK_FALSE(weak->left.postsolve.reduce(Point{0, 1}));
  const auto strong = mip::presolve(p, ReductionStrength::all_plans, false, work);
  REQUIRE(strong);
  CHECK(strong->left.postsolve.reduce(Point{0, 1}));
  mip::set_generator(p, std::make_shared<Closed>());
  mip::SearchOptions options;
  options.presolving.brief_look = false;
  const mip::SearchResult r = mip::Search(p, judge_of(p), options).run();
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal == Rational(3));
}

TEST_CASE("a judge that knows more than the rows is obeyed where all plans are kept",
          "[mip][presolve]") {
  const mip::Problem p = two_depots();
  mip::SearchOptions options;
  options.presolving.brief_look = false;
  options.presolving.keeps = ReductionStrength::all_plans;
  const mip::Judge judge = [&](std::span<const Rational> x) {
    return mip::Verdict{satisfies(p, x) && x[0].is_zero(), goal_of(p, x)};
  };
  const mip::SearchResult r = mip::Search(p, judge, options).run();
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal == Rational(3));
}

TEST_CASE("a generated row says the same of what is left", "[mip][presolve][oracle]") {
  Random random(1303);
  int thirds = 0;
  for (int round = 0; round < 400; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_reducible(random, false);
    WorkCounter work;
    const auto reduced = mip::presolve(p, ReductionStrength::all_plans, true, work);
    if (!reduced->possible) continue;
    mip::LinearRow row = draw_row(random, p.num_columns());
    std::vector<Rational> exact;
    for (const mip::Entry& e : row.entries) exact.push_back(Rational::exactly(e.value));
    if (random.chance(0.5)) {  // numbers that no double holds
      lp::Exact known{row.lower, row.upper, Rational::minus_infinity(), Rational::infinity()};
      if (std::isfinite(row.lower)) known.low = Rational::exactly(row.lower);
      if (std::isfinite(row.upper)) known.high = Rational::exactly(row.upper);
      for (std::size_t k = 0; k < exact.size(); ++k) {
        exact[k] /= Rational(3);
        row.entries[k].value = exact[k].to_double();
      }
      known.values = exact;
      row.known = known;
      row.exact = false;
      ++thirds;
    }
    const mip::LinearRow there = reduced->left.postsolve.reduce(row);
    const auto meets = [](const mip::LinearRow& r, std::span<const Rational> x) {
      Rational sum = 0;
      for (std::size_t k = 0; k < r.entries.size(); ++k)
        sum += (r.known && !r.known->values.empty() ? r.known->values[k]
                                                    : Rational::exactly(r.entries[k].value)) *
               x[at(r.entries[k].index)];
      const auto beyond = [&](double limit, bool upper) {
        if (std::isinf(limit)) return false;
        const Rational end =
            r.known ? (upper ? r.known->high : r.known->low) : Rational::exactly(limit);
        return upper ? sum > end : sum < end;
      };
      return !beyond(r.lower, false) && !beyond(r.upper, true);
    };
    for (const Point& y : plans_of(reduced->left.problem))
      CHECK(meets(there, y) ==
            meets(row, reduced->left.postsolve.restore(std::span<const Rational>(y))));
  }
  CHECK(thirds > 50);
}
