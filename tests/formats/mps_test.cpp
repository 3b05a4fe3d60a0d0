#include <catch2/catch.hpp>

#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

Reading<Model> mps(const std::string& text) {
  return parse_mps(text, "m.mps");
}

const std::string kSmall = R"(NAME          small
ROWS
 N  cost
 L  room
 G  need
 E  tie
COLUMNS
    MARKER                 'MARKER'                 'INTORG'
    x         cost         -3.0   room          2.0
    x         need          1.0
    MARKER                 'MARKER'                 'INTEND'
    y         cost         -1.5   room          1.0
    y         tie           1.0
    z         tie          -1.0
RHS
    RHS       room         10.0   need          1.0
    RHS       tie           0.0   cost         -7.0
BOUNDS
 UP BND       x             4.0
 UP BND       y             3.0
 MI BND       z
ENDATA
)";

}  // namespace

TEST_CASE("a fixed-form file is read: kinds, bounds, and the goal's constant", "[formats][mps]") {
  const Model m = mps(kSmall).value();
  CHECK(m.title() == "small");
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  // 2x + y <= 10, x <= 4 whole, y <= 3: x = 3, y = 3 gives -13.5; x = 4, y = 2 gives -15. Plus 7.
  CHECK(r.goal() == Rational(-8));
  CHECK(r[m.decision("x")] == Rational(4));
  CHECK(r[m.decision("z")] == Rational(2));
}

TEST_CASE("OBJSENSE, RANGES and free form without set names", "[formats][mps]") {
  const std::string text = R"(NAME free form
OBJSENSE
    MAX
ROWS
 N gain
 L a
 G b
 E up
 E down
COLUMNS
 x gain 1 a 1
 x b 1
 y gain 1 up 1
 w gain 1 down 1
RHS
 a 9
 b 2
 up 4
 down 4
RANGES
 RNG a 3 b 5
 RNG up 2 down -2
BOUNDS
 FR x
 PL y
ENDATA
)";
  const Model m = mps(text).value();
  const Result r = solve(m);
  // a: 6..9, b: 2..7, so x <= 7; up: 4..6; down: 2..4.
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goals[0].sense == Sense::maximize);
  CHECK(r.goal() == Rational(17));
  const std::string maximise_inline =
      "NAME t\nOBJSENSE MAX\nROWS\n N g\nCOLUMNS\n x g 2\nBOUNDS\n BV B x\nENDATA\n";
  CHECK(solve(mps(maximise_inline).value()).goal() == Rational(2));
}

TEST_CASE("every bound kind means what it should", "[formats][mps]") {
  const std::string head = "NAME t\nROWS\n N g\nCOLUMNS\n x g 1\nBOUNDS\n";
  const auto range = [&](const std::string& bounds) {
    Model low = mps(head + bounds + "ENDATA\n").value();
    const Result down = solve(low);
    std::string max_head = head;
    max_head.replace(max_head.find("ROWS"), 0, "OBJSENSE MAX\n");
    const Result up = solve(mps(max_head + bounds + "ENDATA\n").value());
    const auto end = [](const Result& r) {
      return r.outcome == Outcome::unbounded ? std::string("inf") : r.goal().text();
    };
    return end(down) + " .. " + end(up);
  };
  CHECK(range(" LO B x 2\n UP B x 5.5\n") == "2 .. 5.5");
  CHECK(range(" FX B x 3\n") == "3 .. 3");
  CHECK(range(" FR B x\n") == "inf .. inf");
  CHECK(range(" MI B x\n UP B x 4\n") == "inf .. 4");
  CHECK(range(" PL B x\n") == "0 .. inf");
  CHECK(range(" BV B x\n") == "0 .. 1");
  CHECK(range(" LI B x 1.5\n UI B x 4.5\n") == "2 .. 4");
  CHECK(range(" UP B x -2\n") == "inf .. -2");
  CHECK(range(" LO B x -9\n UP B x -2\n") == "-9 .. -2");
}

TEST_CASE("silent conventions are told as warnings", "[formats][mps]") {
  const std::string text =
      "NAME t\nROWS\n N g\n N other\nCOLUMNS\n MARK 'MARKER' 'INTORG'\n x g 1\n MARK 'MARKER' "
      "'INTEND'\n y g 1 other 2\nBOUNDS\n UP B y -1\nENDATA\n";
  const Reading<Model> reading = mps(text);
  REQUIRE(reading.ok());
  const std::string notes = reading.notes().text();
  CHECK(notes.find("get 0 .. inf (the first is 'x')") != std::string::npos);
  CHECK(notes.find("its lower bound is -inf") != std::string::npos);
  CHECK(notes.find("row 'other' is free") != std::string::npos);
}

TEST_CASE("names with spaces are read in fixed form", "[formats][mps]") {
  const std::string text =
      "NAME          spaced\nROWS\n N  cost\n G  row one\nCOLUMNS\n"
      "    col one   cost         1.0         row one   1.0\nRHS\n    RHS       row one      "
      "2.0\nENDATA\n";
  const Model m = mps(text).value();
  CHECK(solve(m).goal() == Rational(2));
  CHECK(m.decision("col one").id == 0);
}

TEST_CASE("mistakes are told with their line", "[formats][mps]") {
  const auto told = [](const std::string& text) {
    const Reading<Model> reading = mps(text);
    return reading.ok() ? std::string("no error") : reading.notes().text();
  };
  const std::string head = "NAME t\nROWS\n N g\n L row\nCOLUMNS\n x g 1 row 1\n";
  CHECK(told(head + "RHS\n RHS rwo 4\nENDATA\n") ==
        "m.mps:8: there is no row 'rwo'; nearest is 'row'");
  CHECK(told(head + "RHS\n RHS row 4x\nENDATA\n") == "m.mps:8: '4x' is not a finite figure");
  CHECK(told(head + "RHS\n RHS row inf\nENDATA\n") == "m.mps:8: 'inf' is not a finite figure");
  CHECK(told(head + "BOUNDS\n XX B x 4\nENDATA\n").find("m.mps:8: no bound kind 'XX'") == 0);
  CHECK(told(head + "BOUNDS\n UP B xx 4\nENDATA\n") ==
        "m.mps:8: there is no column 'xx'; nearest is 'x'");
  CHECK(told(head + "BOUNDS\n LO B x 4\n UP B x 3\nENDATA\n").find("leave nothing") !=
        std::string::npos);
  CHECK(told(head).find("without ENDATA") != std::string::npos);
  CHECK(told("").find("empty") != std::string::npos);
  CHECK(told("ROWS\n N g\n N g\nENDATA\n").find("m.mps:3: row 'g' is there twice") == 0);
  CHECK(told(head + "FOO\nENDATA\n").find("no section 'FOO'") != std::string::npos);
  CHECK(told(head + " y g 1\n x g 2\nENDATA\n").find("do not stand together") != std::string::npos);
}

TEST_CASE("nothing-or-at-least bounds are read and written as what they mean", "[formats][mps]") {
  const std::string text =
      "NAME t\nROWS\n N g\n G row\nCOLUMNS\n x g 1 row 1\n y g 3 row 1\nRHS\n RHS row 5\nBOUNDS\n"
      " LO B x 8\n SC B x 20\n UP B y 6\nENDATA\n";
  const Model m = parse_mps(text, "m.mps").value();
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal() == Rational(8));  // 8 of x, though 5 would be enough, or 5 of y for 15
  CHECK(solve(parse_mps(mps_text(m).problem, "back.mps").value()).goal() == Rational(8));
}
