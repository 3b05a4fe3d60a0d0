#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
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
  CHECK(notes.find("gets 0 .. inf (the first is 'x')") != std::string::npos);
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
  CHECK(told(head + "RHS\n RHS row -inf\nENDATA\n") ==
        "m.mps:8: '-inf' as the right side of row 'row' leaves nothing");
  CHECK(told(head + "RHS\n RHS row 4\n RHS row 5\nENDATA\n") ==
        "m.mps:9: the right side of row 'row' is there twice");
  CHECK(told(head + "RANGES\n R row 4\n R row 4\nENDATA\n") ==
        "m.mps:9: the range of row 'row' is there twice");
  CHECK(told(head + "BOUNDS\n UP B x 4\n UP B x 5\nENDATA\n") ==
        "m.mps:9: the upper bound of column 'x' is there twice");
  CHECK(told(head + "BOUNDS\n LO B x inf\nENDATA\n") ==
        "m.mps:8: a bound LO of 'inf' leaves nothing");
  CHECK(told("ROWS\n N g\n L row\nCOLUMNS\n x row 0\n x row 1\nENDATA\n") ==
        "m.mps:6: column 'x' has two entries in row 'row'");
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

TEST_CASE("of several sets the first is read, and that is said", "[formats][mps]") {
  const std::string head = "\xEF\xBB\xBFNAME t\nROWS\n N g\n G row\nCOLUMNS\n x g 1 row 1\n";
  const Reading<Model> r =
      mps(head + "RHS\n one row 4\n two row 7\nBOUNDS\n UP b x 9\n UP c x 2\nENDATA\n");
  REQUIRE(r.ok());
  CHECK(r.notes().text().find("the set 'two' of RHS is not read: the first one, 'one', is") !=
        std::string::npos);
  CHECK(r.notes().text().find("the set 'c' of BOUNDS is not read") != std::string::npos);
  CHECK(solve(r.value()).goal() == Rational(4));
}

TEST_CASE("words and great figures as limits mean that there is none", "[formats][mps]") {
  const std::string head = "ROWS\n N g\n L row\nCOLUMNS\n x g -1 row 1\n y g 1 row 1\n";
  for (const char* none : {"inf", "Infinity", "1e30", "1E+31", "+INF"}) {
    const Reading<Model> r = mps(head + "RHS\n r row " + none + "\nBOUNDS\n UP b x 5\n UP b y " +
                                 none + "\n LO b y -3\nENDATA\n");
    INFO(none << r.notes().text());
    REQUIRE(r.ok());
    CHECK(r.notes().text().find("2 figures are read as no limit") != std::string::npos);
    CHECK(solve(r.value()).goal() == Rational(-8));
  }
}

TEST_CASE("a model written and read back is solved to the same answer", "[formats][mps]") {
  Random random(2024);
  int solved = 0;
  for (int round = 0; round < 2000; ++round) {
    CAPTURE(round);
    const auto figure = [&](int most) {
      static constexpr int kParts[] = {1, 2, 3, 7, 10, 23};
      return Rational::ratio(random.between(-most, most), kParts[random.between(0, 5)]);
    };
    Model m{"Back"};
    std::vector<Expression> x;
    Expression goal = random.between(-3, 3);
    for (int k = 0; k < 4; ++k) {
      const Rational low = figure(9), high = low + figure(40).abs();
      const std::string name = fmt::format("x{}", k);
      x.emplace_back(k % 2 == 0 ? m.integer(name, {}, between(low.floor(), high.ceil())).only()
                                : m.real(name, {}, between(low, high)).only());
      goal += Rational(random.between(-4, 4)) / Rational(random.chance(0.3) ? 4 : 1) * x.back();
    }
    for (int r = 0; r < 3; ++r) {
      Expression sum;
      for (const Expression& e : x)
        if (random.chance(0.7)) sum += figure(5) * e;
      const Rational side = figure(30).abs() * Rational(random.chance(0.5) ? 1 : -1);
      const auto kind = random.between(0, 2);
      m.rule(fmt::format("r{}", r), kind == 0   ? sum <= side
                                    : kind == 1 ? sum >= side
                                                : within(side, sum, side + figure(20).abs()));
    }
    if (random.chance(0.5))
      m.minimize("g", goal);
    else
      m.maximize("g", goal);
    const MpsText text = mps_text(m);
    CHECK(text.notes.empty());
    const Result own = solve(m), back = solve(parse_mps(text.problem, "back.mps").value());
    INFO(text.problem);
    REQUIRE(own.outcome == back.outcome);
    if (own.outcome != Outcome::optimal) continue;
    ++solved;
    CHECK(own.goals[0].value == back.goals[0].value);
  }
  CHECK(solved > 400);
}

TEST_CASE("what MPS cannot say exactly is told", "[formats][mps]") {
  Model m{"Thirds"};
  const auto x = m.real("x", {}, between(0, Rational::ratio(120, 23))).only();
  m.maximize("g", Expression(x) / 3);
  const MpsText text = mps_text(m);
  REQUIRE(text.notes.size() == 1);
  CHECK(text.notes[0].find("1/3") != std::string::npos);
  CHECK(text.names.find("the limit 120/23 of x1") != std::string::npos);
}
