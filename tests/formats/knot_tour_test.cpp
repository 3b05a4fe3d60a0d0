// Tours as they are stated in a model file: what is said is what the rule asks, and what is wrong
// is told where it stands.

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

const char* const kStops =
    "table stops key stop rows\n  stop,x,y,rolls\n  Gate,0,0,0\n  Pier,3,1,4\n  Mast,5,5,3\n"
    "  Cove,1,6,5\n  Steps,6,2,2\n  Barn,2,3,3\n"
    "table legs pairs of stops\ncolumn legs.km = distance(a, b, plane)\n";

Reading<Model> read(const std::string& decide, const std::string& rest,
                    const std::string& scenario = "") {
  return parse_knot("model \"Round\"\n" + std::string(kStops) + decide + "\n" + rest + "\n",
                    "round.knot", "", scenario);
}
Model model(const std::string& rule, const std::string& decide = "decide go[l in legs] binary") {
  return read(decide, "minimize km: total(l.km * go[l] over l in legs)\n" + rule).value();
}
std::string complaint(const std::string& rule,
                      const std::string& decide = "decide go[l in legs] binary") {
  const Reading<Model> r = read(decide, rule);
  return r.ok() ? "" : r.notes().items().front().text();
}
bool has(const std::string& text, const std::string& part) {
  return text.find(part) != std::string::npos;
}

}  // namespace

TEST_CASE("a tour in a model file is solved, told and switched", "[knot][tour]") {
  const Model m = model("rule loop: go forms tour over stops from \"Gate\"");
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(*r.goals[0].value == Rational(20377769) / Rational(1000000));
  const std::string page = answer_page(r);
  CHECK(has(page, "loop   6 stops   Gate, Pier, Steps, Mast, Cove, Barn, and back"));
  CHECK(has(show_page(m), "loop   go forms tour over stops from Gate"));
  Model off = m;
  off.without("loop");
  CHECK(solve(off).goals[0].value->is_zero());
  CHECK_THROWS_WITH(mps_text(m), Catch::Contains("loop asks for a tour"));
  CHECK_NOTHROW(mps_text(off));
  CHECK_THROWS_WITH(off.or_pay("loop", 3), Catch::Contains("cannot be missed at a price"));
  // The same as stops alone have it.
  const ModelTour tour = tour_of(m);
  CHECK(tour.nothing_else);
  const TourAnswer found = find_tour(tour.stops);
  CHECK(found.length == *r.goals[0].value);
  CHECK(*check(m, plan_of(m, found)).goal == found.length);
}

TEST_CASE("a plan that is no tour is told what it is", "[knot][tour]") {
  const Model m = model("rule loop: go forms tour over stops from \"Gate\"");
  const auto told = [&](const std::vector<std::pair<const char*, const char*>>& legs) {
    Plan plan(m);
    for (const auto& [a, b] : legs) plan.set(m.decision(fmt::format("go[{}, {}]", a, b)), 1);
    const PlanReport report = check(m, plan);
    CHECK_FALSE(report.feasible);
    return check_page(m, plan, report, "plan.csv");
  };
  CHECK(has(told({{"Gate", "Pier"},
                  {"Pier", "Mast"},
                  {"Gate", "Mast"},
                  {"Cove", "Steps"},
                  {"Steps", "Barn"},
                  {"Cove", "Barn"}}),
            "2 loops in place of one tour: Gate, Pier and Mast; Cove, Steps and Barn"));
  const std::string open = told({{"Gate", "Pier"}, {"Pier", "Mast"}});
  CHECK(has(open, "stop Gate has one leg only"));
  CHECK(has(open, "stop Cove has no leg"));
}

