// Nonlinear terms: every line is on its side of the function, intervals hold what they should, and
// searches agree with trying all points.

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "mip/kinds/nonlinear_parts.hpp"
#include "mip/nonlinear/local_solver.hpp"
#include "mip/presolve/presolve.hpp"
#include "mip/search/search.hpp"
#include "mip/variants/shared_root.hpp"

using namespace kiteknot;
using linalg::Index;
using mip::NonlinearTerm;
using mip::UnaryFunction;

namespace {

struct Drawn {
  UnaryFunction f;
  double least, most;  // a range that lies within its domain
};

Drawn draw_function(Random& random) {
  const auto power = [&](int n) { return UnaryFunction::whole_power(n); };
  switch (random.between(0, 7)) {
    case 0:
      return {power(2), -20.0, 20.0};
    case 1:
      return {power(3), -8.0, 8.0};
    case 2:
      return {power(static_cast<int>(random.between(4, 7))), -3.0, 3.0};
    case 3:
      return {power(-static_cast<int>(random.between(1, 3))), 0.1, 9.0};
    case 4:
      return {power(-static_cast<int>(random.between(1, 3))), -9.0, -0.1};
    case 5:
      return {UnaryFunction::real_power(random.chance(0.5) ? 0.5 : random.fraction() * 3.0 + 0.01),
              0.0, 30.0};
    case 6:
      return {UnaryFunction::exponential(), -5.0, 5.0};
    default:
      return {UnaryFunction::logarithm(), 0.01, 50.0};
  }
}

Interval draw_range(Random& random, const Drawn& d) {
  double a = d.least + random.fraction() * (d.most - d.least);
  double b = d.least + random.fraction() * (d.most - d.least);
  if (random.chance(0.3)) a = std::round(a), b = std::round(b);
  a = std::clamp(a, d.least, d.most);
  b = std::clamp(b, d.least, d.most);
  return {std::min(a, b), std::max(a, b)};
}

}  // namespace

TEST_CASE("lines below and above a function stay on their side", "[mip][nonlinear]") {
  Random random(41);
  double loosest = 0.0;
  for (int k = 0; k < 4000; ++k) {
    const Drawn d = draw_function(random);
    const Interval x = draw_range(random, d);
    for (const bool above : {false, true}) {
      std::vector<double> slopes = d.f.good_slopes(x, above);
      for (const double s : slopes) {  // the good ones touch it somewhere
        const double b = above ? d.f.height_above(s, x) : d.f.height_below(s, x);
        REQUIRE(std::isfinite(b));
        double nearest = kInf;
        for (int i = 0; i <= 64; ++i) {
          const double t = x.low + (x.high - x.low) * i / 64.0;
          nearest = std::min(nearest, std::abs(d.f.value(t) - s * t - b));
        }
        loosest = std::max(loosest, nearest / (1.0 + std::abs(s) * (x.high - x.low)));
      }
      slopes.push_back(random.fraction() * 40.0 - 20.0);
      for (const double s : slopes) {
        const double b = above ? d.f.height_above(s, x) : d.f.height_below(s, x);
        if (!std::isfinite(b)) continue;
        for (int i = 0; i <= 32; ++i) {
          const double t = i == 32 ? x.high : x.low + (x.high - x.low) * i / 32.0;
          if (d.f.algebraic()) {
            Rational power = 1;
            for (int n = std::abs(d.f.degree()); n > 0; --n) power = power * Rational::exactly(t);
            if (d.f.degree() < 0) power = Rational(1) / power;
            const Rational line =
                Rational::exactly(s) * Rational::exactly(t) + Rational::exactly(b);
            REQUIRE((above ? line >= power : line <= power));
          } else {
            const double line = s * t + b, value = d.f.value(t);
            const double rounding = 1e-13 * (1.0 + std::abs(s * t) + std::abs(b));
            REQUIRE((above ? line >= value - rounding : line <= value + rounding));
          }
        }
      }
    }
  }
  CHECK(loosest < 0.02);  // of 64 points one is near the one that is touched
}

