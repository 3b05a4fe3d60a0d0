// Rows that say more than terms one by one: facets of products of many, tangents of functions that
// a binary switches, tangents of convex quadratics. Every one of them is held against exact points.

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "mip/heuristics/alternation.hpp"
#include "mip/kinds/nonlinear_multilinear.hpp"
#include "mip/kinds/nonlinear_quadratics.hpp"
#include "mip/kinds/nonlinear_switches.hpp"
#include "mip/nonlinear/local_solver.hpp"
#include "mip/problem/exact_rows.hpp"

using namespace kiteknot;
using linalg::Index;
using mip::NonlinearTerm;
using mip::UnaryFunction;

namespace {

// Dyadic, so that products of them are exact in fractions and points are what they say.
double somewhere(Random& random, const Interval& x) {
  const double t = static_cast<double>(random.between(0, 64)) / 64.0;
  return std::clamp(x.low + t * (x.high - x.low), x.low, x.high);
}

Interval draw_box(Random& random) {
  const double low = static_cast<double>(random.between(-40, 20)) / 4.0;
  return {low, low + static_cast<double>(random.between(0, 40)) / 4.0};
}

Rational value_of(const mip::LinearRow& row, const std::vector<Rational>& at) {
  Rational sum = 0;
  for (const lp::Entry& e : row.entries)
    sum += Rational::exactly(e.value) * at[static_cast<std::size_t>(e.index)];
  return sum;
}

bool holds(const mip::LinearRow& row, const std::vector<Rational>& at) {
  const Rational v = value_of(row, at);
  return (std::isinf(row.lower) || v >= Rational::exactly(row.lower)) &&
         (std::isinf(row.upper) || v <= Rational::exactly(row.upper));
}

// x z from below (above) by McCormick's planes, with ranges for x and z.
double by_planes(double x, double z, const Interval& rx, const Interval& rz, bool above) {
  return above ? std::max(rx.low * z + rz.low * x - rx.low * rz.low,
                          rx.high * z + rz.high * x - rx.high * rz.high)
               : std::min(rx.high * z + rz.low * x - rx.high * rz.low,
                          rx.low * z + rz.high * x - rx.low * rz.high);
}

}  // namespace

TEST_CASE("facets of products of many lie on their side, and say more than planes do",
          "[mip][nonlinear]") {
  Random random(71);
  int tighter = 0, found = 0;
  for (int k = 0; k < 1500; ++k) {
    const auto n = static_cast<std::size_t>(random.between(3, 5));
    std::vector<Interval> box;
    std::vector<double> point;
    for (std::size_t i = 0; i < n; ++i) {
      box.push_back(draw_box(random));
      point.push_back(somewhere(random, box.back()));
    }
    for (const bool above : {true, false}) {
      const std::vector<double> slopes = mip::facet_slopes(box, point, above);
      if (slopes.empty()) continue;
      ++found;
      const double height = mip::facet_height(slopes, box, above);
      for (int i = 0; i < 20; ++i) {
        Rational product = 1, line = Rational::exactly(height);
        for (std::size_t j = 0; j < n; ++j) {
          const Rational x = Rational::exactly(somewhere(random, box[j]));
          product = product * x;
          line += Rational::exactly(slopes[j]) * x;
        }
        REQUIRE((above ? line <= product : line >= product));
      }
      double facet = height, size = 1.0;
      for (std::size_t j = 0; j < n; ++j) {
        facet += slopes[j] * point[j];
        size *= 1.0 + std::max(std::abs(box[j].low), std::abs(box[j].high));
      }
      if (n > 3) continue;
      // Planes over planes, at whatever value of the inner product they allow.
      const Interval inner = box[0] * box[1];
      double low = by_planes(point[0], point[1], box[0], box[1], true),
             high = by_planes(point[0], point[1], box[0], box[1], false);
      const auto outer = [&](double w) { return by_planes(w, point[2], inner, box[2], above); };
      for (int i = 0; i < 200; ++i) {  // it bends one way in w
        const double a = low + (high - low) / 3.0, c = high - (high - low) / 3.0;
        if ((outer(a) < outer(c)) == above)
          high = c;
        else
          low = a;
      }
      const double planes = outer(low);
      REQUIRE((above ? facet >= planes - 1e-9 * size : facet <= planes + 1e-9 * size));
      if (std::abs(facet - planes) > 1e-3 * size) ++tighter;
    }
  }
  CHECK(found > 2500);
  CHECK(tighter > 100);
}

