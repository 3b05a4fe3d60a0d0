// A tree that reaches all points, stated by a flow: something flows out of one point, some of it
// stays at each of the others, and it flows only where a lane is paid.

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/special_kind.hpp"
#include "structures/spanning_trees.hpp"

namespace kiteknot::methods {
namespace {

struct FlowTree final : SpecialKind {
  Index points = 0, root = 0;
  std::vector<double> need;               // by point; of the root: 0
  std::vector<structures::CostArc> arcs;  // by flow; costs are those of the lanes
  std::vector<Index> flow, lane;          // the decisions of an arc
  std::size_t lanes = 0;
  bool whole = true;

  [[nodiscard]] std::string told() const override {
    return fmt::format("a tree that reaches {} from one point, over {} that may be",
                       counted(need.size() - 1, "point"), counted(lanes, "lane"));
  }
};

class TreeFinder {
 public:
  /// `root_has_rule`: its balance is stated, or follows from the others'.
  TreeFinder(const PlainProblem& p, bool root_has_rule)
      : p_(p),
        root_has_rule_(root_has_rule),
        to_(p.cost.size(), -1),
        from_(p.cost.size(), -1),
        lane_of_(p.cost.size(), -1) {}

  std::unique_ptr<SpecialKind> run() {
    std::vector<Index> balances, links, counts;
    for (Index i = 0; i < p_.num_rows(); ++i) {
      const auto row = p_.row(i);
      const bool lanes = std::ranges::all_of(row, [&](const auto& t) { return p_.binary(t.node); });
      if (lanes)
        counts.push_back(i);
      else if (p_.low[at(i)] == p_.high[at(i)])
        balances.push_back(i);
      else
        links.push_back(i);
    }
    if (balances.size() < 2 || links.empty() || !take_points(balances)) return {};
    for (const Index i : links)
      if (!take_link(i)) return {};
    for (const Index i : counts)
      if (!holds_for_trees(i)) return {};
    return take_arcs() ? std::move(k_) : nullptr;
  }

 private:
  // Points with what stays there. The one where it comes from has all of the others' together, or
  // no rule.
  bool take_points(const std::vector<Index>& balances) {
    double all = 0.0, largest = 0.0;
    for (const Index i : balances) {
      const double amount = std::abs(p_.low[at(i)] / std::abs(p_.row(i).front().weight));
      if (!whole_figure(amount) || amount == 0.0) return false;
      all += amount;
      largest = std::max(largest, amount);
    }
    const bool has_root = root_has_rule_;
    if (has_root && (balances.size() < 3 || 2.0 * largest != all)) return false;
    total_ = has_root ? largest : all;
    k_->points = static_cast<Index>(balances.size()) + (has_root ? 0 : 1);
    k_->root = k_->points - 1;  // where it has no rule
    for (const Index i : balances) {
      const double w = std::abs(p_.row(i).front().weight), amount = std::abs(p_.low[at(i)]) / w;
      const auto point = static_cast<Index>(k_->need.size());
      const bool is_root = has_root && amount == largest;
      if (is_root) k_->root = point;
      k_->need.push_back(is_root ? 0.0 : amount);
      // What comes in is above 0 where something stays, and below 0 at the root.
      const double in = (p_.low[at(i)] > 0.0) == is_root ? -w : w;
      for (const WeightedNode& t : p_.row(i)) {
        if (p_.binary(t.node) || std::abs(t.weight) != w) return false;
        Index& end = t.weight == in ? to_[at(t.node)] : from_[at(t.node)];
        if (end >= 0) return false;
        end = point;
      }
    }
    if (!has_root) k_->need.push_back(0.0);
    return true;
  }

  // Nothing flows where the lane is not paid; as much as there is where it is.
  bool take_link(Index i) {
    const auto row = p_.row(i);
    const bool below = std::isfinite(p_.high[at(i)]);
    if (below == std::isfinite(p_.low[at(i)])) return false;
    const double sign = below ? 1.0 : -1.0;
    if ((below ? p_.high : p_.low)[at(i)] != 0.0 || row.size() < 2 || row.size() > 3) return false;
    Index lane = -1;
    double room = 0.0, weight = 0.0;
    for (const WeightedNode& t : row) {
      const double w = sign * t.weight;
      if (p_.binary(t.node)) {
        if (lane >= 0 || w >= 0.0) return false;
        lane = t.node;
        room = -w;
      } else {
        if (w <= 0.0 || (weight != 0.0 && weight != w)) return false;
        weight = w;
      }
    }
    if (lane < 0 || weight == 0.0 || room < total_ * weight) return false;
    for (const WeightedNode& t : row)
      if (t.node != lane) {
        if (lane_of_[at(t.node)] >= 0) return false;
        lane_of_[at(t.node)] = lane;
      }
    return true;
  }

