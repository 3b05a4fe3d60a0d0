// The simplex against exact enumeration of all vertices.
#include "support/vertex_oracle.hpp"

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "lp/exact_basis.hpp"
#include "lp/proof.hpp"
#include "lp/ray.hpp"
#include "lp/simplex.hpp"
#include "support/random_programs.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

// One verdict, held against the truth; counts come back so that no kind goes untested.
void compare(lp::Simplex& simplex, const Truth& truth, lp::Path path = lp::Path::choose) {
  lp::SimplexOptions options;
  options.path = path;
  const lp::Report report = simplex.solve(options);
  INFO("status " << static_cast<int>(report.status) << " " << report.reason);
  switch (truth.kind) {
    case Truth::Kind::infeasible: {
      REQUIRE(report.status == lp::Status::infeasible);
      // The proof may come from the exact fallback, which leaves no multipliers that hold by
      // rounding.
      break;
    }
    case Truth::Kind::unbounded:
      REQUIRE(report.status == lp::Status::unbounded);
      REQUIRE(simplex.ray().size() == static_cast<std::size_t>(simplex.program().num_columns()));
      CHECK(lp::proves_unbounded(simplex.program(), simplex.ray()));
      break;
    case Truth::Kind::optimal: {
      REQUIRE(report.status == lp::Status::optimal);
      const double value = truth.value.to_double();
      CHECK(std::abs(report.objective - value) <= 1e-7 * (1.0 + std::abs(value)));
      const double bound = simplex.bound();
      CHECK((std::isinf(bound) || Rational::exactly(bound) <= truth.value));
      const auto exact = lp::exact_bound(simplex.program(), simplex.basis());
      REQUIRE(exact);
      CHECK(*exact == truth.value);
      break;
    }
  }
}

}  // namespace

TEST_CASE("every status and value agrees with exact vertex enumeration", "[lp][oracle]") {
  Random random(2026);
  int counts[3] = {0, 0, 0};
  for (int round = 0; round < 10000; ++round) {
    CAPTURE(round);
    const lp::Program p = draw_program(random, {.columns = 4, .rows = 4});
    const Truth truth = truth_of(p);
    lp::Simplex simplex(p);
    compare(simplex, truth);
    lp::Simplex primal(p);
    compare(primal, truth, lp::Path::primal);
    lp::Simplex triangle(p);
    triangle.start_from_triangle();
    compare(triangle, truth, round % 2 == 0 ? lp::Path::dual : lp::Path::primal);
    ++counts[static_cast<int>(truth.kind)];
  }
  for (const int count : counts) CHECK(count > 100);
}

TEST_CASE("warm solves after changed bounds, costs, rows and columns agree with the oracle",
          "[lp][oracle]") {
  Random random(77);
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    lp::Simplex simplex(draw_program(random, {.columns = 3, .rows = 3, .infinite = 0.15}));
    for (int step = 0; step < 6; ++step) {
      CAPTURE(step);
      const auto n = simplex.program().num_columns(), m = simplex.program().num_rows();
      const auto pick = [&](linalg::Index count) {
        return static_cast<linalg::Index>(random.between(0, count - 1));
      };
      switch (random.between(0, 4)) {
        case 0: {
          const auto low = static_cast<double>(random.between(-4, 3));
          simplex.set_bounds(pick(n), low, low + static_cast<double>(random.between(0, 4)));
          break;
        }
        case 1:
          simplex.set_cost(pick(n), static_cast<double>(random.between(-6, 6)));
          break;
        case 2: {
          if (m >= 4) break;
          std::vector<lp::Entry> entries;
          for (linalg::Index j = 0; j < n; ++j)
            entries.push_back({j, static_cast<double>(random.between(-4, 4))});
          simplex.add_row(-kInf, static_cast<double>(random.between(-2, 9)), entries, true);
          break;
        }
        case 3: {
          if (m == 0) break;
          std::vector<char> gone(static_cast<std::size_t>(m), 0);
          gone[static_cast<std::size_t>(pick(m))] = 1;
          simplex.remove_rows(gone);
          break;
        }
        default: {
          if (n >= 4) break;
          std::vector<lp::Entry> entries;
          for (linalg::Index i = 0; i < m; ++i)
            entries.push_back({i, static_cast<double>(random.between(-4, 4))});
          simplex.add_column(static_cast<double>(random.between(-6, 6)), 0.0, 3.0, entries);
        }
      }
      compare(simplex, truth_of(simplex.program()));
    }
  }
}