TEST_CASE("products of many are those of different factors on both sides", "[mip][nonlinear]") {
  std::vector<NonlinearTerm> terms = {{4, 0, 1}, {5, 4, 2}, {6, 5, 3}, {7, 4, 0}};
  const auto all = mip::multilinear(terms);
  REQUIRE(all.size() == 2);
  CHECK(all[0].value == 5);
  CHECK(all[0].factors == std::vector<Index>{0, 1, 2});
  CHECK(all[1].factors == std::vector<Index>{0, 1, 2, 3});
  terms[0].below = false;  // column 4 may lie above the product
  CHECK(mip::multilinear(terms).size() == 1);
  CHECK(mip::multilinear(terms)[0].factors == std::vector<Index>{4, 2, 3});
}

TEST_CASE("a binary that switches a column lifts the tangents of its terms", "[mip][nonlinear]") {
  Random random(72);
  int rows = 0;
  for (int k = 0; k < 1000; ++k) {
    const double low = static_cast<double>(random.between(0, 8)) / 4.0,
                 high = low + static_cast<double>(random.between(1, 40)) / 4.0;
    const bool inverse = random.chance(0.3), chained = random.chance(0.5);
    const int degree = static_cast<int>(random.between(2, 4));
    mip::Problem p;
    const Index z = p.add_column(0.0, 1.0, true, 0.0);
    const Index x = p.add_column(0.0, high, false, 0.0);
    // low z <= x <= high z, or with 1 - z.
    const double sign = inverse ? 1.0 : -1.0;
    const double at_least = inverse ? low : 0.0, at_most = inverse ? high : 0.0;
    (void)p.add_row({{{x, 1.0}, {z, sign * high}}, -kInf, at_most, true});
    (void)p.add_row({{{x, 1.0}, {z, sign * low}}, at_least, kInf, true});
    Index of = x;
    if (chained) {  // a term of x / 2 + 1
      of = p.add_column(0.0, high + 2.0, false, 0.0);
      (void)p.add_row({{{of, 2.0}, {x, -1.0}}, 2.0, 2.0, true});
    }
    const Index y = p.add_column(-1e6, 1e6, false, 0.0);
    const NonlinearTerm t{y, of, -1, UnaryFunction::whole_power(degree)};
    mip::Switches switches;
    switches.learn(p, {t}, {});
    REQUIRE(switches.of(of).size() == 1);
    const auto argument = [&](double v) { return chained ? v / 2.0 + 1.0 : v; };
    // On by a share, at a value that is the share's part of one in the range.
    std::vector<double> point(static_cast<std::size_t>(p.num_columns()), 0.0);
    const double share = static_cast<double>(random.between(1, 63)) / 64.0;
    point[at(z)] = inverse ? 1.0 - share : share;
    point[at(x)] = share * somewhere(random, {low, high});
    point[at(of)] = argument(point[at(x)]);
    point[at(y)] = t.f->value(point[at(of)]);
    mip::LinearRow row;
    if (!mip::perspective_row(t, *t.f, true, switches.of(of)[0], point, 1e-3, row)) continue;
    ++rows;
    for (int i = 0; i < 20; ++i) {
      const bool on = random.chance(0.8);
      const double v = on ? somewhere(random, {low, high}) : 0.0;
      std::vector<Rational> at_point(static_cast<std::size_t>(p.num_columns()));
      at_point[at(z)] = on != inverse ? 1 : 0;
      at_point[at(x)] = Rational::exactly(v);
      at_point[at(of)] = Rational::exactly(argument(v));
      Rational power = 1;
      for (int n = 0; n < degree; ++n) power = power * at_point[at(of)];
      at_point[at(y)] = power;
      REQUIRE(holds(row, at_point));
    }
  }
  CHECK(rows > 300);  // though the function itself holds at every one of these points
}

TEST_CASE("a concave side is lifted with every sign turned", "[mip][nonlinear]") {
  mip::Problem p;
  const Index z = p.add_column(0.0, 1.0, true, 0.0), x = p.add_column(0.0, 4.0, false, 0.0);
  (void)p.add_row({{{x, 1.0}, {z, -4.0}}, -kInf, 0.0, true});
  const Index y = p.add_column(-10.0, 10.0, false, -1.0);
  const NonlinearTerm t{y, x, -1, UnaryFunction::real_power(0.5), false, true};
  mip::Switches switches;
  switches.learn(p, {t}, {});
  REQUIRE(switches.of(x).size() == 1);
  mip::LinearRow row;
  REQUIRE(mip::perspective_row(t, *t.f, false, switches.of(x)[0], std::vector{0.25, 1.0, 1.0}, 1e-3,
                               row));
  // Half of 2 a quarter of the time: y <= 0.25 (x - 4 z) + 2 z.
  CHECK(holds(row, {0, 0, 0}));
  CHECK(holds(row, {1, 4, 2}));
  CHECK(holds(row, {1, 1, 1}));
  CHECK_FALSE(holds(row, {Rational(1) / Rational(4), 1, 1}));
}