TEST_CASE("values, slopes and preimages hold every point", "[mip][nonlinear]") {
  Random random(42);
  for (int k = 0; k < 20000; ++k) {
    const Drawn d = draw_function(random);
    const Interval x = draw_range(random, d);
    const double t = std::clamp(x.low + random.fraction() * (x.high - x.low), x.low, x.high);
    const double value = d.f.value(t), slope = d.f.slope(t);
    const Interval values = d.f.values(x), slopes = d.f.slopes(x);
    const double near = 1e-13 * std::abs(value);
    REQUIRE((values.low <= value + near && value - near <= values.high));
    if (std::isfinite(slope))
      REQUIRE((slopes.low <= slope + 1e-12 * std::abs(slope) &&
               slope - 1e-12 * std::abs(slope) <= slopes.high));
    const Interval y{value - near - 0.3 * random.fraction(), value + near};
    const Interval back = d.f.preimage(y, x);
    REQUIRE((back.low <= t && t <= back.high));
    // Derivatives against differences.
    const double h = 1e-5 * std::max(0.01, std::abs(t));
    if (t - h > d.least && t + h < d.most && d.f.value(t + h) - d.f.value(t - h) != 0.0) {
      CHECK((d.f.value(t + h) - d.f.value(t - h)) / (2 * h) ==
            Approx(slope).epsilon(1e-4).margin(1e-4));
      CHECK((d.f.slope(t + h) - d.f.slope(t - h)) / (2 * h) ==
            Approx(d.f.curvature(t)).epsilon(1e-4).margin(1e-3));
    }
  }
}

TEST_CASE("quotients of intervals hold every quotient", "[base][interval]") {
  Random random(43);
  const auto draw = [&] {
    const auto a = static_cast<double>(random.between(-4, 4)),
               b = static_cast<double>(random.between(-4, 4));
    Interval x{std::min(a, b), std::max(a, b)};
    if (random.chance(0.1)) x.low = -kInf;
    if (random.chance(0.1)) x.high = kInf;
    return x;
  };
  const auto in = [&](const Interval& x) {
    const double low = std::max(x.low, -50.0), high = std::min(x.high, 50.0);
    return low + random.fraction() * (high - low);
  };
  for (int k = 0; k < 20000; ++k) {
    const Interval p = draw(), by = draw();
    const double b = random.chance(0.2) && contains(by, 0.0) ? 0.0 : in(by), product = in(p);
    if (b == 0.0) continue;
    const Interval q = divided(p, by);
    const double a = product / b, near = 1e-13 * std::abs(a);
    REQUIRE((q.low <= a + near && a - near <= q.high));
    const Interval back = q * by;
    REQUIRE((back.low <= product && product <= back.high));
  }
}

namespace {

// Whole columns, and a column for each of some terms in them; rows and goal over all.
struct Whole {
  mip::Problem problem;
  Index decisions = 0;
  std::vector<NonlinearTerm> terms;

  // Exactly; nothing where some row or bound is broken.
  std::optional<Rational> goal_at(std::vector<Rational> x) const {
    x.resize(static_cast<std::size_t>(problem.num_columns()));
    for (const NonlinearTerm& t : terms) {
      Rational v = 1;
      if (t.product())
        v = x[at(t.x)] * x[at(t.z)];
      else
        for (int n = 0; n < t.f->degree(); ++n) v = v * x[at(t.x)];
      x[at(t.value)] = v;
    }
    if (!mip::satisfies(problem, x)) return std::nullopt;
    Rational goal = 0;
    for (Index j = 0; j < problem.num_columns(); ++j)
      goal += Rational::exactly(problem.cost(j)) * x[at(j)];
    return goal;
  }
};

Whole draw_whole(Random& random) {
  Whole w;
  w.decisions = static_cast<Index>(random.between(2, 4));
  for (Index j = 0; j < w.decisions; ++j) {
    const auto low = static_cast<double>(random.between(-4, 1));
    (void)w.problem.add_column(low, low + static_cast<double>(random.between(1, 6)), true,
                               static_cast<double>(random.between(-5, 5)));
  }
  const int terms = static_cast<int>(random.between(1, 4));
  for (int k = 0; k < terms; ++k) {
    NonlinearTerm t;
    const auto any = [&] {
      return static_cast<Index>(random.between(0, w.problem.num_columns() - 1));
    };
    t.x = any();
    if (random.chance(0.6))
      t.z = any();
    else
      t.f = UnaryFunction::whole_power(static_cast<int>(random.between(2, 3)));
    t.value = w.problem.add_column(-1e6, 1e6, false, static_cast<double>(random.between(-3, 3)));
    w.terms.push_back(t);
    mip::add_nonlinear_term(w.problem, t);
  }
  const int rows = static_cast<int>(random.between(0, 3));
  for (int i = 0; i < rows; ++i) {
    mip::LinearRow row;
    for (Index j = 0; j < w.problem.num_columns(); ++j)
      if (random.chance(0.5))
        row.entries.push_back({j, static_cast<double>(random.between(-4, 4))});
    const auto limit = static_cast<double>(random.between(-10, 20));
    const auto side = random.between(0, 4);
    row.lower = side == 0 || side == 4 ? limit : -kInf;
    row.upper = side == 0 ? kInf : limit;
    (void)w.problem.add_row(row);
  }
  w.problem.set_goal_facts(true, random.chance(0.5) ? 1.0 : 0.0);
  return w;
}

}  // namespace

