// The parts of the simplex method, each driven by itself.

#include <algorithm>
#include <cmath>

#include <Eigen/Dense>
#include <catch2/catch.hpp>

#include "lp/simplex.hpp"
#include "support/random_programs.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using lp::Index;
using lp::Status;

namespace {

// Boxed, so that every basis can be made dual feasible; sides that a random point meets.
lp::Program boxed(Random& random, int n, int m) {
  lp::Program p;
  std::vector<double> inside;
  for (int j = 0; j < n; ++j) {
    const auto low = static_cast<double>(random.between(-4, 2));
    p.add_column(static_cast<double>(random.between(-9, 9)), low, low + 6.0);
    inside.push_back(low + static_cast<double>(random.between(0, 6)));
  }
  for (int i = 0; i < m; ++i) {
    std::vector<lp::Entry> entries;
    double value = 0.0;
    for (int j = 0; j < n; ++j) {
      if (!random.chance(0.5)) continue;
      const auto a = static_cast<double>(random.between(-5, 5));
      if (a == 0.0) continue;
      entries.push_back({j, a});
      value += a * inside[static_cast<std::size_t>(j)];
    }
    const auto room = static_cast<double>(random.between(0, 4));
    p.add_row(value - room, value + room, entries, true);  // nothing is shifted for want of a bound
  }
  return p;
}

struct Parts {
  explicit Parts(const lp::Program& p) : state(p) {
    state.meter.begin(options, state.work);
    (void)state.load_bounds_and_costs();
    state.dual_tolerance = options.tolerances.optimality * state.goal.largest;
    dual.begin();
  }
  lp::SimplexOptions options;
  lp::BasisState state;
  lp::BasisProof proof{state};
  lp::DualSimplex dual{state, proof};
  lp::PrimalSimplex primal{state, proof};
};

// Any basis: some columns basic.
lp::Basis draw_basis(Random& random, const lp::Program& p) {
  lp::Basis basis;
  for (Index j = 0; j < p.num_columns(); ++j)
    basis.columns.push_back(random.chance(0.4)   ? lp::VariableStatus::basic
                            : random.chance(0.5) ? lp::VariableStatus::at_lower
                                                 : lp::VariableStatus::at_upper);
  for (Index i = 0; i < p.num_rows(); ++i)
    basis.rows.push_back(random.chance(0.6) ? lp::VariableStatus::basic
                                            : lp::VariableStatus::at_upper);
  return basis;
}

}  // namespace

TEST_CASE("a basis state's values and reduced costs solve their equations", "[lp][parts]") {
  Random random(71);
  for (int round = 0; round < 200; ++round) {
    const lp::Program p = boxed(random, 7, 5);
    Parts parts(p);
    lp::BasisState& s = parts.state;
    s.set_basis(draw_basis(random, p));
    s.refresh();
    const auto n = p.num_columns(), m = p.num_rows();
    Eigen::MatrixXd all = Eigen::MatrixXd::Zero(m, n + m);
    for (Index i = 0; i < m; ++i) {
      for (std::size_t e = 0; e < p.rows().index(i).size(); ++e)
        all(i, p.rows().index(i)[e]) = p.rows().value(i)[e];
      all(i, n + i) = -1.0;
    }
    // The nonbasic ones stand where the state has them; B x_B = -N x_N, B'y = c_B.
    Eigen::MatrixXd basis(m, m);
    Eigen::VectorXd right = Eigen::VectorXd::Zero(m), cost(m);
    for (Index i = 0; i < m; ++i) {
      const Index k = s.basic[at(i)];
      CHECK(s.row_of[at(k)] == i);
      basis.col(i) = all.col(k);
      cost(i) = k < n ? p.cost(k) : 0.0;
    }
    for (Index k = 0; k < n + m; ++k)
      if (s.place[at(k)] != lp::VariableStatus::basic) right -= all.col(k) * s.x[at(k)];
    const Eigen::VectorXd values = basis.fullPivLu().solve(right);
    const Eigen::VectorXd y = basis.transpose().fullPivLu().solve(cost);
    for (Index i = 0; i < m; ++i) CHECK(s.x[at(s.basic[at(i)])] == Approx(values(i)).margin(1e-9));
    for (Index k = 0; k < n + m; ++k) {
      const double d = (k < n ? p.cost(k) : 0.0) - all.col(k).dot(y);
      CHECK(s.d[at(k)] == Approx(d).margin(1e-9));
    }
    CHECK(s.refine_values() < 1e-12);
  }
}