namespace {

// A row of squares and products with these weights, below a limit; a column for each term.
struct Quadratic {
  mip::Problem p;
  std::vector<NonlinearTerm> terms;
  explicit Quadratic(const std::vector<std::vector<int>>& q, double range = 10.0) {
    const auto n = static_cast<Index>(q.size());
    for (Index j = 0; j < n; ++j) (void)p.add_column(-range, range, false, 0.0);
    mip::LinearRow row{{}, -kInf, 100.0, true};
    for (Index i = 0; i < n; ++i)
      for (Index j = 0; j <= i; ++j) {
        const int w = (i == j ? 1 : 2) * q[at(i)][at(j)];
        if (w == 0) continue;
        terms.push_back({p.add_column(-1e6, 1e6, false, 0.0), i, j});
        row.entries.push_back({terms.back().value, static_cast<double>(w)});
      }
    (void)p.add_row(row);
  }
  std::vector<Rational> exact(Random& random) const {
    std::vector<Rational> x(static_cast<std::size_t>(p.num_columns()));
    for (Index j = 0; j < p.num_columns(); ++j)
      if (p.upper(j) < 1e6)
        x[at(j)] = Rational::exactly(somewhere(random, {p.lower(j), p.upper(j)}));
    for (const NonlinearTerm& t : terms) x[at(t.value)] = x[at(t.x)] * x[at(t.z)];
    return x;
  }
};

}  // namespace

TEST_CASE("quadratics that are convex as a whole are found, and their tangents hold",
          "[mip][nonlinear]") {
  Random random(73);
  int rows = 0;
  for (int k = 0; k < 400; ++k) {
    const auto n = static_cast<std::size_t>(random.between(2, 5));
    std::vector<std::vector<int>> l(n, std::vector<int>(n)), q = l;
    for (auto& line : l)
      for (int& v : line) v = static_cast<int>(random.between(-3, 3));
    for (std::size_t i = 0; i < n; ++i)  // l l': some of them of less than full rank
      for (std::size_t j = 0; j < n; ++j)
        for (std::size_t m = 0; m < (k % 3 == 0 ? std::size_t{1} : n); ++m)
          q[i][j] += l[i][m] * l[j][m];
    const Quadratic made(q, k % 2 == 0 ? 10.0 : 3000.0);
    for (const mip::ConvexForm& form : mip::convex_forms(made.p, made.terms)) {
      std::vector<double> point;
      for (Index j = 0; j < made.p.num_columns(); ++j)
        point.push_back(
            made.p.upper(j) < 1e6 ? somewhere(random, {made.p.lower(j), made.p.upper(j)}) : -7.0);
      mip::LinearRow row;
      if (!mip::tangent_row(form, made.terms, made.p, point, 1e-6, row)) continue;
      ++rows;
      for (int i = 0; i < 20; ++i) REQUIRE(holds(row, made.exact(random)));
      // Near the point it is tight.
      std::vector<Rational> here;
      for (const double v : point) here.push_back(Rational::exactly(v));
      for (const NonlinearTerm& t : made.terms) here[at(t.value)] = here[at(t.x)] * here[at(t.z)];
      const double value = value_of(row, here).to_double();
      double size = 1.0;
      for (const mip::ConvexForm::Part& part : form.parts)
        size += std::abs(part.weight) * here[at(made.terms[at(part.term)].value)].abs().to_double();
      CHECK(value - row.lower < 1e-6 * size);
    }
  }
  CHECK(rows > 250);
}

TEST_CASE("quadratics that are not convex are not taken for it", "[mip][nonlinear]") {
  CHECK(mip::convex_forms(Quadratic({{1, -1}, {-1, 1}}).p, Quadratic({{1, -1}, {-1, 1}}).terms)
            .size() == 1);  // (x - y)^2
  const std::vector<std::vector<int>> saddles[] = {{{0, 1}, {1, 0}},
                                                   {{1, 2}, {2, 3}},
                                                   {{1000000, 1000000}, {1000000, 999999}},
                                                   {{2, -1, -1}, {-1, 2, -2}, {-1, -2, 2}}};
  for (const auto& q : saddles) {
    const Quadratic made(q);
    CHECK(mip::convex_forms(made.p, made.terms).empty());
  }
  // Convex, but the column of a product may lie below it.
  Quadratic made({{2, 1}, {1, 2}});
  for (NonlinearTerm& t : made.terms)
    if (t.x != t.z) t.above = false;
  CHECK(mip::convex_forms(made.p, made.terms).empty());
}

