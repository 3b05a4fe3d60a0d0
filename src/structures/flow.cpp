#include "structures/flow.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "base/infinity.hpp"

namespace kiteknot::structures {
namespace {

constexpr Index kNone = -1;

class NetworkSimplex {
 public:
  NetworkSimplex(Index nodes, const std::vector<Arc>& arcs)
      : nodes_(nodes), num_arcs_(static_cast<Index>(arcs.size())), arcs_(arcs) {}

  std::optional<FlowTree> run(std::int64_t most_work, WorkCounter& work) {
    if (!start()) return std::nullopt;
    const std::int64_t until = work.units() + most_work;
    for (Index entering = price(work); entering != kNone; entering = price(work)) {
      if (!pivot(entering, work)) return std::nullopt;  // a cycle without an end
      if (work.units() >= until || work.interrupted()) return std::nullopt;
    }
    for (Index v = 0; v + 1 < nodes_; ++v)
      if (flow_[at(num_arcs_ + v)] != 0.0) return std::nullopt;  // no circulation
    FlowTree tree;
    tree.place.assign(place_.begin(), place_.begin() + num_arcs_);
    tree.flow.assign(flow_.begin(), flow_.begin() + num_arcs_);
    for (Index v = 0; v < nodes_; ++v)
      tree.outside.push_back(v + 1 < nodes_ && place_[at(num_arcs_ + v)] == Place::tree);
    tree.pivots = pivots_;
    return tree;
  }

 private:
  using Place = FlowTree::Place;

  // Arcs stand at the end of their box next to 0; a dear arc of its own ties every node to the root
  // and carries what is missing.
  bool start() {
    const Index root = nodes_ - 1;
    double dearest = 0.0;
    std::vector<double> excess(at(nodes_), 0.0);  // that came in
    for (const Arc& a : arcs_) {
      if (a.lower > a.upper) return false;
      dearest = std::max(dearest, std::abs(a.cost));
      const bool low = std::isfinite(a.lower), high = std::isfinite(a.upper);
      const double x = low    ? (high && std::abs(a.upper) < std::abs(a.lower) ? a.upper : a.lower)
                       : high ? a.upper
                              : 0.0;
      place_.push_back(!low && !high         ? Place::at_zero
                       : low && x == a.lower ? Place::at_lower
                                             : Place::at_upper);
      flow_.push_back(x);
      excess[at(a.to)] += x;
      excess[at(a.from)] -= x;
    }
    const double dear = (1.0 + dearest) * static_cast<double>(nodes_);
    parent_.assign(at(nodes_), root);
    depth_.assign(at(nodes_), 1);
    arc_up_.assign(at(nodes_), kNone);
    price_.assign(at(nodes_), 0.0);
    first_.assign(at(nodes_), kNone);
    next_.assign(at(nodes_), kNone);
    before_.assign(at(nodes_), kNone);
    parent_[at(root)] = kNone;
    depth_[at(root)] = 0;
    for (Index v = 0; v < root; ++v) {
      // Where nothing is missing the arc goes up, so that more can.
      const bool up = excess[at(v)] >= 0.0;
      arcs_.push_back({up ? v : root, up ? root : v, 0.0, kInf, dear});
      place_.push_back(Place::tree);
      flow_.push_back(std::abs(excess[at(v)]));
      arc_up_[at(v)] = num_arcs_ + v;
      price_[at(v)] = up ? dear : -dear;
      hang(v, root);
    }
    least_ = 1e-9 * (1.0 + dearest);
    block_ = std::max<Index>(20, static_cast<Index>(std::sqrt(static_cast<double>(num_arcs_))));
    return true;
  }

  // The cost of one more unit around the cycle that the arc closes.
  [[nodiscard]] double reduced(Index a) const {
    const Arc& arc = arcs_[at(a)];
    return arc.cost - price_[at(arc.from)] + price_[at(arc.to)];
  }

  // The best arc of the first block that has one, on from where the last one was.
  Index price(WorkCounter& work) {
    Index best = kNone;
    double most = least_;
    for (Index seen = 0, in_block = 0; seen < num_arcs_; ++seen) {
      const Index a = next_arc_;
      next_arc_ = a + 1 == num_arcs_ ? 0 : a + 1;
      if (place_[at(a)] != Place::tree) {
        const double d = reduced(a);
        const double gain = place_[at(a)] == Place::at_lower   ? -d
                            : place_[at(a)] == Place::at_upper ? d
                                                               : std::abs(d);
        if (gain > most && arcs_[at(a)].lower < arcs_[at(a)].upper) {
          most = gain;
          best = a;
        }
      }
      if (++in_block < block_) continue;
      work.add(in_block);
      in_block = 0;
      if (best != kNone) return best;
    }
    return best;
  }

  void hang(Index v, Index parent) {
    parent_[at(v)] = parent;
    before_[at(v)] = kNone;
    next_[at(v)] = first_[at(parent)];
    if (next_[at(v)] != kNone) before_[at(next_[at(v)])] = v;
    first_[at(parent)] = v;
  }

