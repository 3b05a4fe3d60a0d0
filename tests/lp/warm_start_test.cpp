// A solve that starts from the last one's end, from a snapshot or from another basis ends where a
// solve from nothing does, whatever was changed on the way.
#include <catch2/catch.hpp>

#include "base/at.hpp"
#include "lp/simplex.hpp"
#include "support/random_programs.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using lp::Index;
using lp::Status;

namespace {

// Other bounds for some columns and limits for some rows, as a search sets them: mostly tighter,
// now and then back to what they were.
void change_some(Random& random, const lp::Program& stated, lp::Simplex& s) {
  for (std::int64_t k = random.between(0, 2); k >= 0; --k) {
    const auto j = static_cast<Index>(random.between(0, stated.num_columns() - 1));
    double low = stated.lower(j), high = stated.upper(j);
    if (random.chance(0.7)) {
      if (std::isinf(low)) low = -5.0;
      low += static_cast<double>(random.between(0, 2));
      high = random.chance(0.4) ? low : std::max(low, high);
    }
    s.set_bounds(j, low, high);
  }
  if (stated.num_rows() == 0 || random.chance(0.6)) return;
  const auto i = static_cast<Index>(random.between(0, stated.num_rows() - 1));
  double low = stated.row_lower(i), high = stated.row_upper(i);
  if (random.chance(0.5) && std::isfinite(low)) low -= 1.0;
  if (random.chance(0.5) && std::isfinite(high)) high += 2.0;
  s.set_row_limits(i, low, high);
}

}  // namespace

TEST_CASE("a warm solve ends where a cold one does", "[lp][warm]") {
  Random random(7);
  int optimal = 0, infeasible = 0, restored = 0;
  for (int round = 0; round < 250; ++round) {
    const lp::Program stated = draw_program(random, {9, 7, 0.6, round % 2 == 0 ? 0.0 : 0.3, 0.2});
    lp::Simplex s(stated);
    std::optional<lp::BasisSnapshot> kept;
    std::optional<lp::Basis> basis;
    for (int step = 0; step < 25; ++step) {
      change_some(random, stated, s);
      if (random.chance(0.1))
        s.set_cost(static_cast<Index>(random.between(0, stated.num_columns() - 1)),
                   static_cast<double>(random.between(-6, 6)));
      if (kept && random.chance(0.4)) {
        s.restore(*kept);
        ++restored;
      } else if (basis && random.chance(0.2)) {
        s.set_basis(*basis);
      }
      lp::SimplexOptions options;
      options.quick = random.chance(0.5);
      if (random.chance(0.2)) {  // a look that is broken off
        lp::SimplexOptions look;
        look.max_pivots = random.between(0, 3);
        look.rough = true;
        (void)s.solve(look);
        change_some(random, stated, s);
      }
      const lp::Report warm = s.solve(options);
      lp::Simplex fresh(s.program());
      const lp::Report cold = fresh.solve();
      INFO("round " << round << " step " << step);
      REQUIRE(warm.status == cold.status);
      optimal += warm.status == Status::optimal ? 1 : 0;
      infeasible += warm.status == Status::infeasible ? 1 : 0;
      if (warm.status != Status::optimal) continue;
      CHECK(warm.objective == Approx(cold.objective).margin(1e-7));
      CHECK(s.bound() <= cold.objective + 1e-6);
      for (Index j = 0; j < stated.num_columns(); ++j) {
        CHECK(s.column_values()[at(j)] >= s.program().lower(j) - 1e-6);
        CHECK(s.column_values()[at(j)] <= s.program().upper(j) + 1e-6);
      }
      if (random.chance(0.3)) kept = s.save();
      if (random.chance(0.3)) basis = s.basis();
    }
  }
  CHECK(optimal > 1000);
  CHECK(infeasible > 200);
  CHECK(restored > 300);
}

TEST_CASE("rows that are stated anew in their place: the next solve is that of a new object",
          "[lp][warm]") {
  Random random(52);
  int optimal = 0;
  for (int round = 0; round < 150; ++round) {
    const lp::Program stated = draw_program(random, {9, 7, 0.6, 0.0, 0.2});
    lp::Simplex s(stated);
    (void)s.solve();
    for (int step = 0; step < 6 && stated.num_rows() > 0; ++step) {
      const auto row = static_cast<Index>(random.between(0, stated.num_rows() - 1));
      std::vector<lp::Entry> entries;
      for (Index j = 0; j < stated.num_columns(); ++j)
        if (random.chance(0.4))
          entries.push_back(
              {j, static_cast<double>(random.between(1, 5)) * (random.chance(0.5) ? 1.0 : -1.0)});
      const auto low = static_cast<double>(random.between(-9, 3));
      s.set_row(row, random.chance(0.3) ? -kInf : low,
                random.chance(0.3) ? kInf : low + static_cast<double>(random.between(0, 9)),
                entries);
      if (random.chance(0.3)) s.set_basis(s.basis());
      const lp::Report warm = s.solve();
      lp::Simplex fresh(s.program());
      const lp::Report cold = fresh.solve();
      REQUIRE(warm.status == cold.status);
      if (warm.status != Status::optimal) continue;
      ++optimal;
      CHECK(warm.objective == Approx(cold.objective).margin(1e-7));
      CHECK(s.bound() <= cold.objective + 1e-6);
    }
  }
  CHECK(optimal > 150);
}