TEST_CASE("stops left out, several trips and orders are stated in words", "[knot][tour]") {
  const Result some =
      solve(model("rule loop: go forms tour over stops visiting see from \"Gate\"\n"
                  "rule enough: total(s.rolls * see[s] over s in stops) >= 9",
                  "decide go[l in legs] binary\ndecide see[s in stops] binary"));
  REQUIRE(some.outcome == Outcome::optimal);
  CHECK(has(answer_page(some), "Gate, "));
  const Model vans = model(
      "number room = 8\nrule loop: go forms at most 3 tours from \"Gate\" over stops carrying "
      "rolls "
      "at most room",
      "decide go[l in legs] integer 0 .. 2");
  const Result three = solve(vans);
  CHECK(has(answer_page(three), "8 of 8   Gate, Steps, Mast, Barn, and back"));
  CHECK_FALSE(tour_of(vans).nothing_else);
  const TourAnswer trips = tour_of(vans, *three.plan, three.outcome);
  CHECK(trips.trips.size() == 3);
  CHECK(trips.outcome == Outcome::optimal);
  CHECK(trips.length == *three.goals[0].value);
  Model roomy = vans;
  roomy.set("room", 17);
  CHECK(solve(roomy).goals[0].value->to_double() == Approx(20.377769));
  const Result ordered =
      solve(model("rule loop: go forms tour over stops from \"Gate\" with \"Barn\" ahead of "
                  "\"Pier\", \"Steps\" "
                  "ahead of \"Mast\""));
  REQUIRE(ordered.outcome == Outcome::optimal);
  CHECK(ordered.goals[0].value->to_double() > 20.377769);
}

TEST_CASE("a clash with a tour tells which stop it is about", "[knot][tour]") {
  const auto because = [](const Model& m) { return explanation_page(m, explain(m)); };
  CHECK(has(because(model("rule loop: go forms tour over stops from \"Gate\"\n"
                          "rule shut: total(go[l] over l in legs where l.a = \"Pier\" or l.b = "
                          "\"Pier\") <= 1")),
            "stop Pier can have only 1 leg, and needs 2"));
  CHECK(has(because(model("rule loop: go forms at most 2 tours from \"Gate\" over stops carrying "
                          "rolls at most 8",
                          "decide go[l in legs] integer 0 .. 2")),
            "17 have to be carried in all, and 2 tours carry at most 16"));
  const std::string links =
      "table links key from in stops, to in stops rows\n  from,to\n  Gate,Pier\n  Pier,Mast\n"
      "  Mast,Cove\n  Cove,Barn\n  Barn,Gate\n  Barn,Steps\n";
  const Reading<Model> dead =
      read(links + "decide go[l in links] binary",
           "rule loop: go forms tour over stops\nminimize n: total(go[l] over l in links)");
  REQUIRE(dead.ok());
  REQUIRE(dead.notes().items().size() == 1);
  CHECK(has(dead.notes().items()[0].text(), "no tour can visit Steps, which has no link from it"));
  CHECK(has(because(dead.value()), "stop Steps has no link from it"));
  const Reading<Model> order =
      read(links + "  Steps,Gate\n  Mast,Steps\n" + "decide go[l in links] binary",
           "rule loop: go forms tour over stops from \"Gate\" with \"Cove\" ahead of \"Mast\"");
  REQUIRE(order.ok());
  const std::string page = because(order.value());
  CHECK((has(page, "no plan meets all rules")));
}