  void cut_off(Index v) {
    const Index before = before_[at(v)], next = next_[at(v)];
    (before != kNone ? next_[at(before)] : first_[at(parent_[at(v)])]) = next;
    if (next != kNone) before_[at(next)] = before;
  }

  // By how much the flow of a node's arc to its parent can grow in the direction up or down.
  [[nodiscard]] double room(Index v, bool up) const {
    const Index a = arc_up_[at(v)];
    const Arc& arc = arcs_[at(a)];
    const bool forward = (arc.from == v) == up;
    return forward ? arc.upper - flow_[at(a)] : flow_[at(a)] - arc.lower;
  }
  void push(Index v, bool up, double amount) {
    const Index a = arc_up_[at(v)];
    flow_[at(a)] += (arcs_[at(a)].from == v) == up ? amount : -amount;
  }

  // The flow goes along the entering arc from `tail` to `head`, up from there to where both ways
  // meet, and down to `tail`. The last arc of that way, from the meeting on, that can carry no more
  // leaves: so the tree stays strongly feasible.
  bool pivot(Index entering, WorkCounter& work) {
    ++pivots_;
    const Arc& arc = arcs_[at(entering)];
    const bool forward = place_[at(entering)] == Place::at_lower ||
                         (place_[at(entering)] == Place::at_zero && reduced(entering) < 0.0);
    const Index tail = forward ? arc.from : arc.to, head = forward ? arc.to : arc.from;
    double amount = arc.upper - arc.lower;
    Index leaves = kNone;  // the node below the arc
    bool on_tail_side = false;
    // From the meeting: down to tail, over the arc, up from head. Met in the other order here: on
    // tail's side the first one found wins ties, then the arc itself, on head's side the last one.
    Index u = tail, v = head;
    std::int64_t steps = 0;
    while (u != v) {
      ++steps;
      if (depth_[at(u)] >= depth_[at(v)]) {
        const double r = room(u, false);
        if (r < amount) {
          amount = r;
          leaves = u;
          on_tail_side = true;
        }
        u = parent_[at(u)];
      } else {
        v = parent_[at(v)];
      }
    }
    for (v = head; v != u; v = parent_[at(v)]) {
      ++steps;
      const double r = room(v, true);
      if (r <= amount) {
        amount = r;
        leaves = v;
        on_tail_side = false;
      }
    }
    if (amount == kInf) return false;
    if (amount > 0.0) {
      flow_[at(entering)] += forward ? amount : -amount;
      for (Index w = tail; w != u; w = parent_[at(w)]) push(w, false, amount);
      for (Index w = head; w != u; w = parent_[at(w)]) push(w, true, amount);
    }
    work.add(3 * steps + 8);
    if (leaves == kNone) {  // from one end of its box to the other
      place_[at(entering)] = forward ? Place::at_upper : Place::at_lower;
      return true;
    }
    const Index out = arc_up_[at(leaves)];
    place_[at(out)] = flow_[at(out)] == arcs_[at(out)].lower ? Place::at_lower : Place::at_upper;
    place_[at(entering)] = Place::tree;
    turn(on_tail_side ? tail : head, on_tail_side ? head : tail, leaves, entering, work);
    return true;
  }

  // The part below the leaving arc now hangs at the entering one, by `inner` at `outer`.
  void turn(Index inner, Index outer, Index leaves, Index entering, WorkCounter& work) {
    Index node = inner, parent = outer, arc = entering;
    for (bool last = false; !last;) {
      last = node == leaves;
      const Index up = parent_[at(node)], old = arc_up_[at(node)];
      cut_off(node);
      hang(node, parent);
      arc_up_[at(node)] = arc;
      parent = node;
      node = up;
      arc = old;
    }
    // Prices and depths below.
    stack_.assign(1, inner);
    std::int64_t moved = 0;
    while (!stack_.empty()) {
      const Index v = stack_.back();
      stack_.pop_back();
      ++moved;
      const Arc& a = arcs_[at(arc_up_[at(v)])];
      const Index up = parent_[at(v)];
      price_[at(v)] = a.from == v ? a.cost + price_[at(up)] : price_[at(up)] - a.cost;
      depth_[at(v)] = depth_[at(up)] + 1;
      for (Index child = first_[at(v)]; child != kNone; child = next_[at(child)])
        stack_.push_back(child);
    }
    work.add(3 * moved);
  }

  Index nodes_, num_arcs_;
  std::vector<Arc> arcs_;  // and one of each node to the root
  std::vector<Place> place_;
  std::vector<double> flow_;
  std::vector<Index> parent_, depth_, arc_up_, first_, next_, before_;  // the tree
  std::vector<double> price_;  // by nodes: the arc's cost is the difference along the tree
  std::vector<Index> stack_;
  double least_ = 0.0;
  Index block_ = 0, next_arc_ = 0;
  std::int64_t pivots_ = 0;
};

}  // namespace

std::optional<FlowTree> cheapest_flow(Index nodes, const std::vector<Arc>& arcs,
                                      std::int64_t most_work, WorkCounter& work) {
  return NetworkSimplex(nodes, arcs).run(most_work, work);
}

}  // namespace kiteknot::structures
