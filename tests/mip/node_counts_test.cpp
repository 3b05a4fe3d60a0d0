// How many nodes and pivots a fixed set of problems takes, against a table in the repository: a
// change of search behaviour is seen, and is to be meant. KITEKNOT_WRITE_COUNTS=1 writes the table
// anew.

#include <cstdlib>
#include <fstream>
#include <sstream>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

std::string counted_line(const std::string& name, const mip::Problem& p,
                         mip::SearchOptions options = {}) {
  options.structures = false;  // the search is what is counted
  const mip::SearchResult r = mip::Search(p, exact_judge(p), options).run();
  REQUIRE(r.outcome == Outcome::optimal);
  return fmt::format("{:<28} nodes {:>6}  pivots {:>7}  goal {}\n", name, r.counts.nodes,
                     r.counts.pivots, r.goal.text());
}

}  // namespace

TEST_CASE("a fixed set of problems takes as many nodes and pivots as the table says",
          "[mip][counts]") {
  std::string now;
  for (const std::uint64_t seed : {1U, 2U, 3U}) {
    const auto add = [&](const std::string& family, const mip::Problem& p) {
      now += counted_line(fmt::format("{}, seed {}", family, seed), p);
    };
    add("knapsacks 5 x 30", many_knapsacks(5, 30, seed));
    add("knapsacks 10 x 25", many_knapsacks(10, 25, seed));
    add("assignment 5 x 20", assignment(5, 20, seed));
    add("cover 50 x 120", cover(50, 120, 0.06, seed));
    add("lots 2 x 8", lots(2, 8, seed));
    add("long row 200", long_row(200, seed));
  }
  // Without its helpers the same problems end at the same goals.
  mip::SearchOptions bare;
  bare.finding.core = bare.node.enumeration = bare.presolving.probing = bare.node.strong = false;
  bare.cuts = mip::CutSwitches::none();
  now += counted_line("bare knapsacks 5 x 25", many_knapsacks(5, 25, 1), bare);
  now += counted_line("bare assignment 5 x 15", assignment(5, 15, 1), bare);
  now += counted_line("bare lots 2 x 6", lots(2, 6, 1), bare);

  if (std::getenv("KITEKNOT_WRITE_COUNTS") != nullptr) {
    std::ofstream(KITEKNOT_COUNTS_FILE) << now;
    return;
  }
  std::ifstream file(KITEKNOT_COUNTS_FILE);
  std::stringstream table;
  table << file.rdbuf();
  CHECK(now == table.str());
}