TEST_CASE("tours that cannot be meant are refused where they stand", "[knot][tour]") {
  CHECK(has(complaint("rule loop: go forms tour over stop"), "nearest is 'stops'"));
  CHECK(has(complaint("rule loop: gone forms tour over stops"), "round.knot:13:12"));
  CHECK(has(complaint("rule loop: go forms tour"), "'over' and the table of stops"));
  CHECK(has(complaint("rule loop: go forms tour over stops from \"Gat\""), "nearest is 'Gate'"));
  CHECK(has(complaint("rule loop: go forms tours over stops"), "'tour', or 'at most N tours'"));
  CHECK(has(complaint("rule loop: go forms tour over stops over stops"), "said twice"));
  CHECK(has(complaint("rule loop: go forms tour over stops or pay 3 each"),
            "cannot be missed at a price"));
  CHECK(has(complaint("rule loop[s in stops]: go forms tour over stops"), "its name has no rows"));
  CHECK(has(complaint("rule loop: go forms at most 2 tours over stops"), "from \"...\""));
  CHECK(has(complaint("rule loop: go forms at most 2 tours over stops from \"Gate\" carrying km at "
                      "most 3"),
            "no column"));
  CHECK(has(complaint("rule loop: go forms tour over stops with \"Pier\" ahead of \"Mast\""),
            "needs the stop that the tour starts at"));
  CHECK(has(complaint("rule loop: go forms tour over stops from \"Gate\" with \"Pier\" ahead of "
                      "\"Gate\""),
            "nothing is ahead of it"));
  CHECK(has(complaint("rule loop: go forms tour over stops", "decide go[l in legs] real 0 .. 1"),
            "not binary"));
  CHECK(has(complaint("rule loop: go forms tour over stops", "decide go[s in stops] binary"),
            "not indexed by pairs"));
  CHECK(has(complaint("rule loop: go forms tour over stops visiting go"), "not indexed by stops"));
}

TEST_CASE("distances are what files of stops have", "[knot][tour]") {
  const Reading<Model> far = parse_knot(
      "table t key k rows\n  k,lat,lon\n  a,0,0\n  b,1,0\ntable two pairs of t\n"
      "column two.km = distance(a, b, earth)\ndecide go[l in two] binary\n"
      "maximize km: total(l.km * go[l] over l in two)\n",
      "far.knot");
  REQUIRE(far.ok());
  const Stops stops = Stops::parse("k,lat,lon\na,0,0\nb,1,0\n", "far.csv").value();
  CHECK(solve(far.value()).goals[0].value->to_double() == stops.length(0, 1));
  const auto wrong = [](const std::string& how) {
    return parse_knot(
               "table t key k rows\n  k,x\n  a,0\n  b,1\ntable two pairs of t\n"
               "column two.km = " +
                   how +
                   "\ndecide go[l in two] binary\n"
                   "maximize km: total(l.km * go[l] over l in two)\n",
               "far.knot")
        .notes()
        .items()
        .front()
        .text();
  };
  CHECK(has(wrong("distance(a, b, plane)"), "no column 'y'"));
  CHECK(has(wrong("distance(a, b, sea)"), "on the plane (x, y) or on the earth"));
  CHECK(has(wrong("distance(a, b)"), "three parts"));
}

TEST_CASE("a map tells a length only where what the goal says of legs is one", "[knot][tour]") {
  const std::string family = "decide go[l in legs] binary\ndecide stop[s in stops] binary";
  const auto map_of = [&](const std::string& goal) {
    const Model m = read(family, goal +
                                     "\nrule loop: go forms tour over stops visiting stop\n"
                                     "rule some: total(stop[s] over s in stops) >= 4\n")
                        .value();
    const Result r = solve(m);
    REQUIRE(r.outcome == Outcome::optimal);
    const TourAnswer a = tour_of(m, *r.plan, r.outcome);
    return std::pair(tour_map(tour_of(m).stops, a), a);
  };
  // What is gained less what is gone: the way is the share that costs.
  const auto [costs, a] = map_of(
      "maximize gain: total(s.rolls * stop[s] over s in stops) - total(l.km * go[l] over l in "
      "legs)");
  CHECK(a.length.sign() > 0);
  CHECK(has(costs, " long, "));
  CHECK(!has(costs, "-" + std::string("1")));
  // Legs that bring something have no length.
  const auto [gains, b] = map_of("maximize gain: total((5 - l.km) * go[l] over l in legs)");
  CHECK(!has(gains, " long"));
  CHECK(has(gains, "gain is "));
  CHECK(has(gains, "stops"));
}