TEST_CASE("what a bound holds stands at the bound in a local optimum", "[mip][nonlinear]") {
  // Squares that add up to 25, as dear as they come in the second and third.
  mip::Problem p;
  for (const double cost : {1.0, 3.0, 1e-3}) (void)p.add_column(0.0, 6.0, false, cost);
  mip::LinearRow sum{{}, 25.0, 25.0, true};
  for (Index j = 0; j < 3; ++j) {
    const Index y = p.add_column(-kInf, kInf, false, 0.0);
    mip::add_nonlinear_term(p, {y, j, -1, UnaryFunction::whole_power(2)});
    sum.entries.push_back({y, 1.0});
  }
  (void)p.add_row(sum);
  mip::LocalProgram program;
  for (Index j = 0; j < p.num_columns(); ++j) {
    program.lower.push_back(p.lower(j));
    program.upper.push_back(p.upper(j));
    program.cost.push_back(p.cost(j));
  }
  program.rows.push_back(p.row(0));
  for (const auto& kind : p.kinds().all())
    if (kind->smooth() != nullptr) program.smooth.push_back(kind->smooth());
  WorkCounter work;
  const auto end = mip::local_optimum(program, {1.0, 1.0, 4.0, 1.0, 1.0, 16.0}, work);
  REQUIRE(end);
  CHECK(end->point[0] == 0.0);
  CHECK(end->point[1] == 0.0);
  CHECK(end->point[2] == Approx(5.0).epsilon(1e-12));
}

TEST_CASE("with one factor of each product held, then the other, points meet all products",
          "[mip][nonlinear]") {
  Random random(76);
  int points = 0;
  for (int k = 0; k < 60; ++k) {
    // Flows of one quality, and a limit on what they carry of it.
    mip::Problem p;
    const Index quality = p.add_column(1.0, 3.0, false, 0.0);
    mip::LinearRow carried{
        {{quality, 4.0}}, -kInf, static_cast<double>(random.between(14, 40)), true},
        all{{}, -kInf, 9.0, true};
    std::vector<NonlinearTerm> terms;
    for (int i = 0; i < 3; ++i) {
      const Index flow = p.add_column(0.0, 10.0, false, -static_cast<double>(random.between(1, 9)));
      all.entries.push_back({flow, 1.0});
      terms.push_back({p.add_column(0.0, 30.0, false, static_cast<double>(random.between(-2, 1))),
                       flow, quality});
      mip::add_nonlinear_term(p, terms.back());
      carried.entries.push_back({terms.back().value, 1.0});
    }
    (void)p.add_row(carried);
    (void)p.add_row(all);
    std::vector<Index> one, other;
    for (const auto& kind : p.kinds().all())
      if (kind->any(p)) kind->add_sides(p, one, other);
    CHECK(one == std::vector<Index>{quality});
    CHECK(other.size() == 3);

    mip::Domain domain(p);
    mip::Propagation propagation(domain);
    mip::Relaxation relaxation(p);
    WorkCounter work;
    REQUIRE(propagation.run(domain, work));
    relaxation.follow(domain);
    relaxation.tighten(domain);
    const lp::Report relaxed = relaxation.solve({});
    REQUIRE(relaxed.status == lp::Status::optimal);
    const std::vector<double> from(relaxation.point().begin(), relaxation.point().end());
    const std::function<std::vector<double>()> costs = [&] { return relaxation.reduced_costs(); };
    const std::function<std::optional<std::vector<double>>(mip::Problem, std::int64_t)> no_search;
    std::int64_t pivots = 0;
    const Interrupt interrupt;
    const mip::PseudoCosts history(p.num_columns());
    const std::size_t mark = domain.mark();
    mip::Alternation alternation;
    const mip::NodeView node{.domain = domain,
                             .propagation = propagation,
                             .point = from,
                             .reduced_costs = costs,
                             .cutoff = {},
                             .work = work,
                             .relaxation = relaxation,
                             .own_pivots = pivots,
                             .interrupt = interrupt,
                             .best_plan = {},
                             .history = history,
                             .part_search = no_search};
    REQUIRE(alternation.wants(node));
    const auto point = alternation.look(node);
    CHECK(domain.mark() == mark);
    REQUIRE(point);
    ++points;
    double goal = 0.0, sum = 4.0 * (*point)[at(quality)], flows = 0.0;
    for (const NonlinearTerm& t : terms) {
      CHECK((*point)[at(t.value)] == Approx((*point)[at(t.x)] * (*point)[at(t.z)]).margin(1e-7));
      sum += (*point)[at(t.value)];
      flows += (*point)[at(t.x)];
    }
    for (Index j = 0; j < p.num_columns(); ++j) goal += p.cost(j) * (*point)[at(j)];
    CHECK(sum <= carried.upper + 1e-7);
    CHECK(flows <= 9.0 + 1e-7);
    CHECK(goal >= relaxed.objective - 1e-6);
    // The relaxation stands for the whole box again.
    CHECK(relaxation.solve({}).objective == Approx(relaxed.objective).epsilon(1e-9));
  }
  CHECK(points == 60);
}
