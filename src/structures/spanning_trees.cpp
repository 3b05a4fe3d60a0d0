#include "structures/spanning_trees.hpp"

#include <algorithm>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

// Parts that are joined; with the heads that were before, joins can be undone.
class Parts {
 public:
  explicit Parts(Index n) : head_(at(n), -1) {}
  [[nodiscard]] Index of(Index k) const {
    while (head_[at(k)] >= 0) k = head_[at(k)];
    return k;
  }
  // False where they are one.
  bool join(Index a, Index b) {
    a = of(a);
    b = of(b);
    if (a == b) return false;
    if (head_[at(a)] > head_[at(b)]) std::swap(a, b);
    log_.push_back({b, head_[at(b)], a});
    head_[at(a)] += head_[at(b)];
    head_[at(b)] = a;
    return true;
  }
  [[nodiscard]] std::size_t joins() const { return log_.size(); }
  void undo(std::size_t joins) {
    while (log_.size() > joins) {
      const auto [b, size, a] = log_.back();
      log_.pop_back();
      head_[at(b)] = size;
      head_[at(a)] -= size;
    }
  }

 private:
  struct Join {
    Index b, size, a;
  };
  std::vector<Index> head_;  // below 0: minus its size
  std::vector<Join> log_;
};

// Arcs into a node, the cheapest first, with what is taken off all of them (a skew heap: Sleator
// and Tarjan 1986).
class ArcHeaps {
 public:
  explicit ArcHeaps(const std::vector<CostArc>& arcs) {
    for (std::size_t k = 0; k < arcs.size(); ++k) all_.push_back({arcs[k].cost, 0, -1, -1});
  }
  [[nodiscard]] std::int64_t cost(Index top) {
    settle(top);
    return all_[at(top)].cost;
  }
  void take_off_all(Index top, std::int64_t cost) { all_[at(top)].later -= cost; }
  Index merged(Index a, Index b) {
    // Without recursion: the right spines by cost, then joined from below.
    std::vector<Index> spine;
    while (a >= 0 && b >= 0) {
      settle(a);
      settle(b);
      if (all_[at(b)].cost < all_[at(a)].cost) std::swap(a, b);
      spine.push_back(a);
      a = all_[at(a)].right;
    }
    Index rest = a >= 0 ? a : b;
    for (; !spine.empty(); spine.pop_back()) {
      Entry& e = all_[at(spine.back())];
      e.right = e.left;
      e.left = rest;
      rest = spine.back();
    }
    return rest;
  }
  Index without_top(Index top) {
    settle(top);
    return merged(all_[at(top)].left, all_[at(top)].right);
  }

 private:
  struct Entry {
    std::int64_t cost = 0, later = 0;  // `later` is still to go to all below, and itself
    Index left = -1, right = -1;
  };
  void settle(Index k) {
    Entry& e = all_[at(k)];
    if (e.later == 0) return;
    e.cost += e.later;
    for (const Index child : {e.left, e.right})
      if (child >= 0) all_[at(child)].later += e.later;
    e.later = 0;
  }
  std::vector<Entry> all_;  // by arc
};

}  // namespace

std::optional<std::vector<Index>> least_branching(Index nodes, const std::vector<CostArc>& arcs,
                                                  Index root) {
  ArcHeaps heaps(arcs);
  std::vector<Index> top(at(nodes), -1), into(at(nodes), -1), seen(at(nodes), -1);
  for (Index k = 0; k < static_cast<Index>(arcs.size()); ++k)
    if (arcs[at(k)].from != arcs[at(k)].to) {
      Index& heap = top[at(arcs[at(k)].to)];
      heap = heaps.merged(heap, k);
    }
  struct Ring {
    Index part = 0;
    std::size_t joins = 0;
    std::vector<Index> arcs;
  };
  std::vector<Ring> rings;
  Parts parts(nodes);
  seen[at(root)] = root;
  for (Index start = 0; start < nodes; ++start) {
    // Backwards along the cheapest arcs, until what was seen before is met.
    Index u = parts.of(start);
    std::vector<Index> way, path;
    while (seen[at(u)] < 0) {
      seen[at(u)] = start;
      path.push_back(u);
      Index& heap = top[at(u)];
      while (heap >= 0 && parts.of(arcs[at(heap)].from) == u) heap = heaps.without_top(heap);
      if (heap < 0) return std::nullopt;
      const Index arc = heap;
      heaps.take_off_all(arc, heaps.cost(arc));
      heap = heaps.without_top(arc);
      way.push_back(arc);
      u = parts.of(arcs[at(arc)].from);
      if (seen[at(u)] != start) continue;
      // A ring: one node from now on.
      Ring ring;
      ring.joins = parts.joins();
      Index joined = -1, w = -1;
      const Index closes = u;
      do {
        w = path.back();
        path.pop_back();
        ring.arcs.push_back(way.back());
        way.pop_back();
        joined = heaps.merged(joined, top[at(w)]);
        (void)parts.join(closes, w);
      } while (w != closes);
      ring.part = parts.of(u);
      u = ring.part;
      top[at(u)] = joined;
      seen[at(u)] = -1;
      rings.push_back(std::move(ring));
    }
    for (const Index arc : way) into[at(parts.of(arcs[at(arc)].to))] = arc;
  }
  // Rings come apart, last first: the arc into the whole is the arc into one of it.
  for (; !rings.empty(); rings.pop_back()) {
    const Ring& ring = rings.back();
    const Index arc = into[at(ring.part)];
    parts.undo(ring.joins);
    for (const Index k : ring.arcs) into[at(parts.of(arcs[at(k)].to))] = k;
    into[at(parts.of(arcs[at(arc)].to))] = arc;
  }
  into[at(root)] = -1;
  return into;
}

}  // namespace kiteknot::structures
