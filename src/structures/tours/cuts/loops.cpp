#include "structures/tours/cuts/loops.hpp"

#include <algorithm>
#include <queue>

namespace kiteknot::structures::tours {

void cut_parts(const Support& support, std::vector<StopRow>& found) {
  Index count = 0;
  const std::vector<Index> part = support.parts(count, [](double) { return true; });
  if (count < 2) return;
  std::vector<std::vector<Index>> sets = members(part, count);
  // Of two parts one says all.
  if (count == 2) sets.pop_back();
  for (std::vector<Index>& set : sets) found.push_back({{std::move(set)}, 2});
}

namespace {

// The support with stops joined into nodes.
class Contracted {
 public:
  explicit Contracted(const Support& support) : parent_(at(support.num_stops())) {
    for (Index s = 0; s < support.num_stops(); ++s) parent_[at(s)] = s;
    support.each([&](Index a, Index b, double x) {
      if (x >= 1.0 - Support::kWhole)
        join(a, b);
      else
        legs_.push_back({a, b, x});
    });
  }
  Index root(Index v) {
    while (parent_[at(v)] != v) v = parent_[at(v)] = parent_[at(parent_[at(v)])];
    return v;
  }
  void join(Index a, Index b) { parent_[at(root(a))] = root(b); }

  // Nodes numbered from 0, parallel legs added up; false where one node is left.
  bool gather() {
    node_.assign(parent_.size(), -1);
    name_.clear();
    for (std::size_t s = 0; s < parent_.size(); ++s)
      if (const Index r = root(static_cast<Index>(s)); node_[at(r)] < 0) {
        node_[at(r)] = static_cast<Index>(name_.size());
        name_.push_back(r);
      }
    if (name_.size() < 2) return false;
    for (Joined& leg : legs_) {
      leg.a = root(leg.a);
      leg.b = root(leg.b);
      if (leg.a > leg.b) std::swap(leg.a, leg.b);
    }
    std::erase_if(legs_, [](const Joined& leg) { return leg.a == leg.b; });
    std::sort(legs_.begin(), legs_.end(),
              [](const Joined& p, const Joined& q) { return p.a != q.a ? p.a < q.a : p.b < q.b; });
    std::size_t kept = 0;
    for (const Joined& leg : legs_)
      if (kept > 0 && legs_[kept - 1].a == leg.a && legs_[kept - 1].b == leg.b)
        legs_[kept - 1].x += leg.x;
      else
        legs_[kept++] = leg;
    legs_.resize(kept);
    first_.assign(name_.size() + 1, 0);
    for (const Joined& leg : legs_) {
      ++first_[at(node_[at(leg.a)]) + 1];
      ++first_[at(node_[at(leg.b)]) + 1];
    }
    for (std::size_t k = 1; k < first_.size(); ++k) first_[k] += first_[k - 1];
    arcs_.resize(first_.back());
    std::vector<std::size_t> next(first_.begin(), first_.end() - 1);
    for (const Joined& leg : legs_) {
      const Index a = node_[at(leg.a)], b = node_[at(leg.b)];
      arcs_[next[at(a)]++] = {b, leg.x};
      arcs_[next[at(b)]++] = {a, leg.x};
    }
    return true;
  }

  [[nodiscard]] Index num_nodes() const noexcept { return static_cast<Index>(name_.size()); }
  [[nodiscard]] double degree(Index node) const {
    double sum = 0.0;
    for (const Arc& arc : of(node)) sum += arc.x;
    return sum;
  }
  [[nodiscard]] std::vector<Index> stops_of(Index node) {
    std::vector<Index> stops;
    for (std::size_t s = 0; s < parent_.size(); ++s)
      if (root(static_cast<Index>(s)) == name_[at(node)]) stops.push_back(static_cast<Index>(s));
    return stops;
  }

  // One order of all nodes; those that no set of less than `enough` parts are joined, and the last
  // two, between which the last one alone is the least.
  void join_by_order(double enough) {
    const auto n = at(num_nodes());
    std::vector<double> hangs(n, 0.0);
    std::vector<char> taken(n, 0);
    std::priority_queue<std::pair<double, Index>> waiting;
    Index last = -1, before = -1;
    std::vector<std::pair<Index, Index>> pairs;
    waiting.emplace(0.0, 0);
    for (std::size_t fresh = 0, count = 0; count < n;) {
      Index v = -1;
      if (waiting.empty()) {  // another part of the graph
        while (taken[fresh] != 0) ++fresh;
        v = static_cast<Index>(fresh);
      } else {
        const auto [h, top] = waiting.top();
        waiting.pop();
        if (taken[at(top)] != 0 || h < hangs[at(top)]) continue;
        v = top;
      }
      taken[at(v)] = 1;
      ++count;
      before = last;
      last = v;
      for (const Arc& arc : of(v)) {
        if (taken[at(arc.to)] != 0) continue;
        hangs[at(arc.to)] += arc.x;
        if (hangs[at(arc.to)] >= enough) pairs.emplace_back(v, arc.to);
        waiting.emplace(hangs[at(arc.to)], arc.to);
      }
    }
    for (const auto& [a, b] : pairs) join(name_[at(a)], name_[at(b)]);
    join(name_[at(before)], name_[at(last)]);
  }

 private:
  struct Joined {
    Index a = 0, b = 0;
    double x = 0.0;
  };
  [[nodiscard]] std::span<const Arc> of(Index node) const {
    return {arcs_.data() + first_[at(node)], first_[at(node) + 1] - first_[at(node)]};
  }
  std::vector<Index> parent_;  // of the forest of joined stops
  std::vector<Joined> legs_;
  std::vector<Index> node_, name_;  // by roots; by nodes
  std::vector<std::size_t> first_;
  std::vector<Arc> arcs_;
};

}  // namespace

void cut_weak_sets(const Support& support, double margin, std::vector<StopRow>& found) {
  const double enough = 2.0 - margin;
  Contracted graph(support);
  while (graph.gather()) {
    for (Index v = 0; v < graph.num_nodes(); ++v)
      if (graph.degree(v) < enough) found.push_back({{graph.stops_of(v)}, 2});
    graph.join_by_order(enough);
  }
  for (StopRow& row : found) normalise(row, support.num_stops());
  std::sort(found.begin(), found.end(),
            [](const StopRow& a, const StopRow& b) { return a.sets < b.sets; });
  found.erase(std::unique(found.begin(), found.end()), found.end());
}

}  // namespace kiteknot::structures::tours
