#pragma once
// The shortest tree over stops when every stop has a price that its legs pay on top of their
// lengths. Two ways: by rows of the matrix, and in space. Sources: Prim 1957; Borůvka 1926 (the
// nearest leg out of every part at once, so that the parts at least halve), with the search in
// space after Bentley and Friedman 1978, "Fast algorithms for constructing minimal spanning trees
// in coordinate spaces".

#include <utility>
#include <vector>

#include "base/work.hpp"
#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

/// What a leg costs with the prices of its ends. Two roundings, the same from either end.
inline double priced(const Distances& d, const std::vector<double>& price, Index i, Index j) {
  if (i > j) std::swap(i, j);
  return d(i, j) + price[at(i)] + price[at(j)];
}

using Legs = std::vector<std::pair<Index, Index>>;

/// O(stops^2). Over all stops but `without`; symmetric lengths.
Legs tree_by_rows(const Distances& distances, const std::vector<double>& price, Index without);

/// The same tree where lengths come from places, but for legs that are equally long: about
/// O(stops log^2 stops) where prices are small beside the legs, O(stops^2) at worst. What depends
/// on places only is laid out once.
class TreeInSpace {
 public:
  /// Distances outlive it and have places.
  explicit TreeInSpace(const Distances& distances, Index without);
  /// Whether there are places, and so many that this way is the quicker one.
  [[nodiscard]] static bool pays(const Distances& distances) {
    constexpr Index kByRows = 3000;
    return distances.has_places() && distances.size() > kByRows;
  }
  /// Fewer legs where it was interrupted: parts of the tree.
  [[nodiscard]] Legs shortest(const std::vector<double>& price, const Interrupt& interrupt = {});

 private:
  struct Cell {
    Index first = 0, last = 0;  // of order_
    Index left = -1, right = -1;
    double low[3] = {0.0, 0.0, 0.0}, high[3] = {0.0, 0.0, 0.0};
    double price = 0.0;  // the least in it
    Index part = -1;     // of all its stops; -1: they are of several
  };
  struct Leg {
    double length = 0.0;
    Index from = -1, to = -1;
    [[nodiscard]] bool operator<(const Leg& other) const;
  };
  Index lay_out(Index first, Index last);
  void name_parts();
  [[nodiscard]] double least_to(const Cell& cell, Index from) const;
  void look(Index cell, Index from, double least);

  const Distances& d_;
  const std::vector<double>* price_ = nullptr;
  std::vector<Index> order_;
  std::vector<Cell> cells_;    // children behind their parents
  std::vector<Index> part_;    // by stops: one of the part
  std::vector<Index> joined_;  // by stops: towards one of the part
  std::vector<Leg> best_;      // by parts: out of it
  std::vector<double> from_;   // by stops: no leg to another part is shorter
};

}  // namespace kiteknot::structures::tours