  // How many lanes there are: one fewer than points is what trees have.
  [[nodiscard]] bool holds_for_trees(Index i) const {
    const double w = p_.same_weight(i), lanes = static_cast<double>(k_->points - 1);
    if (w == 0.0) return false;
    const auto all = std::ranges::count_if(p_.ranges, &DecisionRange::binary);
    return static_cast<std::ptrdiff_t>(p_.row(i).size()) == all && p_.low[at(i)] <= w * lanes &&
           p_.high[at(i)] >= w * lanes;
  }

  bool take_arcs() {
    std::vector<std::vector<Index>> flows(p_.cost.size());  // by lane
    for (Index d = 0; d < p_.num_decisions(); ++d) {
      if (p_.binary(d)) {
        if (p_.cost[at(d)] < 0.0) return false;
        k_->whole = k_->whole && whole_figure(p_.cost[at(d)]);
        ++k_->lanes;
        continue;
      }
      const DecisionRange& range = p_.ranges[at(d)];
      if (range.lower != 0.0 || range.upper < total_ || range.or_zero || !range.listed.empty() ||
          p_.cost[at(d)] != 0.0 || lane_of_[at(d)] < 0)
        return false;
      if (to_[at(d)] < 0 && !root_has_rule_) to_[at(d)] = k_->root;
      if (from_[at(d)] < 0 && !root_has_rule_) from_[at(d)] = k_->root;
      if (to_[at(d)] < 0 || from_[at(d)] < 0 || to_[at(d)] == from_[at(d)]) return false;
      flows[at(lane_of_[at(d)])].push_back(d);
      k_->flow.push_back(d);
      k_->lane.push_back(lane_of_[at(d)]);
    }
    if (!k_->whole) return false;
    for (const auto& of_lane : flows)  // one way, or to and fro
      if (of_lane.size() > 2 ||
          (of_lane.size() == 2 && (to_[at(of_lane[0])] != from_[at(of_lane[1])] ||
                                   to_[at(of_lane[1])] != from_[at(of_lane[0])])))
        return false;
    for (std::size_t a = 0; a < k_->flow.size(); ++a)
      k_->arcs.push_back({from_[at(k_->flow[a])], to_[at(k_->flow[a])],
                          static_cast<std::int64_t>(p_.cost[at(k_->lane[a])])});
    return true;
  }

  const PlainProblem& p_;
  bool root_has_rule_;
  std::unique_ptr<FlowTree> k_ = std::make_unique<FlowTree>();
  std::vector<Index> to_, from_, lane_of_;  // by flow decision
  double total_ = 0.0;
};

std::unique_ptr<SpecialKind> find_tree(const PlainProblem& p) {
  auto found = TreeFinder(p, true).run();
  return found ? std::move(found) : TreeFinder(p, false).run();
}

void tree_grown(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const FlowTree&>(kind);
  const auto into = structures::least_branching(k.points, k.arcs, k.root);
  if (!into) {
    r.note = "not all points can be reached";
    return;
  }
  std::vector<double> values = r.nothing();
  double cost = 0.0;
  for (Index v = 0; v < k.points; ++v) {
    const Index a = (*into)[at(v)];
    if (a < 0) continue;
    values[at(k.lane[at(a)])] = 1.0;
    cost += static_cast<double>(k.arcs[at(a)].cost);
    // What stays here comes all the way from the root.
    for (Index u = v; u != k.root; u = k.arcs[at((*into)[at(u)])].from)
      values[at(k.flow[at((*into)[at(u)])])] += k.need[at(v)];
  }
  r.take(cost, std::move(values));
  r.bound(cost);
  r.note = "no tree costs less";
}

}  // namespace

KindEntry tree_kind() {
  return {"tree that reaches all points",
          find_tree,
          {{"least tree", "of a tree over points: the cheapest lane into each, rings shrunk",
            "Chu and Liu 1965; Edmonds 1967; Gabow, Galil, Spencer and Tarjan 1986", tree_grown}},
          tree_grown,
          "the cheapest lanes into points"};
}

}  // namespace kiteknot::methods
