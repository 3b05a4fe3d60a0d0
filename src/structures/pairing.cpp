#include "structures/pairing.hpp"

#include <algorithm>
#include <deque>
#include <numeric>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

// A node is a vertex, or a ring: an odd number of nodes one after the other, shrunk to one, of
// which all but the base are paired along the ring. An edge is tight where the prices of its ends
// make up twice its weight, with those of the rings that hold both; pairs are tight.
class Blossoms {
 public:
  Blossoms(Index n, const std::vector<Edge>& edges)
      : n_(n), edges_(edges), at_vertex_(at(n)), paired_(at(n), -1), price_(at(n), 0), top_(at(n)) {
    std::int64_t most = 0;
    for (Index e = 0; e < static_cast<Index>(edges.size()); ++e) {
      at_vertex_[at(edges[at(e)].a)].push_back(e);
      at_vertex_[at(edges[at(e)].b)].push_back(e);
      most = std::max(most, edges[at(e)].weight);
    }
    std::ranges::fill(price_, most);
    std::iota(top_.begin(), top_.end(), 0);
    nodes_.resize(at(n));
    for (Index v = 0; v < n; ++v) nodes_[at(v)].base = v;
  }

  std::optional<std::vector<Index>> run(WorkCounter& work) {
    while (!work.interrupted()) {
      label_free();
      if (queue_.empty()) return paired_;
      switch (grow(work)) {
        case End::longer:
          break;
        case End::best:
          return paired_;
        case End::stopped:
          return std::nullopt;
      }
    }
    return std::nullopt;
  }

 private:
  enum class Label : unsigned char { none, outer, inner };
  enum class End { longer, best, stopped };
  // An edge as it is gone along.
  struct Way {
    Index edge = -1, from = -1, to = -1;  // ends are vertices
    [[nodiscard]] Way back() const { return {edge, to, from}; }
  };
  struct Node {
    Index parent = -1, base = -1;
    Label label = Label::none;  // of those at the top
    Way through;                // how it was reached; none: it is free
    std::int64_t price = 0;     // of a ring, doubled as its edges are
    std::vector<Index> ring;    // from the base on
    std::vector<Way> links;     // from each of the ring to the next
  };

  [[nodiscard]] Way along(Index e, Index from) const {
    const Edge& edge = edges_[at(e)];
    return {e, from, edge.a == from ? edge.b : edge.a};
  }
  [[nodiscard]] std::int64_t slack(Index e) const {  // between different nodes at the top
    const Edge& edge = edges_[at(e)];
    return price_[at(edge.a)] + price_[at(edge.b)] - 2 * edge.weight;
  }
  [[nodiscard]] Label label_of(Index vertex) const { return nodes_[at(top_[at(vertex)])].label; }

  template <class Do>
  void each_vertex(Index node, Do&& act) const {
    std::vector<Index> stack{node};
    while (!stack.empty()) {
      const Index k = stack.back();
      stack.pop_back();
      if (k < n_)
        act(k);
      else
        stack.insert(stack.end(), nodes_[at(k)].ring.begin(), nodes_[at(k)].ring.end());
    }
  }

  void make_outer(Index node, Way through) {
    nodes_[at(node)].label = Label::outer;
    nodes_[at(node)].through = through;
    each_vertex(node, [&](Index v) { queue_.push_back(v); });
  }
  void make_inner(Index node, Way through) {
    nodes_[at(node)].label = Label::inner;
    nodes_[at(node)].through = through;
  }

  void label_free() {
    queue_.clear();
    for (Node& node : nodes_) node.label = Label::none;
    for (Index v = 0; v < n_; ++v)
      if (const Index top = top_[at(v)]; nodes_[at(top)].base == v && paired_[at(v)] < 0)
        make_outer(top, {});
  }

  // Trees from all free nodes along tight edges, prices in between, until a path between two free
  // nodes is found.
  End grow(WorkCounter& work) {
    for (;;) {
      while (!queue_.empty()) {
        const Index v = queue_.front();
        queue_.pop_front();
        work.add(static_cast<std::int64_t>(at_vertex_[at(v)].size()) + 1);
        for (const Index e : at_vertex_[at(v)])
          if (reach(along(e, v))) return End::longer;
      }
      if (work.interrupted()) return End::stopped;
      if (!change_prices(work)) return End::best;
    }
  }

  // From an outer vertex; true where a path was found and taken.
  bool reach(const Way& way) {
    const Index here = top_[at(way.from)], there = top_[at(way.to)];
    if (here == there || slack(way.edge) > 0) return false;
    Node& other = nodes_[at(there)];
    if (other.label == Label::none) {
      make_inner(there, way);
      const Way pair = along(paired_[at(other.base)], other.base);
      make_outer(top_[at(pair.to)], pair);
    } else if (other.label == Label::outer) {
      const Index common = common_root(here, there);
      if (common < 0) {
        augment(way);
        return true;
      }
      shrink(common, way);
    }
    return false;
  }

