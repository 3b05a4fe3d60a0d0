// The methods on the festival's models: each lesson of the demo really shows.
#include <algorithm>

#include <catch2/catch.hpp>

#include "kiteknot/kiteknot.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

namespace {

Model demo(const std::string& name) {
  return read_model(std::string(KITEKNOT_DEMO_DIR) + "/" + name).value();
}

MethodAnswer only(const Model& m, const std::string& name) {
  return method(name).run(m, {}, nullptr)[0];
}

}  // namespace

TEST_CASE("every method is found by name and says what it does", "[methods]") {
  std::vector<std::string> names;
  for (const auto& m : all_methods()) {
    names.push_back(m->name());
    CHECK_FALSE(m->about().empty());
  }
  CHECK(names == std::vector<std::string>{"exact",
                                          "branching alone",
                                          "relaxed",
                                          "rounded",
                                          "greedy",
                                          "local",
                                          "local from many starts",
                                          "greedy by worth",
                                          "greedy by prices",
                                          "greedy by regret",
                                          "climb",
                                          "many climbs",
                                          "tabu",
                                          "annealing",
                                          "breeding",
                                          "ruin",
                                          "violations",
                                          "multipliers",
                                          "cover greedy",
                                          "cover prices",
                                          "first fit",
                                          "best fit",
                                          "add places",
                                          "drop places",
                                          "swap places",
                                          "dual ascent",
                                          "job regret",
                                          "job exchange",
                                          "sack worth",
                                          "sack refill",
                                          "choice slopes",
                                          "choice program",
                                          "pair greedy",
                                          "pair rings",
                                          "least tree",
                                          "least cut"});
  // A first look is no contest of everything that takes the model.
  CHECK(method_names(demo("programme.knot")) ==
        std::vector<std::string>{"exact", "relaxed", "rounded", "greedy", "climb", "tabu",
                                 "annealing", "ruin"});
  CHECK(method_names(demo("programme.knot"), true).size() == 16);
  CHECK_THROWS_WITH(method("gredy"), Catch::Contains("nearest is 'greedy'"));
}

TEST_CASE("programme: the relaxation is fractional, its rounding breaks a rule, greedy is not best",
          "[methods]") {
  const Model m = demo("programme.knot");
  const Rational best = *only(m, "exact").report->goal;
  CHECK(best == Rational(492));
  CHECK(*only(m, "relaxed").report->goal > best);
  const std::vector<MethodAnswer> rounded = method("rounded").run(m, {}, nullptr);
  REQUIRE(rounded.size() == 4);
  CHECK(rounded[0].label == "rounded to nearest");
  CHECK_FALSE(rounded[0].report->feasible);
  CHECK(rounded[1].report->feasible);
  CHECK(*rounded[1].report->goal < best);
  CHECK_FALSE(rounded[2].report->feasible);
  const MethodAnswer greedy = only(m, "greedy");
  CHECK(greedy.report->feasible);
  CHECK(*greedy.report->goal < best);
  CHECK(greedy.scarce == "crew");
}

TEST_CASE("crate: greedy by ratio leaves room that the best packing uses", "[methods]") {
  const Model m = demo("crate.knot");
  const MethodAnswer greedy = only(m, "greedy");
  CHECK(greedy.report->feasible);
  CHECK(*greedy.report->goal < *only(m, "exact").report->goal);
  for (std::size_t k = 1; k < greedy.picks.size(); ++k)
    CHECK(greedy.picks[k].ratio <= greedy.picks[k - 1].ratio);
  Rational worth = 0;
  for (const GreedyPick& p : greedy.picks) worth += p.worth;
  CHECK(worth == *greedy.report->goal);
  CHECK(greedy.picks.back().used <= greedy.scarce_limit);
}

TEST_CASE("stewards: rounding is infeasible one way and dearer the other", "[methods]") {
  const Model m = demo("stewards.knot");
  const Rational best = *only(m, "exact").report->goal;
  const std::vector<MethodAnswer> rounded = method("rounded").run(m, {}, nullptr);
  CHECK_FALSE(rounded[0].report->feasible);
  CHECK_FALSE(rounded[1].report->feasible);
  CHECK(rounded[2].report->feasible);
  CHECK(*rounded[2].report->goal > best);
  const MethodAnswer greedy = only(m, "greedy");
  CHECK(greedy.by_needs);
  CHECK(greedy.report->feasible);
  CHECK(*greedy.report->goal > best);
}

TEST_CASE("greedy says so when it ends in a dead end or the goal has no end", "[methods]") {
  Model m{"Dead end"};
  const Decisions x = m.binary("x"), y = m.binary("y");
  m.rule("need", 3 * Expression(x) + 2 * Expression(y) >= 4);
  m.rule("cap", Expression(x) + Expression(y) <= 1);
  m.minimize("cost", Expression(x) + Expression(y));
  const MethodAnswer stuck = only(m, "greedy");
  CHECK_FALSE(stuck.report->feasible);
  Model endless{"Endless"};
  endless.maximize("gain", Expression(endless.integer("z", {}, from(0))));
  CHECK(only(endless, "greedy").note.find("no end along z") != std::string::npos);
}

TEST_CASE("rounding an integral relaxation changes nothing", "[methods]") {
  Model m{"Whole"};
  const Decisions x = m.integer("x", {}, between(0, 3));
  m.maximize("gain", Expression(x));
  for (const MethodAnswer& a : method("rounded").run(m, {}, nullptr)) {
    CHECK(a.report->feasible);
    CHECK(*a.report->goal == Rational(3));
  }
  CHECK(only(m, "relaxed").note == "its decisions came out whole by themselves");
}

TEST_CASE("relaxed means one thing: what holds under a condition asks nothing", "[methods]") {
  // Vans without a limit: that they are needed holds under a condition of the search's own.
  const Model m = test::model_of(
      "decide send integer 0 .. inf\ndecide late integer 0 .. inf\ndecide van binary\n"
      "minimize cost: 3 * send + 40 * van + 9 * late\nrule need: send + late >= 12\n"
      "rule tied: send >= 1 implies van\n");
  const Result r = solve(m);
  REQUIRE(r.relaxed.value);
  const Comparison c = compare(r, {"relaxed", "rounded"});
  CHECK(c.answers[0].report->goal->to_double() == Approx(*r.relaxed.value));
  const Result relaxed = solve_relaxed(m);
  CHECK(relaxed.goals[0].value->to_double() == Approx(*r.relaxed.value));
  CHECK(*r.relaxed.value < r.goal().to_double());
  const auto round = roundings(r);
  REQUIRE(!round.empty());
  CHECK(round[0].plan->values() == c.answers[1].plan->values());
}
