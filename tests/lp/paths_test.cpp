// Larger programs by every path and start: one optimum, whatever the way.
#include <catch2/catch.hpp>

#include "lp/proof.hpp"
#include "lp/simplex.hpp"
#include "support/random_programs.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using lp::Index;
using lp::Status;

namespace {

// A program with a known plan inside, all kinds of bounds and rows, so that an optimum is likely.
lp::Program large(Random& random) {
  const auto n = static_cast<Index>(random.between(40, 90)),
             m = static_cast<Index>(random.between(20, 60));
  lp::Program p;
  std::vector<double> inside;
  for (Index j = 0; j < n; ++j) {
    inside.push_back(static_cast<double>(random.between(-5, 9)));
    const double low =
        random.chance(0.15) ? -kInf : inside.back() - static_cast<double>(random.between(0, 4));
    const double high =
        random.chance(0.4) ? kInf : inside.back() + static_cast<double>(random.between(0, 6));
    p.add_column(static_cast<double>(random.between(-3, 9)), low, high);
  }
  for (Index i = 0; i < m; ++i) {
    std::vector<lp::Entry> entries;
    double activity = 0.0;
    for (Index j = 0; j < n; ++j)
      if (random.chance(0.08)) {
        entries.push_back(
            {j, static_cast<double>(random.between(1, 6) * (random.chance(0.3) ? -1 : 1))});
        activity += entries.back().value * inside[static_cast<std::size_t>(j)];
      }
    const auto kind = random.between(0, 3);
    const auto room = static_cast<double>(random.between(0, 12));
    p.add_row(kind == 1 ? -kInf : activity - (kind == 0 ? 0.0 : room),
              kind == 2 ? kInf : activity + (kind == 0 ? 0.0 : room), entries, true);
  }
  return p;
}

}  // namespace

TEST_CASE("every path and start ends at one optimum", "[lp][paths]") {
  Random random(616);
  int optimal = 0, unbounded = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const lp::Program p = large(random);
    lp::Simplex reference(p);
    const lp::Report first = reference.solve();
    REQUIRE((first.status == Status::optimal || first.status == Status::unbounded));
    (first.status == Status::optimal ? optimal : unbounded) += 1;
    for (const lp::Path path : {lp::Path::dual, lp::Path::primal})
      for (const bool triangle : {false, true}) {
        lp::Simplex s(p);
        if (triangle) s.start_from_triangle();
        lp::SimplexOptions options;
        options.path = path;
        options.max_pivots = 20000;
        const lp::Report report = s.solve(options);
        REQUIRE(report.status == first.status);
        if (first.status == Status::optimal)
          CHECK(report.objective == Approx(first.objective).epsilon(1e-9).margin(1e-7));
      }
  }
  CHECK(optimal > 40);
  CHECK(unbounded > 10);
}

TEST_CASE("a goal turned round and back ends where it began", "[lp][paths]") {
  Random random(617);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    lp::Simplex s(large(random));
    const lp::Report first = s.solve();
    if (first.status != Status::optimal) continue;
    std::vector<double> cost;
    for (Index j = 0; j < s.program().num_columns(); ++j) cost.push_back(s.program().cost(j));
    for (Index j = 0; j < s.program().num_columns(); ++j)
      s.set_cost(j, -cost[static_cast<std::size_t>(j)]);
    (void)s.solve();
    for (Index j = 0; j < s.program().num_columns(); ++j)
      s.set_cost(j, cost[static_cast<std::size_t>(j)]);
    const lp::Report again = s.solve();
    REQUIRE(again.status == Status::optimal);
    CHECK(again.objective == Approx(first.objective).epsilon(1e-9).margin(1e-7));
    CHECK(s.bound() <= again.objective + 1e-6 * (1.0 + std::abs(again.objective)));
  }
}

TEST_CASE("parts are measured when asked for, and add up to less than the whole", "[lp][paths]") {
  Random random(618);
  lp::Simplex s(large(random));
  lp::Parts parts;
  lp::SimplexOptions options;
  options.parts = &parts;
  const Stopwatch clock;
  (void)s.solve(options);
  const double sum =
      parts.pricing + parts.ftran + parts.btran + parts.ratio_test + parts.update + parts.factor;
  CHECK(sum > 0.0);
  CHECK(sum <= clock.seconds());
}