TEST_CASE("the dual and the primal method alone end at one value, from any basis", "[lp][parts]") {
  Random random(72);
  int dual_steps = 0, primal_steps = 0;
  for (int round = 0; round < 200; ++round) {
    const lp::Program p = boxed(random, 8, 6);
    const lp::Basis start = draw_basis(random, p);
    Parts by_dual(p), by_primal(p);
    by_dual.state.set_basis(start);
    by_dual.state.refresh();
    by_dual.dual.make_dual_feasible();
    CHECK_FALSE(by_dual.state.any_dual_infeasible(by_dual.state.dual_tolerance));
    REQUIRE(by_dual.dual.run(by_dual.options) == Status::optimal);
    CHECK(by_dual.state.primal_feasible(1e-6));
    by_primal.state.set_basis(start);
    by_primal.state.refresh();
    REQUIRE(by_primal.primal.run(by_primal.options) == Status::optimal);
    CHECK(by_primal.state.primal_feasible(1e-6));
    CHECK(by_primal.state.objective() == Approx(by_dual.state.objective()).margin(1e-7));
    dual_steps += static_cast<int>(by_dual.state.meter.spent_pivots());
    primal_steps += static_cast<int>(by_primal.state.meter.spent_pivots());
  }
  CHECK(dual_steps > 200);
  CHECK(primal_steps > 200);
}

TEST_CASE("what a basis proves is below the least value, whatever basis it is", "[lp][parts]") {
  Random random(73);
  int tight = 0;
  for (int round = 0; round < 300; ++round) {
    const lp::Program p = boxed(random, 7, 5);
    lp::Simplex whole(p);
    const lp::Report best = whole.solve();
    REQUIRE(best.status == Status::optimal);
    Parts parts(p);
    if (round % 3 != 0)
      parts.state.set_basis(draw_basis(random, p));
    else
      parts.state.set_basis(whole.basis());
    parts.state.refresh();
    std::vector<Interval> reduced;
    const double quick = parts.proof.quick_bound(&reduced), radius = parts.proof.radius();
    const double sharp = parts.proof.sharp_bound();
    CHECK(reduced.size() == at(p.num_columns()));
    CHECK(quick <= sharp + 2.0 * radius);
    CHECK(sharp <= best.objective + 1e-9 * (1.0 + std::abs(best.objective)));
    tight += sharp >= best.objective - 1e-7 ? 1 : 0;
  }
  CHECK(tight >= 100);  // at least where it was the best basis
}

TEST_CASE("a meter ends a solve by pivots, by work and by hand", "[lp][parts]") {
  lp::SolveMeter meter;
  WorkCounter work;
  lp::SimplexOptions options;
  options.max_pivots = 3;
  options.max_work = 100;
  meter.begin(options, work);
  CHECK_FALSE(meter.over_limit(options, work));
  meter.pivots += 3;
  CHECK(meter.over_limit(options, work));
  meter.begin(options, work);  // counted from here
  CHECK(meter.spent_pivots() == 0);
  CHECK_FALSE(meter.over_limit(options, work));
  work.add(100);
  CHECK(meter.over_limit(options, work));
  meter.begin(options, work);
  const std::atomic<bool> stop = true;
  options.interrupt.stopped = &stop;
  CHECK(meter.over_limit(options, work));
  CHECK_FALSE(meter.exhausted(10));
  meter.pivots += 1'000'000;
  CHECK(meter.exhausted(10));
  CHECK_FALSE(meter.reason.empty());
}
