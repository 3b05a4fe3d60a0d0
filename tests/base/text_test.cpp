#include "base/text.hpp"

#include <catch2/catch.hpp>

#include "base/check.hpp"

using namespace kiteknot;

TEST_CASE("the nearest name is found for a slip of the fingers and for nothing else",
          "[base][text]") {
  const std::vector<std::string> known = {"capacity", "rent", "depot"};
  CHECK(nearest_name("capacty", known) == "capacity");
  CHECK(nearest_name("Rnet", known) == "rent");
  CHECK(nearest_name("umbrella", known).empty());
  CHECK(nearest_hint("capacty", known) == "; nearest is 'capacity'");
}

TEST_CASE("figures are written for people", "[base][text]") {
  CHECK(figure(Rational(1234567)) == "1,234,567");
  CHECK(figure(Rational(-1200)) == "-1,200");
  CHECK(figure(0.25) == "0.25");
  CHECK(figure(Rational::ratio(1, 3)) == "0.3333333");
  CHECK(figure(1e-7) == "1e-07");
  CHECK(figure(Rational::infinity()) == "inf");
  CHECK(percent(0.02) == "2.0 %");
  CHECK(duration(200.0) == "3 min 20 s");
}

TEST_CASE("lists and counts read as a sentence", "[base][text]") {
  const std::vector<std::string> three = {"a", "b", "c"};
  CHECK(listed(three) == "a, b and c");
  CHECK(listed(three, 2) == "a and 2 more");
  CHECK(counted(1, "branch") == "1 branch");
  CHECK(counted(3, "branch") == "3 branches");
  CHECK(counted(2, "family") == "2 families");
  CHECK(counted(4, "way") == "4 ways");
}

TEST_CASE("a check that fails is told to the host, which goes on", "[base]") {
  const int three = 3;
  CHECK_NOTHROW(KITEKNOT_CHECK(three == 3, "three is three"));
  CHECK_THROWS_AS(KITEKNOT_CHECK(three == 4, "three is four"), kiteknot::InternalError);
  try {
    KITEKNOT_CHECK(three == 4, "three is four");
  } catch (const kiteknot::InternalError& e) {
    const std::string told = e.what();
    CHECK(told.find("three is four (three == 4)") != std::string::npos);
    CHECK(told.find(':') != std::string::npos);
  }
}
