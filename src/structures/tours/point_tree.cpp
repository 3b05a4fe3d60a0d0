#include "structures/tours/point_tree.hpp"

#include <algorithm>
#include <numeric>

namespace kiteknot::structures::tours {
namespace {

std::vector<Index> all_of(const Places& places) {
  std::vector<Index> all(places.x.size());
  std::iota(all.begin(), all.end(), 0);
  return all;
}

}  // namespace

PointTree::PointTree(const Places& places) : PointTree(places, all_of(places)) {}

PointTree::PointTree(const Places& places, std::vector<Index> of)
    : places_(places),
      order_(std::move(of)),
      place_(places.x.size(), -1),
      leaf_(places.x.size(), -1) {
  if (order_.empty()) return;
  nodes_.reserve(2 * order_.size() / kLeaf + 2);
  (void)build(0, static_cast<Index>(order_.size()), -1);
}

// Halves by the middle of the longest side. Many equal points stay in one leaf.
Index PointTree::build(Index first, Index last, Index parent) {
  const auto node = static_cast<Index>(nodes_.size());
  nodes_.push_back({first, last, -1, -1, parent, static_cast<std::int32_t>(last - first), 0, 0.0});
  int axis = -1;
  double longest = 0.0;
  for (int a = 0; a < 3 && last - first > kLeaf; ++a) {
    double low = coordinate(order_[at(first)], a), high = low;
    for (Index k = first; k < last; ++k) {
      low = std::min(low, coordinate(order_[at(k)], a));
      high = std::max(high, coordinate(order_[at(k)], a));
    }
    if (high - low > longest) {
      longest = high - low;
      axis = a;
    }
  }
  if (axis < 0) {
    for (Index k = first; k < last; ++k) {
      place_[at(order_[at(k)])] = k;
      leaf_[at(order_[at(k)])] = node;
    }
    return node;
  }
  const auto begin = order_.begin();
  const auto before = [&](Index a, Index b) { return coordinate(a, axis) < coordinate(b, axis); };
  Index middle = first + (last - first) / 2;
  std::nth_element(begin + first, begin + middle, begin + last, before);
  // All points on the line to the right of it; where that leaves nothing on the left, the other
  // way.
  const double split = coordinate(order_[at(middle)], axis);
  middle = static_cast<Index>(std::partition(begin + first, begin + middle,
                                             [&](Index p) { return coordinate(p, axis) < split; }) -
                              begin);
  double line = split;
  if (middle == first) {
    middle =
        static_cast<Index>(std::partition(begin + first, begin + last,
                                          [&](Index p) { return coordinate(p, axis) <= split; }) -
                           begin);
    line = coordinate(*std::min_element(begin + middle, begin + last, before), axis);
  }
  const Index left = build(first, middle, node);
  const Index right = build(middle, last, node);
  Node& n = nodes_[at(node)];
  n.left = left;
  n.right = right;
  n.axis = axis;
  n.split = line;
  return node;
}

void PointTree::remove(Index point) {
  Node& leaf = nodes_[at(leaf_[at(point)])];
  const Index end = leaf.first + leaf.alive - 1, here = place_[at(point)];
  if (here > end) return;  // gone already
  std::swap(order_[at(here)], order_[at(end)]);
  std::swap(place_[at(order_[at(here)])], place_[at(order_[at(end)])]);
  for (Index n = leaf_[at(point)]; n >= 0; n = nodes_[at(n)].parent) --nodes_[at(n)].alive;
}

void PointTree::put_back(Index point) {
  Node& leaf = nodes_[at(leaf_[at(point)])];
  const Index end = leaf.first + leaf.alive, here = place_[at(point)];
  if (here < end) return;
  std::swap(order_[at(here)], order_[at(end)]);
  std::swap(place_[at(order_[at(here)])], place_[at(order_[at(end)])]);
  for (Index n = leaf_[at(point)]; n >= 0; n = nodes_[at(n)].parent) ++nodes_[at(n)].alive;
}

Index PointTree::nearest(Index from) const {
  if (nodes_.empty()) return -1;
  return nearest_with(from, [](Index) { return true; });
}

std::vector<Index> PointTree::nearest(Index from, std::size_t count) const {
  std::vector<std::pair<double, Index>> heap;  // the farthest first
  if (!nodes_.empty() && count > 0)
    (void)look(0, from, {}, [&](Index p, double d) {
      const std::pair<double, Index> here{d, p};
      if (heap.size() < count) {
        heap.push_back(here);
        std::push_heap(heap.begin(), heap.end());
      } else if (here < heap.front()) {
        std::pop_heap(heap.begin(), heap.end());
        heap.back() = here;
        std::push_heap(heap.begin(), heap.end());
      }
      return heap.size() < count ? std::numeric_limits<double>::infinity() : heap.front().first;
    });
  std::sort_heap(heap.begin(), heap.end());
  std::vector<Index> near;
  for (const auto& [unused, p] : heap) near.push_back(p);
  return near;
}

}  // namespace kiteknot::structures::tours
