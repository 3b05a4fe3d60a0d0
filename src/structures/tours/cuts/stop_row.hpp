#pragma once
// What every round trip satisfies, by sets of stops: a tour goes in and out of every set, so for
// sets S_1 .. S_k
//   sum over k of x(legs between S_k and the rest)  >=  at_least.
// One set and 2: no loop within it. A handle and an odd number t of teeth that it divides, and
// 3 t + 1: a comb (Chvatal 1973, "Edmonds polytopes and weakly hamiltonian graphs"); with teeth of
// two stops a blossom (Edmonds 1965). A leg counts once for every set that it leaves.

#include <span>
#include <vector>

#include "structures/tours/whole_lengths.hpp"

namespace kiteknot::structures::tours {

struct StopRow {
  std::vector<std::vector<Index>> sets;  ///< each sorted
  Index at_least = 2;

  friend bool operator==(const StopRow&, const StopRow&) = default;
};

/// Kinds, for the telling.
enum class RowKind { loop, blossom, comb };
inline RowKind kind_of(const StopRow& row) {
  if (row.sets.size() == 1) return RowKind::loop;
  for (std::size_t k = 1; k < row.sets.size(); ++k)
    if (row.sets[k].size() > 2) return RowKind::comb;
  return RowKind::blossom;
}

/// Sets of more than half the stops become those of the others, which say the same; sets are
/// sorted, the first one stays first.
void normalise(StopRow& row, Index stops);

/// Counts for many legs, by marks over the stops.
class LegCounts {
 public:
  explicit LegCounts(Index stops) : inside_(at(stops), 0) {}
  /// How often each leg counts in the row; `take(leg, times)` for those that do.
  template <class Take>
  void each(const StopRow& row, std::span<const Leg> legs, const Take& take) {
    times_.assign(legs.size(), 0);
    for (const std::vector<Index>& set : row.sets) {
      for (const Index stop : set) inside_[at(stop)] = 1;
      for (std::size_t k = 0; k < legs.size(); ++k)
        if (inside_[at(legs[k].a)] != inside_[at(legs[k].b)]) ++times_[k];
      for (const Index stop : set) inside_[at(stop)] = 0;
    }
    for (std::size_t k = 0; k < legs.size(); ++k)
      if (times_[k] > 0) take(static_cast<Index>(k), times_[k]);
  }
  /// The same row, said by the legs within the sets where these are fewer: with two legs at every
  /// stop, sum over k of x(legs within S_k) <= sum of |S_k| - at_least / 2. Returns what it is at
  /// least.
  template <class Take>
  Index shorter(const StopRow& row, std::span<const Leg> legs, const Take& take) {
    std::size_t across = 0, within = 0;
    Index stops = 0;
    within_.assign(legs.size(), 0);
    times_.assign(legs.size(), 0);
    for (const std::vector<Index>& set : row.sets) {
      stops += static_cast<Index>(set.size());
      for (const Index stop : set) inside_[at(stop)] = 1;
      for (std::size_t k = 0; k < legs.size(); ++k) {
        const bool a = inside_[at(legs[k].a)] != 0, b = inside_[at(legs[k].b)] != 0;
        if (a != b && times_[k]++ == 0) ++across;
        if (a && b && within_[k]++ == 0) ++within;
      }
      for (const Index stop : set) inside_[at(stop)] = 0;
    }
    const bool turned = within < across && row.at_least % 2 == 0;
    const std::vector<Index>& times = turned ? within_ : times_;
    for (std::size_t k = 0; k < legs.size(); ++k)
      if (times[k] > 0) take(static_cast<Index>(k), turned ? -times[k] : times[k]);
    return turned ? row.at_least / 2 - stops : row.at_least;
  }
  /// The value of the row's left side.
  [[nodiscard]] double value(const StopRow& row, std::span<const Leg> legs,
                             std::span<const double> x) {
    double sum = 0.0;
    each(row, legs, [&](Index k, Index times) { sum += times * x[at(k)]; });
    return sum;
  }

 private:
  std::vector<char> inside_;
  std::vector<Index> times_, within_;
};

}  // namespace kiteknot::structures::tours
