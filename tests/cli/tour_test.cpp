// kiteknot tour, as its users meet it.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "support/tool.hpp"

using namespace tool;
using Json = nlohmann::json;

TEST_CASE("tour proves the crew's round and writes what is asked for", "[cli][tour]") {
  const std::string map = (scratch() / "map.svg").string(),
                    tour = (scratch() / "crew.tour").string(),
                    result = (scratch() / "crew.json").string();
  const Ran r = run("tour " + in_demo("stops.csv") + " --from Gate --map " + map + " --tour " +
                    tour + " --result " + result);
  CHECK(r.code == 0);
  CHECK(r.err.empty());
  CHECK(has(r.out, "proven shortest"));
  CHECK(has(r.out, "It is 45.624 long, over 42 stops, and no tour is shorter."));
  CHECK(has(r.out, "   1   Gate                 0"));
  CHECK(has(r.out, "one trip costs 1.452"));
  CHECK(has(slurp(map), "Lantern Quay"));
  const Json document = Json::parse(slurp(result));
  CHECK(document["outcome"] == "optimal");
  CHECK(document["tour"].size() == 42);
  CHECK(document["tour"][0] == "Gate");
  CHECK(document["goals"][0]["value"] == Approx(45.624053));
  // The tour written is one to begin with.
  const Ran again = run("tour " + in_demo("stops.csv") + " --by exchange --start " + tour);
  CHECK(again.code == 0);
  CHECK(has(again.out, "It is 45.624 long"));
  CHECK(has(again.out, "No tour is shorter than 4"));
  CHECK(has(again.out, "could be saved"));
}

TEST_CASE("tour in rounds shows the loops that are ruled out", "[cli][tour]") {
  const std::string rounds = (scratch() / "rounds.svg").string();
  const Ran r = run("tour " + in_demo("stops.csv") + " --stops 3 --rounds " + rounds);
  CHECK(r.code == 0);
  CHECK(has(r.out, "Round by round"));
  CHECK(has(r.out, "9 loops"));
  CHECK(has(r.out, "one loop: the round trip"));
  CHECK(has(r.out, "and 39 more; --tour writes all of them"));
  CHECK(has(slurp(rounds), "from now on legs lead out of Gate"));
}

TEST_CASE("tour takes directed matrices, made-up stops and TSPLIB", "[cli][tour]") {
  const Ran wind = run("tour " + in_demo("wind.csv") + " --stops 2");
  CHECK(wind.code == 0);
  CHECK(has(wind.out, "It is 273 long, over 42 stops, and no tour is shorter."));
  const Ran made = run("tour --random 30 --seed 4 --by curve --quiet --tour " +
                       (scratch() / "made.tour").string());
  CHECK(made.code == 0);
  CHECK(made.out.empty());
  CHECK(has(slurp(scratch() / "made.tour"), "DIMENSION : 30"));
  const std::string tsp = file("box.tsp",
                               "NAME : box\nTYPE : TSP\nDIMENSION : 4\nEDGE_WEIGHT_TYPE : EUC_2D\n"
                               "NODE_COORD_SECTION\n1 0 0\n2 3 4\n3 3 0\n4 0 4\nEOF\n");
  const Ran box = run("tour " + tsp);
  CHECK(has(box.out, "box: proven shortest\nIt is 14 long, over 4 stops"));
}

