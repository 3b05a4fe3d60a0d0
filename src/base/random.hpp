#pragma once
// Our own random numbers: the same seed gives the same numbers on every platform, which the
// standard library's distributions do not promise. Generator: splitmix64 (Steele, Lea, Flood 2014,
// "Fast splittable pseudorandom number generators").

#include <cstdint>

namespace kiteknot {

class Random {
 public:
  explicit Random(std::uint64_t seed) noexcept : state_(seed) {}

  std::uint64_t bits() noexcept {
    std::uint64_t z = (state_ += 0x9e3779b97f4a7c15ULL);
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
    return z ^ (z >> 31);
  }
  /// Uniform in [0, 1).
  double fraction() noexcept { return static_cast<double>(bits() >> 11) * 0x1p-53; }
  /// Uniform in {low, ..., high}; low <= high. The bias is below 2^-32 for spans below 2^32.
  std::int64_t between(std::int64_t low, std::int64_t high) noexcept {
    return low + static_cast<std::int64_t>(bits() % static_cast<std::uint64_t>(high - low + 1));
  }
  bool chance(double probability) noexcept { return fraction() < probability; }

 private:
  std::uint64_t state_;
};

}  // namespace kiteknot