TEST_CASE("products and powers of whole columns: the search agrees with trying all points",
          "[mip][nonlinear]") {
  Random random(44);
  int with_plan = 0, without = 0;
  for (int k = 0; k < 1500; ++k) {
    const Whole w = draw_whole(random);
    std::optional<Rational> best;
    std::vector<Rational> x;
    const auto visit = [&](const auto& self) -> void {
      const auto j = static_cast<Index>(x.size());
      if (j == w.decisions) {
        const auto goal = w.goal_at(x);
        if (goal && (!best || *goal < *best)) best = goal;
        return;
      }
      for (double v = w.problem.lower(j); v <= w.problem.upper(j); v += 1.0) {
        x.push_back(Rational::exactly(v));
        self(self);
        x.pop_back();
      }
    };
    visit(visit);
    mip::SearchOptions options;
    options.decisions = w.decisions;
    const mip::Judge judge = [&](std::span<const Rational> plan) {
      const auto goal = w.goal_at({plan.begin(), plan.begin() + w.decisions});
      return mip::Verdict{goal.has_value(), goal.value_or(0)};
    };
    const mip::SearchResult found = mip::Search(w.problem, judge, options).run();
    INFO("model " << k);
    if (!best) {
      ++without;
      REQUIRE(found.outcome == Outcome::infeasible);
      continue;
    }
    ++with_plan;
    REQUIRE(found.outcome == Outcome::optimal);
    const double gap = 1e-6 * std::max(5.0, std::abs(best->to_double()));
    REQUIRE((found.goal.to_double() - best->to_double()) <=
            (w.problem.goal_step() > 0.0 ? 0.0 : gap));
    REQUIRE(found.bound <= best->to_double());
  }
  CHECK(with_plan > 500);
  CHECK(without > 50);
}

namespace {

struct Real {
  mip::Problem p;
  Index term(NonlinearTerm t, double cost = 0.0) {
    t.value = p.add_column(-1e4, 1e4, false, cost);
    mip::add_nonlinear_term(p, t);
    return t.value;
  }
  Index product(Index x, Index z, double cost = 0.0) { return term({-1, x, z}, cost); }
  Index of(UnaryFunction f, Index x, double cost = 0.0) { return term({-1, x, -1, f}, cost); }
  void row(std::vector<lp::Entry> entries, double low, double high) {
    (void)p.add_row({std::move(entries), low, high});
  }
  mip::SearchResult solve() {
    p.set_goal_facts(true, 0.0);
    const mip::Judge judge = [this](std::span<const Rational> x) {
      Rational goal = 0;
      for (Index j = 0; j < p.num_columns(); ++j) goal += Rational::exactly(p.cost(j)) * x[at(j)];
      bool rows = true;  // within what plans may miss
      for (Index i = 0; i < p.num_rows(); ++i) {
        double sum = 0.0, size = 1.0;
        for (std::size_t e = 0; e < p.row(i).index.size(); ++e) {
          const double v = p.row(i).value[e] * x[at(p.row(i).index[e])].to_double();
          sum += v;
          size = std::max(size, std::abs(v));
        }
        rows = rows && sum >= p.row_lower(i) - 1e-9 * size && sum <= p.row_upper(i) + 1e-9 * size;
      }
      mip::ExactPoint point{x, {}, {}};
      return mip::Verdict{rows && p.kinds().find<mip::NonlinearTerms>()->satisfied(p, point), goal};
    };
    return mip::Search(p, judge, {}).run();
  }
};

void check_optimum(const mip::SearchResult& r, double value) {
  CHECK(r.outcome == Outcome::optimal);
  REQUIRE(r.plan.has_value());
  CHECK(r.goal.to_double() == Approx(value).epsilon(2e-6).margin(2e-6));
  CHECK(r.bound <= value + 1e-9 * (1.0 + std::abs(value)));
  CHECK(r.bound >= value - 3e-6 * std::max(1.0, std::abs(value)));
}

}  // namespace

