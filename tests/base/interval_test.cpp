#include "base/interval.hpp"

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/rational.hpp"

using namespace kiteknot;

TEST_CASE("outward rounding encloses the exact result and is exact on whole numbers",
          "[base][interval]") {
  Random random(3);
  const auto draw = [&] {
    return random.chance(0.3)
               ? static_cast<double>(random.between(-1000, 1000))
               : std::ldexp(random.fraction() - 0.5, static_cast<int>(random.between(-60, 60)));
  };
  for (int k = 0; k < 20000; ++k) {
    const double a = draw(), b = draw();
    const Rational x = Rational::exactly(a), y = Rational::exactly(b);
    CHECK(Rational::exactly(add_down(a, b)) <= x + y);
    CHECK(Rational::exactly(add_up(a, b)) >= x + y);
    CHECK(Rational::exactly(multiply_down(a, b)) <= x * y);
    CHECK(Rational::exactly(multiply_up(a, b)) >= x * y);
    if (b != 0.0) {
      CHECK(Rational::exactly(divide_down(a, b)) <= x / y);
      CHECK(Rational::exactly(divide_up(a, b)) >= x / y);
    }
  }
  CHECK(add_down(3.0, 4.0) == 7.0);
  CHECK(multiply_down(3.0, -4.0) == -12.0);
  CHECK(divide_up(12.0, 4.0) == 3.0);
}

TEST_CASE("underflow does not lose the sign of what is left", "[base][interval]") {
  CHECK(multiply_down(1e-200, -1e-200) < 0.0);
  CHECK(multiply_up(1e-200, 1e-200) > 0.0);
}