  // The outer node before an outer one on its way to the root; -1: it is one.
  [[nodiscard]] Index before(Index outer) const {
    const Way& pair = nodes_[at(outer)].through;
    if (pair.edge < 0) return -1;
    return top_[at(nodes_[at(top_[at(pair.from)])].through.from)];
  }

  [[nodiscard]] Index common_root(Index a, Index b) const {
    std::vector<Index> seen;
    std::vector<char>& mark = mark_;
    mark.resize(nodes_.size(), 0);
    Index found = -1;
    while (a >= 0 || b >= 0) {
      if (a >= 0) {
        if (mark[at(a)]) {
          found = a;
          break;
        }
        mark[at(a)] = 1;
        seen.push_back(a);
        a = before(a);
      }
      std::swap(a, b);
    }
    for (const Index k : seen) mark[at(k)] = 0;
    return found;
  }

  [[nodiscard]] Index new_node() {
    if (!unused_.empty()) {
      const Index k = unused_.back();
      unused_.pop_back();
      return k;
    }
    nodes_.emplace_back();
    return static_cast<Index>(nodes_.size()) - 1;
  }

  // The ring that an edge between two outer nodes closes.
  void shrink(Index root, const Way& way) {
    const Index made = new_node();
    Node ring;
    ring.base = nodes_[at(root)].base;
    ring.through = nodes_[at(root)].through;
    ring.label = Label::outer;
    const auto climb = [&](Index k, std::vector<Index>& kids, std::vector<Way>& ways) {
      while (k != root) {  // two at a time: outer, inner
        const Way pair = nodes_[at(k)].through;
        const Index inner = top_[at(pair.from)];
        kids.insert(kids.end(), {k, inner});
        ways.insert(ways.end(), {pair, nodes_[at(inner)].through});
        k = top_[at(ways.back().from)];
      }
    };
    std::vector<Index> left, right;
    std::vector<Way> left_ways, right_ways;
    climb(top_[at(way.from)], left, left_ways);
    climb(top_[at(way.to)], right, right_ways);
    ring.ring.push_back(root);
    ring.ring.insert(ring.ring.end(), left.rbegin(), left.rend());
    ring.links.assign(left_ways.rbegin(), left_ways.rend());
    ring.links.push_back(way);
    ring.ring.insert(ring.ring.end(), right.begin(), right.end());
    for (const Way& w : right_ways) ring.links.push_back(w.back());
    for (const Index k : ring.ring) {
      nodes_[at(k)].parent = made;
      if (nodes_[at(k)].label == Label::inner)
        each_vertex(k, [&](Index v) { queue_.push_back(v); });
    }
    nodes_[at(made)] = std::move(ring);
    each_vertex(made, [&](Index v) { top_[at(v)] = made; });
  }

  // Pairs along the way from both of its ends to the roots change.
  void augment(const Way& way) {
    for (Way w : {way, way.back()}) {
      for (;;) {
        const Index outer = top_[at(w.from)];
        const Way pair = nodes_[at(outer)].through;
        rebase(outer, w.from);
        paired_[at(w.from)] = w.edge;
        if (pair.edge < 0) break;
        const Index inner = top_[at(pair.from)];
        w = nodes_[at(inner)].through;
        rebase(inner, w.to);
        paired_[at(w.to)] = w.edge;
      }
    }
  }

  // Where on the ring a vertex is.
  [[nodiscard]] std::size_t place_on(Index ring, Index vertex) const {
    Index k = vertex;
    while (nodes_[at(k)].parent != ring) k = nodes_[at(k)].parent;
    const auto& all = nodes_[at(ring)].ring;
    return static_cast<std::size_t>(std::ranges::find(all, k) - all.begin());
  }

  // From a place on a ring to its base, the way round on which two and two are paired: `act` is
  // told two links at a time, both in the direction that is gone.
  template <class Do>
  void each_two(Index ring, std::size_t from, Do&& act) const {
    const Node& r = nodes_[at(ring)];
    const std::size_t size = r.ring.size();
    if (from % 2 == 1)
      for (std::size_t k = from; k != size; k += 2) act(r.links[k], r.links[k + 1]);
    else
      for (std::size_t k = from; k != 0; k -= 2) act(r.links[k - 1].back(), r.links[k - 2].back());
  }

  // All but `vertex` are paired within the node.
  void rebase(Index node, Index vertex) {
    if (node < n_) return;
    const std::size_t from = place_on(node, vertex);
    rebase(nodes_[at(node)].ring[from], vertex);
    each_two(node, from, [&](const Way&, const Way& pair) {
      rebase(child_of(node, pair.from), pair.from);
      rebase(child_of(node, pair.to), pair.to);
      paired_[at(pair.from)] = paired_[at(pair.to)] = pair.edge;
    });
    Node& r = nodes_[at(node)];
    const auto by = static_cast<std::ptrdiff_t>(from);
    std::rotate(r.ring.begin(), r.ring.begin() + by, r.ring.end());
    std::rotate(r.links.begin(), r.links.begin() + by, r.links.end());
    r.base = vertex;
  }
  [[nodiscard]] Index child_of(Index ring, Index vertex) const {
    Index k = vertex;
    while (nodes_[at(k)].parent != ring) k = nodes_[at(k)].parent;
    return k;
  }