TEST_CASE("optima over real columns are proven to the gap", "[mip][nonlinear]") {
  SECTION("the least sum of two with a product") {
    Real m;
    const Index x = m.p.add_column(0.1, 10.0, false, 1.0),
                y = m.p.add_column(0.1, 10.0, false, 2.0);
    m.row({{m.product(x, y), 1.0}}, 8.0, kInf);
    check_optimum(m.solve(), 8.0);  // 4 and 2
  }
  SECTION("two local optima of a quartic") {
    Real m;  // x^4 - 3 x^2 + x/2, over -2 .. 2; the left valley is deeper
    const Index x = m.p.add_column(-2.0, 2.0, false, 0.5);
    (void)m.of(UnaryFunction::whole_power(4), x, 1.0);
    (void)m.of(UnaryFunction::whole_power(2), x, -3.0);
    double best = kInf;
    for (double t = -2.0; t <= 2.0; t += 1e-5)
      best = std::min(best, t * t * t * t - 3.0 * t * t + 0.5 * t);
    check_optimum(m.solve(), best);
  }
  SECTION("a root, a log and an exponential against each other") {
    Real m;  // exp(x) - 5 sqrt(x) - log(x + 1)
    const Index x = m.p.add_column(0.0, 4.0, false, 0.0);
    const Index plus = m.p.add_column(1.0, 5.0, false, 0.0);
    m.row({{plus, 1.0}, {x, -1.0}}, 1.0, 1.0);
    (void)m.of(UnaryFunction::exponential(), x, 1.0);
    (void)m.of(UnaryFunction::real_power(0.5), x, -5.0);
    (void)m.of(UnaryFunction::logarithm(), plus, -1.0);
    double best = kInf;
    for (double t = 0.0; t <= 4.0; t += 1e-5)
      best = std::min(best, std::exp(t) - 5.0 * std::sqrt(t) - std::log(t + 1.0));
    check_optimum(m.solve(), best);
  }
  SECTION("an equation that only one irrational point meets") {
    Real m;
    const Index x = m.p.add_column(0.0, 5.0, false, 1.0);
    m.row({{m.of(UnaryFunction::whole_power(2), x), 1.0}}, 2.0, 2.0);
    check_optimum(m.solve(), std::sqrt(2.0));
  }
  SECTION("nothing is feasible") {
    Real m;
    const Index x = m.p.add_column(0.0, 5.0, false, 1.0), y = m.p.add_column(0.0, 5.0, false, 1.0);
    m.row({{m.product(x, y), 1.0}}, 6.0, kInf);
    m.row({{x, 1.0}, {y, 1.0}}, -kInf, 4.5);
    CHECK(m.solve().outcome == Outcome::infeasible);
  }
  SECTION("whole and real: sizes of a box") {
    Real m;  // least surface of a closed box of volume 30, one side whole
    const Index a = m.p.add_column(1.0, 9.0, true, 0.0), b = m.p.add_column(0.5, 9.0, false, 0.0),
                c = m.p.add_column(0.5, 9.0, false, 0.0);
    const Index ab = m.product(a, b, 2.0);
    (void)m.product(b, c, 2.0);
    (void)m.product(a, c, 2.0);
    m.row({{m.product(ab, c), 1.0}}, 30.0, kInf);
    double best = kInf;
    for (int side = 1; side <= 9; ++side)
      best = std::min(best, 2.0 * 30.0 / side + 4.0 * side * std::sqrt(30.0 / side));
    check_optimum(m.solve(), best);
  }
}

