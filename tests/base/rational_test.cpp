#include "kiteknot/rational.hpp"

#include <cmath>
#include <limits>

#include <catch2/catch.hpp>
#include <gmpxx.h>

#include "base/random.hpp"
#include "base/rational_sum.hpp"
#include "kiteknot/errors.hpp"

using kiteknot::Random;
using kiteknot::Rational;

namespace {

// A random fraction, small or far beyond 64 bits, next to GMP's own.
std::pair<Rational, mpq_class> draw(Random& random) {
  const auto part = [&](bool big) {
    mpz_class z(static_cast<long>(random.between(-40, 40)));
    if (big)
      for (int k = 0; k < 4; ++k)
        z = z * mpz_class(static_cast<unsigned long>(random.bits() >> 4)) + 1;
    return z;
  };
  mpz_class num = part(random.chance(0.3)), den = part(random.chance(0.2));
  if (den == 0) den = 7;
  mpq_class q(num, den);
  q.canonicalize();
  const auto own = [](const mpz_class& z) {
    const auto r = Rational::parse(z.get_str());
    REQUIRE(r);
    return *r;
  };
  return {own(q.get_num()) / own(q.get_den()), q};
}

std::string told(const mpq_class& q) {
  return q.get_num().get_str() + "/" + q.get_den().get_str();
}
std::string told(const Rational& r) {
  return r.numerator().text() + "/" + r.denominator().text();
}

}  // namespace

TEST_CASE("arithmetic agrees with big fractions for small and for huge parts", "[base][rational]") {
  Random random(7);
  for (int k = 0; k < 5000; ++k) {
    const auto [a, qa] = draw(random);
    const auto [b, qb] = draw(random);
    CHECK(told(a + b) == told(mpq_class(qa + qb)));
    CHECK(told(a - b) == told(mpq_class(qa - qb)));
    CHECK(told(a * b) == told(mpq_class(qa * qb)));
    if (!b.is_zero()) CHECK(told(a / b) == told(mpq_class(qa / qb)));
    CHECK((a < b) == (qa < qb));
    CHECK((a == b) == (qa == qb));
    CHECK(a.to_double() == Approx(qa.get_d()).epsilon(1e-15));
  }
}

TEST_CASE("a figure means its shortest decimal", "[base][rational]") {
  CHECK(Rational(0.1) == Rational::ratio(1, 10));
  CHECK(Rational(0.1) + Rational(0.2) == Rational(0.3));
  CHECK(Rational::exactly(0.1) != Rational(0.1));
  CHECK(Rational(1e300).to_double() == 1e300);
  CHECK(Rational(5e-324).to_double() == 5e-324);
  CHECK_THROWS_AS(Rational(std::nan("")), kiteknot::UsageError);
  CHECK(Rational(-INFINITY) == Rational::minus_infinity());
}

TEST_CASE("a double comes back from its own fraction, and is the nearest one", "[base][rational]") {
  Random random(11);
  for (int k = 0; k < 3000; ++k) {
    const double x =
        std::ldexp(random.fraction() - 0.5, static_cast<int>(random.between(-200, 200)));
    CHECK(Rational(x).to_double() == x);
    CHECK(Rational::exactly(x).to_double() == x);
  }
  // A tie goes to the even neighbour, anything above it up.
  const Rational tie = Rational(9007199254740993LL);
  CHECK(tie.to_double() == 9007199254740992.0);
  CHECK((tie + Rational::ratio(1, 1000)).to_double() == 9007199254740994.0);
}

TEST_CASE("texts are read strictly and written as decimals where they end", "[base][rational]") {
  CHECK(Rational::parse("-12.50")->text() == "-12.5");
  CHECK(Rational::parse("1e3")->text() == "1000");
  CHECK(Rational::parse("2.5e-3")->text() == "0.0025");
  CHECK(Rational::parse(".5") == Rational::ratio(1, 2));
  CHECK(Rational::ratio(1, 3).text() == "1/3");
  CHECK(Rational::ratio(-7, 8).text() == "-0.875");
  for (const char* wrong : {"", " 1", "1 ", "1,5", "0x10", "inf", "nan", "1e", "1e999", "--1", "."})
    CHECK_FALSE(Rational::parse(wrong));
}

TEST_CASE("whole parts and rounding follow the mathematics on both sides of 0",
          "[base][rational]") {
  const Rational x = Rational::ratio(-7, 2);
  CHECK(x.floor() == Rational(-4));
  CHECK(x.ceil() == Rational(-3));
  CHECK(x.round() == Rational(-4));
  CHECK(Rational::ratio(7, 2).round() == Rational(4));
  CHECK(Rational::gcd(12, 18) == Rational(6));
  CHECK(Rational::lcm(4, 6) == Rational(12));
  CHECK(Rational(std::numeric_limits<long long>::min()) +
            Rational(std::numeric_limits<long long>::max()) ==
        Rational(-1));
}

TEST_CASE("infinities compare and stay apart from figures", "[base][rational]") {
  CHECK(Rational::infinity() > Rational(1e300));
  CHECK(Rational::minus_infinity() < Rational(-1e300));
  CHECK_FALSE(Rational::infinity().is_finite());
  CHECK_THROWS_AS(Rational(1) / Rational(0), kiteknot::UsageError);
}

TEST_CASE("a sum of short and long fractions is the sum in order", "[base][rational]") {
  Random random(77);
  for (int round = 0; round < 100; ++round) {
    Rational plain = 0;
    kiteknot::RationalSum sum;
    for (int k = 0; k < 40; ++k) {
      Rational v = Rational::ratio(random.between(-1'000'000'000'000, 1'000'000'000'000),
                                   random.between(1, 1'000'000'000));
      if (random.chance(0.3)) v *= v * v;
      if (random.chance(0.1)) v = Rational(9'000'000'000'000'000'000LL);
      plain += v;
      sum += v;
      const Rational factor(random.between(-4'000'000'000'000'000'000, 4'000'000'000'000'000'000));
      const Rational times = random.chance(0.5) ? Rational(random.between(-3, 3)) : v;
      plain += factor * times;
      sum.add_product(factor, times);
    }
    CHECK(sum.value() == plain);
  }
}
