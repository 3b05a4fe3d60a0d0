// Tiny problems of every awkward kind against what is known of them, with any two parts of the
// search on or off.
#include "support/random_mips.hpp"

#include <map>

#include <catch2/catch.hpp>

#include "support/slow_build.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

TEST_CASE("any two parts of the search can be on or off, and the answers stay", "[mip][random]") {
  constexpr std::int64_t kProblems = kSlowBuild ? 200 : 3000;
  constexpr int kOfEachKind = kSlowBuild ? 1 : 50;
  for (std::size_t a = 0; a < Trials::kParts; ++a)
    for (std::size_t b = a + 1; b < Trials::kParts; ++b) {
      bool seen[2][2] = {};
      for (std::size_t t = 0; t < Trials::kCount; ++t)
        seen[Trials::on(a, t)][Trials::on(b, t)] = true;
      CHECK((seen[0][0] && seen[0][1] && seen[1][0] && seen[1][1]));
    }
  Random random(46);
  int open = 0;
  std::map<std::string_view, std::array<int, 2>> outcomes;  // of each kind: with a plan, without
  for (std::int64_t k = 0; k < kProblems; ++k) {
    const TinyMip t = draw_tiny(random, k);
    ++outcomes[t.kind][t.outcome == Outcome::infeasible ? 1 : 0];
    for (std::size_t trial = 0; trial < Trials::kCount; ++trial) {
      CAPTURE(k, t.kind, trial);
      const auto seed = static_cast<std::uint64_t>(random.between(1, 1000));
      const Said said = asked_about(t, Trials::options(trial, seed));
      REQUIRE(said.wrong == "");
      open += said.open ? 1 : 0;
    }
  }
  CHECK(open < kProblems / 150);  // of eight times as many searches
  REQUIRE(outcomes.size() == 11);
  for (const auto& [kind, count] : outcomes) {
    CAPTURE(kind);
    if (kind == "a planted contradiction")
      CHECK(count[0] == 0);
    else
      CHECK(count[0] >= kOfEachKind);
  }
}
