#pragma once
// What prices on stops and on sets of stops say of all legs, exactly. With a price p_i on every
// stop (of its two legs) and s_k >= 0 on every row of sets,
//   length of a tour  >=  2 sum p_i + sum s_k at_least_k + sum over legs min(0, r),
//   r(a, b) = length - p_a - p_b - sum of s_k over the sets that part a and b,
// as a leg is taken once at most. All of them are whole numbers of a 256th of a unit, so that no
// sum is rounded.

#include "structures/tours/cuts/stop_row.hpp"

namespace kiteknot::structures::tours {

class TourPrices {
 public:
  static constexpr std::int64_t kFine = 256;  // of a unit

  TourPrices() = default;
  /// Prices in units, as they are near enough: those of rows below 0 count as 0.
  TourPrices(Index stops, std::span<const double> of_stops, std::span<const StopRow> rows,
             std::span<const double> of_rows);

  /// r of a leg, in 256ths.
  [[nodiscard]] std::int64_t reduced(const WholeLengths& lengths, const Leg& leg) const {
    return shared(leg, at_first(lengths, leg));
  }
  /// The bound on all tours, in 256ths, where negative r are known to sum up to `negative`.
  [[nodiscard]] std::int64_t bound(std::int64_t negative) const { return constant_ + negative; }
  /// `take(leg, r)` for all legs with r at most `most`. O(n^2), and more only for those that may.
  template <class Take>
  void each_up_to(const WholeLengths& lengths, std::int64_t most, const Take& take) const {
    const Index n = lengths.size();
    for (Index a = 0; a < n; ++a)
      for (Index b = a + 1; b < n; ++b) {
        const std::int64_t least = at_first(lengths, {a, b});
        if (least > most) continue;
        const std::int64_t r = shared({a, b}, least);
        if (r <= most) take(Leg{a, b}, r);
      }
  }

 private:
  struct Inside {
    std::int32_t set = 0;
    std::int64_t price = 0;
  };
  // As if no set had both stops: r is no less.
  [[nodiscard]] std::int64_t at_first(const WholeLengths& lengths, const Leg& leg) const {
    return kFine * lengths(leg) - price_[at(leg.a)] - price_[at(leg.b)];
  }
  [[nodiscard]] std::int64_t shared(const Leg& leg, std::int64_t r) const;

  std::vector<std::int64_t> price_;          // by stops, with those of all sets they are in
  std::vector<std::vector<Inside>> inside_;  // by stops, by rising set
  std::int64_t constant_ = 0;
};

}  // namespace kiteknot::structures::tours
