// Whole numbers of 128 bits, those of the compiler against those that stand in for them.
#include "base/wide.hpp"

#include <limits>

#include <catch2/catch.hpp>

#include "base/random.hpp"

using namespace kiteknot;

TEST_CASE("64-bit numbers go into big ones and back", "[wide]") {
  Random random(31);
  for (const std::int64_t v :
       {std::int64_t{0}, std::int64_t{-1}, std::int64_t{1} << 32, -(std::int64_t{1} << 32),
        std::numeric_limits<std::int64_t>::max(), std::numeric_limits<std::int64_t>::min()}) {
    CHECK(small_whole(big_whole(v)) == v);
    CHECK(big_whole(v).get_str() == std::to_string(v));
  }
  for (int round = 0; round < 1000; ++round) {
    const auto v = static_cast<std::int64_t>(random.bits());
    CHECK(small_whole(big_whole(v)) == v);
  }
}

#ifdef __SIZEOF_INT128__
TEST_CASE("what stands in for 128 bits counts as they do", "[wide]") {
  Random random(32);
  for (int round = 0; round < 2000; ++round) {
    const auto draw = [&] {
      return static_cast<std::int64_t>(random.bits()) >> random.between(0, 62);
    };
    const std::int64_t a = draw(), b = draw(), c = draw(), d = draw() | 1;
    const Wide x = Wide(a) * b + c, y = Wide(c) * d - a;
    const WideByGmp u = WideByGmp(a) * b + c, v = WideByGmp(c) * d - a;
    CHECK(to_mpz(x) == to_mpz(u));
    CHECK(to_mpz(y) == to_mpz(v));
    CHECK((x <=> y) == (u <=> v));
    CHECK((x == y) == (u == v));
    CHECK(to_mpz(-x) == to_mpz(-u));
    CHECK(to_mpz(x / d) == to_mpz(u / d));
    const Wide half = Wide(a) * 3 / 4;  // fits
    if (half == static_cast<std::int64_t>(half))
      CHECK(static_cast<std::int64_t>(half) == static_cast<std::int64_t>(WideByGmp(a) * 3 / 4));
  }
}
#endif
