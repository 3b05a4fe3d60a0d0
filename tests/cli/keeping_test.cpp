// Nothing is lost: answers beside which something fails, plans of changed models, files in the way.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "support/tool.hpp"

using namespace tool;

TEST_CASE("what is told besides an answer never costs it", "[cli][solve]") {
  const std::string model =
      file("reals.knot",
           "decide x real 0 or 5 .. 40\ndecide y real 0 or 3 .. 40\nminimize cost: 5 * x + 6 * y\n"
           "rule r: x + y >= 4\n");
  const Ran r = run("solve " + model + " --plan " + (scratch() / "reals.csv").string());
  CHECK(r.code == 0);
  CHECK(has(r.out, "cost is 24"));
  CHECK(!has(r.out, "left out"));
  CHECK(r.err.empty());
  CHECK(has(slurp(scratch() / "reals.csv"), "y,4"));
  // Asked for, it is told that it cannot be had, before any work.
  const Ran asked = run("solve " + model + " --plans 3");
  CHECK(asked.code == 2);
  CHECK(has(asked.err, "no decision is whole"));
}