  // By as much as no edge becomes less than tight and no price falls below 0. False: the prices
  // prove that nothing is heavier.
  bool change_prices(WorkCounter& work) {
    std::int64_t by = -1;
    Index tight = -1, falls_apart = -1;
    bool ends = false;
    const auto least = [&](std::int64_t d) {
      if (by >= 0 && d >= by) return false;
      by = d;
      tight = falls_apart = -1;
      ends = false;
      return true;
    };
    for (Index v = 0; v < n_; ++v)
      if (label_of(v) == Label::outer && least(price_[at(v)])) ends = true;
    for (Index e = 0; e < static_cast<Index>(edges_.size()); ++e) {
      const Index a = top_[at(edges_[at(e)].a)], b = top_[at(edges_[at(e)].b)];
      if (a == b) continue;
      const Label x = nodes_[at(a)].label, y = nodes_[at(b)].label;
      if (x == Label::outer && y == Label::outer) {  // an even number: outer prices move together
        if (least(slack(e) / 2)) tight = e;
      } else if ((x == Label::outer && y == Label::none) ||
                 (x == Label::none && y == Label::outer)) {
        if (least(slack(e))) tight = e;
      }
    }
    for (Index k = n_; k < static_cast<Index>(nodes_.size()); ++k) {
      const Node& ring = nodes_[at(k)];
      if (ring.parent < 0 && !ring.ring.empty() && ring.label == Label::inner &&
          least(ring.price / 2))
        falls_apart = k;
    }
    work.add(static_cast<std::int64_t>(edges_.size() + nodes_.size()));
    if (by < 0 || ends) return false;
    for (Index v = 0; v < n_; ++v) {
      if (label_of(v) == Label::outer) price_[at(v)] -= by;
      if (label_of(v) == Label::inner) price_[at(v)] += by;
    }
    for (Index k = n_; k < static_cast<Index>(nodes_.size()); ++k) {
      Node& ring = nodes_[at(k)];
      if (ring.parent >= 0 || ring.ring.empty()) continue;
      if (ring.label == Label::outer) ring.price += 2 * by;
      if (ring.label == Label::inner) ring.price -= 2 * by;
    }
    if (falls_apart >= 0) {
      expand(falls_apart);
    } else {
      const Edge& edge = edges_[at(tight)];
      queue_.push_back(label_of(edge.a) == Label::outer ? edge.a : edge.b);
    }
    return true;
  }

  // An inner ring without a price: those on the way from where it was reached to its base stay in
  // the tree, the others are free to be reached again.
  void expand(Index ring) {
    const Way through = nodes_[at(ring)].through;
    const std::vector<Index> kids = nodes_[at(ring)].ring;
    for (const Index k : kids) {
      each_vertex(k, [&](Index v) { top_[at(v)] = k; });
      nodes_[at(k)].label = Label::none;
    }
    const std::size_t from = place_on(ring, through.to);
    make_inner(kids[from], through);
    each_two(ring, from, [&](const Way& pair, const Way& next) {
      make_outer(top_[at(pair.to)], pair);
      make_inner(top_[at(next.to)], next);
    });
    for (const Index k : kids) nodes_[at(k)].parent = -1;
    nodes_[at(ring)] = {};
    unused_.push_back(ring);
    queue_.clear();  // whoever is outer looks again
    for (Index v = 0; v < n_; ++v)
      if (label_of(v) == Label::outer) queue_.push_back(v);
  }

  Index n_;
  const std::vector<Edge>& edges_;
  std::vector<std::vector<Index>> at_vertex_;
  std::vector<Index> paired_;        // by vertex: its edge
  std::vector<std::int64_t> price_;  // by vertex
  std::vector<Index> top_;           // by vertex: the node at the top that holds it
  std::vector<Node> nodes_;          // vertices, then rings
  std::vector<Index> unused_;
  std::deque<Index> queue_;  // outer vertices that were not looked at
  mutable std::vector<char> mark_;
};

}  // namespace

std::optional<std::vector<Index>> heaviest_pairs(Index nodes, const std::vector<Edge>& edges,
                                                 WorkCounter& work) {
  return Blossoms(nodes, edges).run(work);
}

std::vector<Index> pairs_by_weight(Index nodes, const std::vector<Edge>& edges) {
  std::vector<Index> order(edges.size()), of(at(nodes), -1);
  std::iota(order.begin(), order.end(), 0);
  std::ranges::stable_sort(
      order, [&](Index a, Index b) { return edges[at(a)].weight > edges[at(b)].weight; });
  for (const Index e : order) {
    const Edge& edge = edges[at(e)];
    if (edge.weight > 0 && of[at(edge.a)] < 0 && of[at(edge.b)] < 0)
      of[at(edge.a)] = of[at(edge.b)] = e;
  }
  return of;
}

}  // namespace kiteknot::structures