TEST_CASE("tour tells what is wrong in one line", "[cli][tour]") {
  const auto complaint = [](const std::string& arguments, int code) {
    const Ran r = run("tour " + arguments);
    CHECK(r.code == code);
    CHECK(r.out.empty());
    return r.err;
  };
  const std::string stops = in_demo("stops.csv"), wind = in_demo("wind.csv");
  CHECK(has(complaint(stops + " --from Gat", 2), "there is no stop 'Gat'; nearest is 'Gate'"));
  CHECK(has(complaint(stops + " --by savigs", 2), "nearest is 'savings'"));
  CHECK(has(complaint(wind + " --by legs", 2), "differ there and back"));
  CHECK(has(complaint(wind + " --map x.svg", 2), "does not tell where the stops are"));
  CHECK(has(complaint(stops + " --map x.pdf", 2), ".svg or .png"));
  CHECK(has(complaint(stops + " --map " + stops, 2), ".svg or .png"));
  CHECK(has(complaint(stops + " --tour " + stops, 2), "--tour"));
  CHECK(has(complaint("--random 6000", 2), "'chains' takes any number"));
  CHECK(has(complaint(stops + " --gap x", 2), "a share from 0 up was expected"));
  CHECK(has(complaint("", 2), "a file of stops was expected"));
  CHECK(has(complaint(file("hole.csv", "from,A,B\nA,,1\nB,x,\n"), 3), "hole.csv:3"));
  CHECK(has(complaint("nowhere.csv", 3), "nowhere.csv"));
  const std::string vans =
      file("vans.vrp",
           "NAME : vans\nTYPE : CVRP\nDIMENSION : 3\nCAPACITY : 5\nEDGE_WEIGHT_TYPE : EUC_2D\n"
           "NODE_COORD_SECTION\n1 0 0\n2 1 0\n3 0 1\nDEMAND_SECTION\n1 0\n2 3\n3 4\n"
           "DEPOT_SECTION\n1\n-1\nEOF\n");
  CHECK(has(complaint(vans + " --by chains", 2), "'chains' makes one round trip"));
  CHECK(has(complaint(vans + " --tour x.tour", 2), "--tour writes one round trip"));
  const Ran heavy = run("tour " + vans + " --capacity 3");
  CHECK(heavy.code == 4);
  CHECK(has(heavy.out, "3 alone has 4 to carry"));
  CHECK(has(complaint(stops + " --trips 2", 2), "--trips needs what a trip may carry"));
  CHECK(has(complaint(stops + " --scenario shorter", 2), "--scenario is for models"));
  CHECK(has(complaint(in_demo("crate.knot"), 2), "has no tour rule that holds"));
  CHECK(has(complaint(in_demo("day.knot") + " --by chains", 2), "is solved as a model"));
  const Ran two = run("tour " + vans);
  CHECK(two.code == 0);
  CHECK(has(two.out, "2 trips from 1, over 3 stops, 4 long in all: none are shorter."));
  const Ran late = run("tour --random 400 --seconds 0.01");
  CHECK(late.code == 6);
  CHECK(has(late.out, "not proven shortest"));
  CHECK(has(late.out, "stopped by the time limit"));
}

TEST_CASE("compare lays the ways to a tour side by side", "[cli][tour]") {
  const std::string map = (scratch() / "ways.svg").string();
  const Ran r = run("compare " + in_demo("stops.csv") + " --map " + map);
  CHECK(r.code == 0);
  CHECK(has(r.out, "12 ways side by side"));
  CHECK(has(r.out, "exact      45.624   proven shortest"));
  CHECK(has(r.out, "nearest    56.198   23.2 % longer"));
  CHECK(has(slurp(map), "savings: 50.481"));
  CHECK(has(slurp(map), "proven shortest"));
  const Ran wind = run("compare " + in_demo("wind.csv"));
  CHECK(has(wind.out, "lengths that differ there and back"));
  CHECK_FALSE(has(wind.out, "savings"));
  const Ran two = run("compare " + in_demo("stops.csv") + " --methods nearest,farthest");
  CHECK(has(two.out, "% above the shortest"));
  const Ran wrong = run("compare " + in_demo("stops.csv") + " --methods greedy");
  CHECK(wrong.code == 2);
  CHECK(has(wrong.err, "there is no way called 'greedy'"));
  CHECK(run("compare " + in_demo("crate.knot") + " --map x.svg").code == 2);
  CHECK(run("compare " + in_demo("wind.csv") + " --map x.svg").code == 2);
}

TEST_CASE("two vans share the bay, and a model's tour is one of its rules", "[cli][tour]") {
  const std::string map = (scratch() / "vans.svg").string(),
                    result = (scratch() / "vans.json").string();
  const Ran r = run("tour " + in_demo("stops.csv") + " --from Gate --capacity 64 --trips 2 --map " +
                    map + " --result " + result);
  CHECK(r.code == 0);
  CHECK(has(r.out, "2 trips from Gate, over 42 stops, 57.139 long in all: none are shorter."));
  CHECK(has(slurp(map), "carries 45 of 64, 27.372 long"));
  const Json document = Json::parse(slurp(result));
  CHECK(document["outcome"] == "optimal");
  CHECK(document["trips"].size() == 2);
  CHECK(document["trips"][0]["load"] == 45);
  CHECK(document["trips"][0]["stops"][0] == "Gate");
  const Ran ways = run("compare " + in_demo("stops.csv") + " --from Gate --capacity 64 --trips 2");
  CHECK(ways.code == 0);
  CHECK(has(ways.out, "ruin"));
  CHECK_FALSE(has(ways.out, "chains"));
  const Ran day = run("tour " + in_demo("day.knot") + " --map " + map);
  CHECK(day.code == 0);
  CHECK(has(day.out, "rolls is 43, and no plan reaches more."));
  CHECK(has(day.out, "trip   20 stops   Gate, Rope Shed"));
  CHECK(has(slurp(map), "Lantern Quay"));
}
