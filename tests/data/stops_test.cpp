// Files of stops: CSV of places on a plane and on the earth, matrices, every usual form of TSPLIB;
// and what is said where they are wrong.

#include "data/stops/stops.hpp"

#include <catch2/catch.hpp>
#include <fmt/format.h>

using namespace kiteknot;
using namespace kiteknot::data;
using linalg::Index;

namespace {

// What is complained of; the text that is read is no file of stops.
std::string complaint(const std::string& text) {
  const auto reading = read_stops(text, "stops.txt");
  REQUIRE_FALSE(reading.ok());
  return reading.notes().text();
}

std::string tsplib(const std::string& heading, const std::string& rest) {
  return "NAME : bay\nTYPE : TSP\nCOMMENT : made up, EOF and all\nDIMENSION : 3\n" + heading +
         rest + "EOF\n";
}

}  // namespace

TEST_CASE("CSV with x and y, in any order, with names or without", "[formats][stops]") {
  const StopsData stops =
      read_stops("y,stop,x\n0,Gate,0\n4,\"Cliff, low\",3\n8,Pier,6\n", "stops.csv").value();
  CHECK(stops.names == std::vector<std::string>{"Gate", "Cliff, low", "Pier"});
  CHECK(stops.distances(0, 1) == 5.0);
  CHECK(stops.distances(0, 2) == 10.0);
  REQUIRE(stops.map);
  CHECK(stops.map->x == std::vector<double>{0.0, 3.0, 6.0});
  const StopsData unnamed = read_stops("x,y\n0,0\n1,1\n", "stops.csv").value();
  CHECK(unnamed.names == std::vector<std::string>{"1", "2"});
  CHECK(unnamed.distances(0, 1) == 1.414214);
}

