#pragma once
// Round trips where not every stop has to be on one, several may share a gate, legs may be one-way,
// loads are limited and some stops come ahead of others: what the legs satisfy, by sets of stops,
// and the rows that a relaxed point breaks.
//
// x: legs; y: whether a stop is on a trip, 1 where it always is. At every stop but the gate two
// legs (or one in and one out) for each visit. For a set S without the root, a stop that is always
// there:
//   x(legs in and out of S)  >=  2 y_k              k in S: the trip comes there and leaves
//   x(legs in and out of S)  >=  2 ceil(load of S / capacity)        several trips from the gate
// (Laporte, Nobert and Desrochers 1985, "Optimal routing under capacity and distance restrictions";
// with stops that may be left out Fischetti, Salazar and Toth 1997, "A branch-and-cut algorithm for
// the symmetric generalized traveling salesman problem"). Since the legs at the stops of S are
// known, each says the same as x(legs within S) <= y(S) - half the right side, which is taken where
// it has fewer entries. A ahead of B: without B there is a way from the root to A, and without the
// root one from A to B (Balas, Fischetti and Pulleyblank 1995, "The precedence-constrained
// asymmetric traveling salesman polytope").

#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "base/random.hpp"
#include "structures/tours/whole_lengths.hpp"

namespace kiteknot::structures::tours {

struct Trips {
  Index stops = 0;
  bool directed = false;
  std::vector<Leg> legs;             ///< from a to b; undirected ones in any order
  std::vector<char> optional{};      ///< by stops; empty: all are visited
  Index gate = -1;                   ///< visited always; -1: none is named
  bool several = false;              ///< any number of trips, each from the gate and back
  std::vector<std::int64_t> load{};  ///< by stops, from 0; of several; empty: no limit
  std::int64_t capacity = 0;         ///< of a trip
  std::vector<std::pair<Index, Index>> ahead{};  ///< directed, one trip

  [[nodiscard]] bool sure(Index stop) const {
    return stop == gate || optional.empty() || optional[at(stop)] == 0;
  }
};

/// Kinds, for the telling.
enum class TripRule { loop, load, order };

/// sum of times * leg + sum of times * visit >= at_least, all whole.
struct TripRow {
  TripRule kind = TripRule::loop;
  std::vector<std::pair<Index, std::int64_t>> legs, visits;  ///< by place; by stop
  std::int64_t at_least = 0;
};

class TripSeparation {
 public:
  explicit TripSeparation(Trips trips);
  [[nodiscard]] const Trips& trips() const noexcept { return trips_; }

  /// Rows that the point breaks, at most `most`; `y` by stops. At whole points that meet what is
  /// asked at every stop, nothing means that the trips are as they should be. Loops are looked for
  /// in the parts and in all cuts of a cut tree, orders by least cuts: the most broken of these is
  /// found. Loads: heuristically, by parts, cut tree, the least cut with whole loads for rounded
  /// ones, and sets that grow (Lysgaard, Letchford and Eglese 2004, "A new branch-and-cut algorithm
  /// for the capacitated vehicle routing problem"); with fractions only where `whole` is false.
  std::vector<TripRow> look(std::span<const double> x, std::span<const double> y, bool whole,
                            std::size_t most);

 private:
  struct Found {
    TripRow row;
    double broken = 0.0;
  };
  struct Pair {
    Index to = 0;
    double x = 0.0;
  };
  // in and out of a set >= base / over + sum of times / over * visit
  struct RightSide {
    TripRule kind = TripRule::loop;
    std::int64_t base = 0, over = 1;
    std::vector<std::pair<Index, std::int64_t>> visits{};
  };
  void join_legs(std::span<const double> x);
  void look_at_parts(std::span<const double> y);
  void look_at_cut_tree(std::span<const double> y);
  void look_at_loads(std::span<const double> y, bool whole);
  void look_at_order(std::span<const double> x, std::span<const double> y);
  void try_set(const std::vector<Index>& set, std::span<const double> y);
  void try_loads(const std::vector<Index>& set, double crossing, std::span<const double> y);
  void grow(Index from, std::span<const double> y);
  void take(const std::vector<Index>& set, const RightSide& side, double crossing,
            std::span<const double> y);
  [[nodiscard]] double crossing(const std::vector<Index>& set);
  [[nodiscard]] TripRow row_of(const std::vector<Index>& set, const RightSide& side);

  Trips trips_;
  Index root_;  // always visited; -1: no such stop
  Random random_{1};
  double margin_ = 0.0;
  std::vector<std::vector<Pair>> near_;  // by stops: what is between two of them, both ways summed
  std::vector<char> inside_;             // marks
  std::vector<std::vector<Index>> tried_;
  std::vector<Found> found_;
};

}  // namespace kiteknot::structures::tours
