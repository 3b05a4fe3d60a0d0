#include "structures/tours/cuts/cut_tree.hpp"

#include <algorithm>

namespace kiteknot::structures::tours {
namespace {

constexpr double kNothing = 1e-9;

}  // namespace

void FlowGraph::add(Index a, Index b, double there, double back) {
  arcs_[at(a)].push_back({b, static_cast<Index>(arcs_[at(b)].size()), there, there});
  arcs_[at(b)].push_back({a, static_cast<Index>(arcs_[at(a)].size()) - 1, back, back});
}

bool FlowGraph::find_levels(Index from, Index to) {
  level_.assign(arcs_.size(), -1);
  level_[at(from)] = 0;
  queue_.assign(1, from);
  for (std::size_t k = 0; k < queue_.size() && level_[at(to)] < 0; ++k)
    for (const Half& h : arcs_[at(queue_[k])])
      if (h.left > kNothing && level_[at(h.to)] < 0) {
        level_[at(h.to)] = level_[at(queue_[k])] + 1;
        queue_.push_back(h.to);
      }
  return level_[at(to)] >= 0;
}

// As deep as a path is long; small graphs only come here, and long paths are contracted before.
double FlowGraph::push(Index v, Index to, double most) {
  if (v == to) return most;
  double pushed = 0.0;
  for (std::size_t& k = next_[at(v)]; k < arcs_[at(v)].size(); ++k) {
    Half& h = arcs_[at(v)][k];
    if (h.left <= kNothing || level_[at(h.to)] != level_[at(v)] + 1) continue;
    const double got = push(h.to, to, std::min(most - pushed, h.left));
    if (got <= 0.0) continue;
    Half& other = arcs_[at(h.to)][at(h.back)];
    used_.push_back(&h);
    used_.push_back(&other);
    h.left -= got;
    other.left += got;
    pushed += got;
    if (most - pushed <= kNothing) return pushed;
  }
  return pushed;
}

double FlowGraph::least_cut(Index from, Index to, std::vector<char>& from_side, double enough) {
  used_.clear();
  double flow = 0.0;
  while (flow < enough - kNothing && find_levels(from, to)) {
    next_.assign(arcs_.size(), 0);
    flow += push(from, to, enough - flow);
  }
  for (Half* h : used_) h->left = h->carries;
  if (flow >= enough - kNothing) return enough;
  from_side.assign(arcs_.size(), 0);
  for (std::size_t v = 0; v < arcs_.size(); ++v) from_side[v] = level_[v] >= 0 ? 1 : 0;
  return flow;
}

// With legs of no end between all that no cut of less than `enough` parts, the smaller cuts stay as
// they are, and every cut between two of those is a least one: here the one around the first alone,
// so that nothing else of the tree moves.
CutTree FlowGraph::cut_tree(double enough) {
  CutTree tree{std::vector<Index>(arcs_.size(), 0), std::vector<double>(arcs_.size(), 0.0)};
  tree.parent[0] = -1;
  std::vector<char> side;
  for (Index s = 1; s < size(); ++s) {
    const Index t = tree.parent[at(s)];
    tree.least[at(s)] = least_cut(s, t, side, enough);
    if (tree.least[at(s)] >= enough) continue;
    for (Index i = 1; i < size(); ++i)
      if (i != s && side[at(i)] != 0 && tree.parent[at(i)] == t) tree.parent[at(i)] = s;
    // So that every leg of the tree shows its two sides, not only its value.
    if (t != 0 && tree.parent[at(t)] >= 0 && side[at(tree.parent[at(t)])] != 0) {
      tree.parent[at(s)] = tree.parent[at(t)];
      tree.parent[at(t)] = s;
      std::swap(tree.least[at(s)], tree.least[at(t)]);
    }
  }
  return tree;
}

}  // namespace kiteknot::structures::tours
