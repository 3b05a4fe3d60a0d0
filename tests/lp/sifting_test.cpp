// Starts of wide and long programs: the simplex methods end at the same goal from them, with hardly
// a pivot.
#include "lp/sifting.hpp"

#include <algorithm>
#include <atomic>
#include <set>

#include <catch2/catch.hpp>

#include "base/infinity.hpp"
#include "base/random.hpp"

using namespace kiteknot;
using namespace kiteknot::lp;

namespace {

enum class Rows { covers, partitions, ranges };

// `rows` needs by `columns` sets of three to six; a partition is planted. Lower ends other than 0.
Program wide(Rows kind, Index rows, Index columns, std::uint64_t seed) {
  Random random(seed);
  Program p;
  for (Index i = 0; i < rows; ++i)
    (void)p.add_row(kind == Rows::ranges ? -8.0 : 1.0,
                    kind == Rows::covers ? kInf : (kind == Rows::ranges ? 2.0 : 1.0), {});
  for (Index j = 0; j < columns; ++j) {
    std::set<Index> in;
    if (j < rows / 4)
      for (Index k = 0; k < 4; ++k) in.insert(4 * j + k);
    else
      while (static_cast<std::int64_t>(in.size()) < 3 + j % 4)
        in.insert(static_cast<Index>(random.between(0, rows - 1)));
    std::vector<Entry> entries;
    for (const Index i : in)
      entries.push_back({i, kind == Rows::ranges && random.chance(0.5) ? -1.0 : 1.0});
    const double low = kind == Rows::ranges ? static_cast<double>(random.between(-1, 0)) : 0.0;
    const auto cost = static_cast<double>(
        kind == Rows::ranges ? random.between(-1, 20) : random.between(10, 40) * (3 + j % 4));
    (void)p.add_column(cost, low, kind == Rows::covers ? kInf : low + 1.0, entries);
  }
  return p;
}

// Amounts from sites to customers, each no more than its site's opening.
Program long_rows(Index sites, Index customers, std::uint64_t seed) {
  Random random(seed);
  Program p;
  for (Index i = 0; i < sites; ++i)
    (void)p.add_column(static_cast<double>(random.between(200, 600)), 0.0, 1.0);
  for (Index k = 0; k < customers; ++k) {
    std::vector<Entry> served;
    for (Index i = 0; i < sites; ++i) {
      const Index x = p.add_column(static_cast<double>(random.between(1, 99)), 0.0, kInf);
      served.push_back({x, 1.0});
      (void)p.add_row(-kInf, 0.0, {{x, 1.0}, {i, -1.0}});
    }
    (void)p.add_row(1.0, 1.0, served);
  }
  return p;
}

void check_start(const Program& program, std::span<const Index> wanted = {}) {
  const Sifted sifted = sift(program, {wanted});
  REQUIRE_FALSE(sifted.basis.empty());
  CHECK(sifted.pivots > 0);
  CHECK(sifted.work > 0);
  Simplex direct(program), started(program);
  const Report expected = direct.solve();
  started.set_basis(sifted.basis);
  const Report report = started.solve();
  REQUIRE(report.status == Status::optimal);
  REQUIRE(expected.status == Status::optimal);
  CHECK(report.objective == Approx(expected.objective).epsilon(1e-9));
  CHECK(report.pivots <= expected.pivots / 20);
}

}  // namespace

TEST_CASE("wide programs start from a few of their columns", "[lp][sifting]") {
  for (const std::uint64_t seed : {1U, 2U, 3U}) {
    CAPTURE(seed);
    check_start(wide(Rows::covers, 120, 5000, seed));
    check_start(wide(Rows::partitions, 120, 5000, seed));  // the first columns do not suffice
    check_start(wide(Rows::ranges, 120, 5000, seed));      // lower ends below 0
  }
  const std::vector<Index> planted = {0, 1, 2, 3, 4};
  check_start(wide(Rows::partitions, 120, 5000, 4), planted);
}

TEST_CASE("long programs start without most of their short rows", "[lp][sifting]") {
  for (const std::uint64_t seed : {1U, 2U}) check_start(long_rows(60, 90, seed));
}

TEST_CASE("what cannot be met, or is of another shape, gets no start", "[lp][sifting]") {
  Program none = wide(Rows::covers, 120, 5000, 1);
  std::vector<Entry> all;
  for (Index j = 0; j < 5000; ++j) all.push_back({j, 1.0});
  (void)none.add_row(-kInf, 10.0, all);  // ten sets of six for 120 needs
  const Sifted sifted = sift(none, {});
  Simplex simplex(none);
  if (!sifted.basis.empty()) simplex.set_basis(sifted.basis);
  CHECK(simplex.solve().status == Status::infeasible);
  CHECK(sift(wide(Rows::covers, 120, 400, 1), {}).basis.empty());
  CHECK(sift(Program(), {}).basis.empty());
}

TEST_CASE("sifting stops when it is asked to", "[lp][sifting]") {
  const std::atomic<bool> stop = true;
  SiftingOptions options;
  options.interrupt.stopped = &stop;
  CHECK(sift(wide(Rows::covers, 120, 5000, 1), options).basis.empty());
  CHECK(sift(long_rows(60, 90, 1), options).basis.empty());
}