TEST_CASE("what is taken for granted of linear rows is not taken of nonlinear terms",
          "[mip][nonlinear]") {
  // y >= x^2 with x in no row at all: by its cost alone x would go to its end.
  mip::Problem p;
  const Index x = p.add_column(-3.0, 3.0, false, -2.0), y = p.add_column(0.0, 9.0, false, 1.0);
  mip::add_nonlinear_term(p, {y, x, -1, UnaryFunction::whole_power(2), true, false});
  p.set_goal_facts(true, 0.0);
  WorkCounter work;
  const auto reduced = mip::presolve(p, mip::ReductionStrength::a_best_plan, true, work);
  REQUIRE(reduced);
  REQUIRE(reduced->possible);
  const mip::Problem& left = reduced->left.problem;
  REQUIRE(left.num_columns() == 2);
  CHECK((left.lower(0) == -3.0 && left.upper(0) == 3.0));
  CHECK(mip::nonlinear_terms(left).size() == 1);
  // Shared searches and exact looks leave it alone.
  CHECK_FALSE(mip::can_share(p));
  CHECK_FALSE(p.exact());
  CHECK_FALSE(p.linear());
  mip::Locks locks{{0, 0}, {0, 0}};
  for (const auto& kind : p.kinds().all()) kind->lock(p, locks);
  CHECK((locks.down[at(y)] == 1 && locks.up[at(y)] == 0));
  CHECK((locks.down[at(x)] == 1 && locks.up[at(x)] == 1));
}

TEST_CASE("a point is split where it breaks terms most", "[mip][nonlinear]") {
  mip::Problem p;
  std::vector<NonlinearTerm> terms;
  for (int k = 0; k < 3; ++k) (void)p.add_column(0.0, 10.0, false, 0.0);
  for (Index j = 0; j < 3; ++j) {
    const Index y = p.add_column(0.0, 100.0, false, 0.0);
    terms.push_back({y, j, -1, UnaryFunction::whole_power(2)});
  }
  const mip::Domain domain(p);
  const auto branching = mip::nonlinear_branching(terms);
  // The second is off by far, the first a little.
  const std::vector<double> point = {5.0, 5.0, 5.0, 25.5, 60.0, 25.0};
  CHECK_FALSE(branching->met(domain, point));
  mip::Branching out;
  REQUIRE(branching->split(domain, point, out));
  REQUIRE(out.children.size() == 2);
  CHECK(out.children[0][0].index == 1);
  CHECK(out.children[1][0].index == 1);
  const std::vector<double> plan = {5.0, 5.0, 5.0, 25.0, 25.0, 25.0};
  CHECK(branching->met(domain, plan));
}

TEST_CASE("local optima against known ones", "[mip][nonlinear]") {
  // x0 x3 (x0 + x1 + x2) + x2 with a product of at least 25 and squares of 40 in all (Hock and
  // Schittkowski 1981, problem 71), from many starts: the best of them is the known optimum.
  Real m;
  std::vector<Index> x;
  for (int j = 0; j < 4; ++j) x.push_back(m.p.add_column(1.0, 5.0, false, j == 2 ? 1.0 : 0.0));
  const Index outer = m.product(x[0], x[3]), inner = m.product(x[1], x[2]);
  m.row({{m.product(outer, inner), 1.0}}, 25.0, kInf);
  std::vector<lp::Entry> squares;
  for (const Index j : x) squares.push_back({m.of(UnaryFunction::whole_power(2), j), 1.0});
  m.row(squares, 40.0, 40.0);
  const Index sum = m.p.add_column(3.0, 15.0, false, 0.0);
  m.row({{sum, 1.0}, {x[0], -1.0}, {x[1], -1.0}, {x[2], -1.0}}, 0.0, 0.0);
  (void)m.product(outer, sum, 1.0);
  mip::LocalProgram program;
  for (Index j = 0; j < m.p.num_columns(); ++j) {
    program.lower.push_back(m.p.lower(j));
    program.upper.push_back(m.p.upper(j));
    program.cost.push_back(m.p.cost(j));
  }
  for (Index i = 0; i < m.p.num_rows(); ++i) program.rows.push_back(m.p.row(i));
  program.smooth.push_back(m.p.kinds().find<mip::NonlinearTerms>()->smooth());
  Random random(45);
  double best = kInf;
  int at_rest = 0;
  for (int k = 0; k < 20; ++k) {
    std::vector<double> start(program.lower.size(), 1.0);
    for (const Index j : x) start[at(j)] = 1.0 + 4.0 * random.fraction();
    program.smooth.front()->fill_in(start);
    WorkCounter work;
    const auto end = mip::local_optimum(program, start, work);
    if (!end) continue;
    at_rest += end->at_rest ? 1 : 0;
    double goal = 0.0;
    for (std::size_t j = 0; j < program.cost.size(); ++j) goal += program.cost[j] * end->point[j];
    best = std::min(best, goal);
    CHECK(goal >= 17.0140172 * (1.0 - 1e-6));  // nothing below the proven best
  }
  CHECK(at_rest >= 15);
  CHECK(best == Approx(17.0140173).epsilon(1e-6));
}

