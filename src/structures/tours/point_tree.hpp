#pragma once
// Near points in space: a k-d tree that points can be taken out of and put back into. Sources:
// Bentley 1975, "Multidimensional binary search trees used for associative searching"; Friedman,
// Bentley and Finkel 1977 (nearest neighbours); Bentley 1990, "K-d trees for semidynamic point
// sets".

#include <limits>
#include <span>
#include <vector>

#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

class PointTree {
 public:
  /// Of these points, which outlive it: all that have a number in `of`, or all there are. O(n log
  /// n).
  explicit PointTree(const Places& places);
  PointTree(const Places& places, std::vector<Index> of);

  void remove(Index point);
  void put_back(Index point);
  [[nodiscard]] std::int64_t size() const noexcept {
    return nodes_.empty() ? 0 : nodes_.front().alive;
  }
  /// All points, those of a leaf together.
  [[nodiscard]] std::span<const Index> in_order() const noexcept { return order_; }
  /// The nearest point that is there, other than itself; -1: there is none. Among equally near ones
  /// the one with the least number.
  [[nodiscard]] Index nearest(Index from) const;
  /// The `count` nearest, nearest first.
  [[nodiscard]] std::vector<Index> nearest(Index from, std::size_t count) const;
  /// The nearest for which `admits(point)`.
  template <class Admits>
  [[nodiscard]] Index nearest_with(Index from, const Admits& admits) const {
    Near best;
    look(0, from, {}, [&](Index p, double d) {
      if ((d < best.distance || (d == best.distance && p < best.point)) && admits(p)) best = {d, p};
      return best.distance;
    });
    return best.point;
  }

 private:
  static constexpr Index kLeaf = 8;  // points
  struct Near {
    double distance = std::numeric_limits<double>::infinity();  // squared
    Index point = -1;
  };
  struct Node {
    Index first = 0, last = 0;  // of order_
    Index left = -1, right = -1, parent = -1;
    std::int32_t alive = 0;
    int axis = 0;
    double split = 0.0;
  };
  [[nodiscard]] double coordinate(Index p, int axis) const {
    return (axis == 0 ? places_.x : axis == 1 ? places_.y : places_.z)[at(p)];
  }
  [[nodiscard]] double squared(Index a, Index b) const {
    const double dx = places_.x[at(a)] - places_.x[at(b)], dy = places_.y[at(a)] - places_.y[at(b)],
                 dz = places_.z[at(a)] - places_.z[at(b)];
    return dx * dx + dy * dy + dz * dz;
  }
  Index build(Index first, Index last, Index parent);
  /// `take(point, squared distance)` for points in rising distance of their cells; it returns how
  /// far is still of interest.
  struct Off {
    double x = 0.0, y = 0.0, z = 0.0;  // of the cell, by axes
  };
  template <class Take>
  double look(Index node, Index from, Off off, const Take& take,
              double reach = std::numeric_limits<double>::infinity()) const;

  const Places& places_;
  std::vector<Index> order_;  // points; those that are there come first in every leaf
  std::vector<Index> place_;  // by points: in order_; -1: not of these
  std::vector<Index> leaf_;   // by points
  std::vector<Node> nodes_;
};

template <class Take>
double PointTree::look(Index node, Index from, Off off, const Take& take, double reach) const {
  const Node& n = nodes_[at(node)];
  if (n.alive == 0) return reach;
  if (n.left < 0) {
    for (Index k = n.first; k < n.first + n.alive; ++k) {
      const Index p = order_[at(k)];
      if (p != from) reach = take(p, squared(p, from));
    }
    return reach;
  }
  const double by = coordinate(from, n.axis) - n.split;
  reach = look(by < 0.0 ? n.left : n.right, from, off, take, reach);
  (n.axis == 0 ? off.x : n.axis == 1 ? off.y : off.z) = by;
  if (off.x * off.x + off.y * off.y + off.z * off.z <= reach)
    reach = look(by < 0.0 ? n.right : n.left, from, off, take, reach);
  return reach;
}

}  // namespace kiteknot::structures::tours