TEST_CASE("CSV with lat and lon is on the earth, in kilometres", "[formats][stops]") {
  const StopsData stops =
      read_stops("name,lat,lon\nEquator,0,0\nNorth,1,0\nEast,0,90\n", "stops.csv").value();
  CHECK(stops.distances(0, 1) == Approx(111.195080).margin(1e-5));
  CHECK(stops.distances(0, 2) == Approx(10'007.557221).margin(1e-5));
  REQUIRE(stops.map);
  CHECK(stops.map->x.back() == 90.0);
  CHECK(complaint("name,lat,lon\nA,91,0\n").find("stops.txt:2: there is no such place") == 0);
  CHECK(complaint("name,lat,y\nA,1,0\n").find("does not go with") != std::string::npos);
}

TEST_CASE("CSV matrices need not be symmetric", "[formats][stops]") {
  const StopsData stops =
      read_stops("from,Gate,Pier,Dune\nGate,,3,4\nPier,5,-,1.5\nDune,2,1,0\n", "ways.csv").value();
  CHECK(stops.names == std::vector<std::string>{"Gate", "Pier", "Dune"});
  CHECK(stops.distances(0, 1) == 3.0);
  CHECK(stops.distances(1, 0) == 5.0);
  CHECK(stops.distances(1, 2) == 1.5);
  CHECK_FALSE(stops.distances.symmetric());
  CHECK_FALSE(stops.map);
}

TEST_CASE("what is wrong with CSV is said by line and name", "[formats][stops]") {
  CHECK(complaint("stop,x,y\nGate,0,nan\n") == "stops.txt:2: y is 'nan', which is no number");
  CHECK(complaint("stop,x,y\nGate,0,0\nPier,,1\n") == "stops.txt:3: x is missing");
  CHECK(complaint("stop,x,y\nGate,0,0\nGate,1,1\n") ==
        "stops.txt:3: stop 'Gate' is there twice, first in line 2");
  CHECK(complaint("from,A,B\nA,0,1\n").find("as many rows as stops in the heading, 2 and not 1") !=
        std::string::npos);
  CHECK(complaint("from,A,B\nA,0,\nB,1,0\n") == "stops.txt:2: the way from 'A' to 'B' is missing");
  CHECK(complaint("from,A,B\nA,0,1\nC,1,0\n").find("row 2 is 'C' and column 2 is 'B'") !=
        std::string::npos);
  CHECK(complaint("from,A,B\nA,0,-1\nB,1,0\n").find("shorter than nothing") != std::string::npos);
}

TEST_CASE("every form of a matrix says the same", "[formats][stops]") {
  // 0 1 2 / 1 0 3 / 2 3 0
  const std::vector<std::pair<std::string, std::string>> forms = {
      {"FULL_MATRIX", "0 1 2 1 0 3 2 3 0"},
      {"UPPER_ROW", "1 2 3"},
      {"LOWER_ROW", "1 2 3"},
      {"UPPER_DIAG_ROW", "0 1 2 0 3 0"},
      {"LOWER_DIAG_ROW", "0 1 0 2 3 0"},
      {"UPPER_COL", "1 2 3"},
      {"LOWER_COL", "1 2 3"},
      {"UPPER_DIAG_COL", "0 1 0 2 3 0"},
      {"LOWER_DIAG_COL", "0 1 2 0 3 0"}};
  for (const auto& [form, figures] : forms) {
    CAPTURE(form);
    const StopsData stops =
        read_stops(tsplib("EDGE_WEIGHT_TYPE: EXPLICIT\nEDGE_WEIGHT_FORMAT: " + form + "\n",
                          "EDGE_WEIGHT_SECTION\n " + figures + "\n"),
                   "bay.tsp")
            .value();
    CHECK(stops.distances(0, 1) == 1.0);
    CHECK(stops.distances(0, 2) == 2.0);
    CHECK(stops.distances(1, 2) == 3.0);
    CHECK(stops.distances.symmetric());
  }
  const StopsData directed = read_stops(
                                 "TYPE: ATSP\nDIMENSION: 2\nEDGE_WEIGHT_TYPE: EXPLICIT\n"
                                 "EDGE_WEIGHT_FORMAT: FULL_MATRIX\nEDGE_WEIGHT_SECTION\n"
                                 "9999 7\n8 9999\nEOF",
                                 "wind.atsp")
                                 .value();
  CHECK(directed.distances(0, 1) == 7.0);
  CHECK(directed.distances(1, 0) == 8.0);
  CHECK(directed.distances(0, 0) == 0.0);
}

TEST_CASE("every formula over coordinates", "[formats][stops]") {
  const std::vector<std::pair<std::string, double>> formulas = {
      {"EUC_2D", 5.0}, {"CEIL_2D", 5.0}, {"MAN_2D", 7.0}, {"MAX_2D", 4.0}, {"ATT", 2.0}};
  for (const auto& [formula, way] : formulas) {
    CAPTURE(formula);
    const StopsData stops = read_stops(tsplib("EDGE_WEIGHT_TYPE : " + formula + "\n",
                                              "NODE_COORD_SECTION\n2 3.0e0 +4\n1 0 0\n3 9 9\n"),
                                       "bay.tsp")
                                .value();
    CHECK(stops.distances(0, 1) == way);
    REQUIRE(stops.map);
    CHECK(stops.map->y[1] == 4.0);
  }
  CHECK(read_stops(tsplib("EDGE_WEIGHT_TYPE : EUC_3D\n",
                          "NODE_COORD_SECTION\n1 0 0 0\n2 3 4 12\n3 0 0 1\n"),
                   "bay.tsp")
            .value()
            .distances(0, 1) == 13.0);
  const StopsData geo =
      read_stops(tsplib("EDGE_WEIGHT_TYPE : GEO\n", "NODE_COORD_SECTION\n1 0 0\n2 1 0\n3 0 90\n"),
                 "bay.tsp")
          .value();
  CHECK(geo.distances(0, 1) == 112.0);
  CHECK(geo.map->x[2] == 90.0);
}

TEST_CASE("vehicles, fixed legs, display coordinates and tours", "[formats][stops]") {
  const StopsData vans = read_stops(
                             "NAME: vans\nTYPE: CVRP\nDIMENSION: 3\nCAPACITY: 10\n"
                             "EDGE_WEIGHT_TYPE: EUC_2D\nNODE_COORD_SECTION\n1 0 0\n2 3 4\n3 6 8\n"
                             "DEMAND_SECTION\n1 0\n2 4\n3 7\nDEPOT_SECTION\n1\n-1\nEOF\n",
                             "vans.vrp")
                             .value();
  CHECK(vans.capacity == 10.0);
  CHECK(vans.demand == std::vector<double>{0.0, 4.0, 7.0});
  CHECK(vans.depot == 0);
  const StopsData fixed =
      read_stops(
          tsplib(
              "EDGE_WEIGHT_TYPE: EXPLICIT\nEDGE_WEIGHT_FORMAT: UPPER_ROW\n",
              "EDGE_WEIGHT_SECTION\n1 2 3\nFIXED_EDGES_SECTION\n1 3\n-1\nDISPLAY_DATA_SECTION\n1 0 "
              "0\n2 1 0\n3 0 1\n"),
          "bay.tsp")
          .value();
  CHECK(fixed.fixed == std::vector<std::pair<Index, Index>>{{0, 2}});
  REQUIRE(fixed.map);
  CHECK(fixed.map->x[1] == 1.0);
  const std::vector<Index> tour{2, 0, 1};
  CHECK(read_tsplib_tour(tsplib_tour("bay", tour), "bay.tour", 3).value() == tour);
  CHECK(read_tsplib_tour(tsplib_tour("bay", {2, 0, 0}), "bay.tour", 3).notes().text() ==
        "bay.tour: stop 1 is in the tour twice");
  CHECK(read_tsplib_tour(tsplib_tour("bay", {2, 0}), "bay.tour", 3)
            .notes()
            .text()
            .find("of 2 stops and not of 3") != std::string::npos);
}

TEST_CASE("what is wrong with TSPLIB is said by line", "[formats][stops]") {
  const std::string plane = "EDGE_WEIGHT_TYPE : EUC_2D\n";
  CHECK(complaint(tsplib(plane, "NODE_COORD_SECTION\n1 0 0\n2 nan 0\n3 0 0\n"))
            .find("stops.txt:8: NODE_COORD_SECTION ends before a coordinate") == 0);
  CHECK(complaint(tsplib(plane, "NODE_COORD_SECTION\n1 0 0\n2 1x 0\n3 0 0\n"))
            .find("stops.txt:8: '1x' is no number") == 0);
  CHECK(complaint(tsplib(plane, "NODE_COORD_SECTION\n1 0 0\n2 1 0\n4 0 0\n"))
            .find("stops.txt:9: there is no stop 4: they are numbered from 1 to 3") == 0);
  CHECK(complaint(tsplib(plane, "NODE_COORD_SECTION\n1 0 0\n1 1 0\n3 0 0\n"))
            .find("stops.txt:8: stop 1 has its place twice") == 0);
  CHECK(
      complaint(tsplib(plane, "NODE_COORDS_SECTION\n1 0 0\n"))
          .find(
              "stops.txt:6: 'NODE_COORDS_SECTION' is not known; nearest is 'NODE_COORD_SECTION'") ==
      0);
  CHECK(complaint(tsplib("EDGE_WEIGHT_TYPE : XRAY1\n", ""))
            .find("stops.txt:5: EDGE_WEIGHT_TYPE 'XRAY1' is not read") == 0);
  CHECK(complaint(tsplib("EDGE_WEIGHT_TYPE : EXPLICIT\nEDGE_WEIGHT_FORMAT : UPPER_ROW\n",
                         "EDGE_WEIGHT_SECTION\n1 2\n"))
            .find("EDGE_WEIGHT_SECTION ends before the way from stop 2 to 3") != std::string::npos);
  CHECK(complaint(tsplib(plane, "")).find("there is no NODE_COORD_SECTION") != std::string::npos);
  CHECK(complaint("TYPE : HCP\nDIMENSION : 3\nEDGE_WEIGHT_TYPE : GEO\nEOF")
            .find("stops.txt:1: TYPE 'HCP' is not read") == 0);
}
