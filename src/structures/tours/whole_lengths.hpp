#pragma once
// Lengths as whole numbers of a unit, so that sums of them are exact: what proofs rest on.

#include <cmath>
#include <cstdint>

#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

/// Between two stops, a < b.
struct Leg {
  Index a = 0, b = 0;
  friend bool operator==(const Leg&, const Leg&) = default;
  friend auto operator<=>(const Leg&, const Leg&) = default;
};

class WholeLengths {
 public:
  /// Of a leg that does not exist: longer than any tour.
  static constexpr std::int64_t kNever = std::int64_t{1} << 53;

  /// `distances` outlive it. The unit is 1, a tenth .. or a millionth: the largest in which all are
  /// whole; a matrix with more digits is rounded to millionths (`rounded()`).
  explicit WholeLengths(const Distances& distances);

  [[nodiscard]] Index size() const noexcept { return distances_.size(); }
  [[nodiscard]] std::int64_t operator()(Index from, Index to) const {
    const double units = distances_(from, to) * units_;
    return units < kLong ? static_cast<std::int64_t>(std::llround(units)) : kNever;
  }
  [[nodiscard]] std::int64_t operator()(const Leg& leg) const { return (*this)(leg.a, leg.b); }
  /// How many units are 1.
  [[nodiscard]] double units() const noexcept { return units_; }
  [[nodiscard]] bool rounded() const noexcept { return rounded_; }
  /// Of a leg, in units.
  [[nodiscard]] std::int64_t longest() const noexcept { return longest_; }
  /// Whether sums over all stops stay far below what 64 bits and doubles can say.
  [[nodiscard]] bool fits() const noexcept;
  [[nodiscard]] const Distances& distances() const noexcept { return distances_; }

 private:
  static constexpr double kLong = 4503599627370496.0;  // 2^52
  const Distances& distances_;
  double units_ = 1.0;
  bool rounded_ = false;
  std::int64_t longest_ = 0;
};

std::int64_t length(const WholeLengths& lengths, const std::vector<Index>& tour);

}  // namespace kiteknot::structures::tours