namespace {

// a x^2 + b x y + c y^3 + d exp(x / 2) over a box, as an interval and as a number.
struct Mixed {
  double a = 0.0, b = 0.0, c = 0.0, d = 0.0;
  Interval over(const Interval& x, const Interval& y) const {
    const auto times = [](double k, const Interval& v) { return Interval{k, k} * v; };
    return times(a, kiteknot::power(x, 2)) + times(b, x * y) + times(c, kiteknot::power(y, 3)) +
           times(d, kiteknot::exponential(times(0.5, x)));
  }
  double at_point(double x, double y) const {
    return a * x * x + b * x * y + c * y * y * y + d * std::exp(x / 2.0);
  }
};

// By dividing boxes: what the goal is at least, and at most, where the rule holds.
Interval best_by_boxes(const Mixed& goal, const Mixed& rule, double limit) {
  struct Box {
    Interval x, y;
  };
  Interval best{kInf, kInf};
  std::vector<Box> open{{{-2.0, 2.0}, {-2.0, 2.0}}};
  constexpr double kSmall = 4.0 / 512.0;
  while (!open.empty()) {
    const Box box = open.back();
    open.pop_back();
    const Interval g = rule.over(box.x, box.y), f = goal.over(box.x, box.y);
    if (g.high < limit || f.low > best.high) continue;
    const double x = 0.5 * (box.x.low + box.x.high), y = 0.5 * (box.y.low + box.y.high);
    if (rule.at_point(x, y) >= limit) best.high = std::min(best.high, goal.at_point(x, y));
    if (box.x.high - box.x.low <= kSmall) {
      best.low = std::min(best.low, f.low);
      continue;
    }
    for (const Interval& left : {Interval{box.x.low, x}, Interval{x, box.x.high}})
      for (const Interval& down : {Interval{box.y.low, y}, Interval{y, box.y.high}})
        open.push_back({left, down});
  }
  return best;
}

}  // namespace

TEST_CASE("random real problems against a subdivision into boxes", "[mip][nonlinear]") {
  Random random(46);
  int with_plan = 0, without = 0;
  const auto draw = [&] { return static_cast<double>(random.between(-4, 4)) / 2.0; };
  for (int k = 0; k < 60; ++k) {
    const Mixed goal{draw(), draw(), draw(), draw()}, rule{draw(), draw(), draw(), draw()};
    const double limit = 4.0 * draw() + 1.0;
    const Interval best = best_by_boxes(goal, rule, limit);
    Real m;
    const Index x = m.p.add_column(-2.0, 2.0, false, 0.0),
                y = m.p.add_column(-2.0, 2.0, false, 0.0);
    const Index half = m.p.add_column(-1.0, 1.0, false, 0.0);
    m.row({{half, 1.0}, {x, -0.5}}, 0.0, 0.0);
    const Index square = m.of(UnaryFunction::whole_power(2), x, goal.a),
                product = m.product(x, y, goal.b),
                cube = m.of(UnaryFunction::whole_power(3), y, goal.c),
                grown = m.of(UnaryFunction::exponential(), half, goal.d);
    m.row({{square, rule.a}, {product, rule.b}, {cube, rule.c}, {grown, rule.d}}, limit, kInf);
    const mip::SearchResult found = m.solve();
    INFO("problem " << k);
    if (!std::isfinite(best.low)) {
      ++without;
      CHECK(found.outcome == Outcome::infeasible);
      continue;
    }
    if (!std::isfinite(best.high)) continue;  // too thin for these boxes
    ++with_plan;
    REQUIRE(found.outcome == Outcome::optimal);
    CHECK(found.goal.to_double() >= best.low - 1e-6);
    CHECK(found.goal.to_double() <= best.high + 1e-6 * (1.0 + std::abs(best.high)));
    CHECK(found.bound <= best.high);
  }
  CHECK(with_plan > 30);
  CHECK(without > 2);
}
