// Sides of a network: every point is on one side or the other, and what is paid depends on points
// alone and on pairs that are parted. A choice with prerequisites is the same (Picard 1976,
// "Maximal closure of a graph and applications to combinatorial problems").

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/special_kind.hpp"
#include "structures/least_cut.hpp"

namespace kiteknot::methods {
namespace {

constexpr Index kOneSide = 0,
                kZeroSide = 1;  // the nodes of those that are 1, and of those that are 0

struct Sides final : SpecialKind {
  std::vector<Index> node;  // by decision; -1: it says that a pair is parted
  // By decision, if it says so: of each of its rows the points; it is 1 where the first is 1 and
  // the second 0.
  std::vector<std::vector<std::pair<Index, Index>>> parted;
  Index nodes = 2;
  std::vector<structures::CutArc> arcs;
  std::size_t pairs = 0;
  double apart = 0.0;  // what the cut's capacity and the goal differ by
  std::int64_t never = 0;

  [[nodiscard]] std::string told() const override {
    return fmt::format("a choice of sides for {} with {} between them: a least cut",
                       counted(at(nodes) - 2, "point"), counted(pairs, "tie"));
  }
};

class CutFinder {
 public:
  explicit CutFinder(const PlainProblem& p) : p_(p) {}

  std::unique_ptr<SpecialKind> run() {
    if (p_.num_rows() == 0 || !std::ranges::all_of(p_.cost, whole_figure)) return {};
    if (!find_parting()) return {};
    for (Index i = 0; i < p_.num_rows(); ++i)
      if (!take_row(i)) return {};
    if (k_->pairs == 0) return {};
    return take_costs() ? std::move(k_) : nullptr;
  }

 private:
  // A row as one that has to reach something; nothing for equations.
  struct AtLeast {
    double sign = 1.0, least = 0.0;
  };
  [[nodiscard]] std::optional<AtLeast> at_least(Index i) const {
    const bool above = std::isfinite(p_.low[at(i)]), below = std::isfinite(p_.high[at(i)]);
    if (above == below) return {};
    return above ? AtLeast{1.0, p_.low[at(i)]} : AtLeast{-1.0, -p_.high[at(i)]};
  }

  // What is paid for a parted pair: it costs something, is never asked to be small, and stands with
  // two others, or with one where that one's partner is fixed.
  bool find_parting() {
    std::vector<char> small(p_.cost.size(), 0), with_two(p_.cost.size(), 0);
    std::vector<int> rows(p_.cost.size(), 0);
    for (Index i = 0; i < p_.num_rows(); ++i) {
      const auto row = at_least(i);
      if (!row && p_.row(i).size() != 1) return false;
      if (p_.row(i).size() > 3) return false;
      double sum = 0.0;
      for (const WeightedNode& t : p_.row(i)) sum += row ? row->sign * t.weight : 0.0;
      for (const WeightedNode& t : p_.row(i)) {
        ++rows[at(t.node)];
        if (!row || row->sign * t.weight < 0.0) small[at(t.node)] = 1;
        if (p_.row(i).size() == 3 || (p_.row(i).size() == 2 && sum > 0.0)) with_two[at(t.node)] = 1;
      }
    }
    k_->node.assign(p_.cost.size(), -1);
    k_->parted.resize(p_.cost.size());
    std::vector<char> may(p_.cost.size(), 0);
    for (Index d = 0; d < p_.num_decisions(); ++d) {
      const DecisionRange& range = p_.ranges[at(d)];
      may[at(d)] = !small[at(d)] && p_.cost[at(d)] > 0.0 && rows[at(d)] <= 2 &&
                   range.lower == 0.0 && range.upper >= 1.0 && range.listed.empty() &&
                   !range.or_zero;
      if (!with_two[at(d)] && range.binary()) may[at(d)] = 0;
    }
    // Of two in a row one is a point: either may be, unless it is not binary or stands elsewhere.
    for (Index i = 0; i < p_.num_rows(); ++i) {
      Index one = -1;
      for (const WeightedNode& t : p_.row(i)) {
        if (!may[at(t.node)]) continue;
        if (one < 0) {
          one = t.node;
          continue;
        }
        const auto first = [&](Index d) { return std::pair(p_.binary(d), rows[at(d)]); };
        may[at(first(t.node) < first(one) ? one : t.node)] = 0;
        if (!may[at(one)]) one = t.node;
      }
    }
    for (Index d = 0; d < p_.num_decisions(); ++d) {
      if (may[at(d)]) continue;
      if (!p_.binary(d)) return false;
      k_->node[at(d)] = k_->nodes++;
    }
    return true;
  }
  [[nodiscard]] bool says_parted(Index d) const { return k_->node[at(d)] < 0; }

  bool take_row(Index i) {
    const auto terms = p_.row(i);
    const double w = std::abs(terms.empty() ? 0.0 : terms.front().weight);
    if (w == 0.0 ||
        !std::ranges::all_of(terms, [w](const auto& t) { return std::abs(t.weight) == w; }))
      return false;
    if (terms.size() == 1) return take_fixed(i);
    const auto row = at_least(i);
    if (!row) return false;
    Index parted = -1, more = -1, less = -1;  // parted + more - less >= 0
    for (const WeightedNode& t : terms) {
      Index& is = says_parted(t.node) ? parted : row->sign * t.weight > 0.0 ? more : less;
      if (is >= 0) return false;
      is = t.node;
    }
    // 1 on the right: that is what stands in the place of `less` then.
    const double right = row->least / w;
    const double needed = std::ceil(right);
    const Index first = less >= 0 ? k_->node[at(less)] : kOneSide;
    const Index second = more >= 0 ? k_->node[at(more)] : kZeroSide;
    if (needed != (less >= 0 ? 0.0 : 1.0)) return false;
    if (parted < 0 && (more < 0 || less < 0)) return false;
    ++k_->pairs;
    if (parted >= 0) {
      auto& pairs = k_->parted[at(parted)];
      // Both ways round at most: it is 1 where they differ.
      if (!pairs.empty() && pairs.front() != std::pair(second, first)) return false;
      pairs.emplace_back(first, second);
      if (needed != right) return false;  // a part of it would be enough
      k_->arcs.push_back({first, second, static_cast<std::int64_t>(p_.cost[at(parted)])});
    } else {
      always_.emplace_back(first, second);
    }
    return true;
  }

  // A point whose side is given.
  bool take_fixed(Index i) {
    const WeightedNode t = p_.row(i).front();
    if (says_parted(t.node)) return false;
    double low = p_.low[at(i)] / t.weight, high = p_.high[at(i)] / t.weight;
    if (t.weight < 0.0) std::swap(low, high);
    const Index node = k_->node[at(t.node)];
    if (low > 1.0 || high < 0.0 || (low > 0.0 && high < 1.0)) return false;
    if (low > 0.0) always_.emplace_back(kOneSide, node);
    if (high < 1.0) always_.emplace_back(node, kZeroSide);
    return true;
  }

  bool take_costs() {
    double all = 0.0;
    for (Index d = 0; d < p_.num_decisions(); ++d) {
      const double cost = p_.cost[at(d)];
      all += std::abs(cost);
      if (says_parted(d)) continue;
      const Index node = k_->node[at(d)];
      if (cost > 0.0) k_->arcs.push_back({node, kZeroSide, static_cast<std::int64_t>(cost)});
      if (cost < 0.0) {
        k_->arcs.push_back({kOneSide, node, static_cast<std::int64_t>(-cost)});
        k_->apart += cost;
      }
    }
    constexpr double kMost = 1e14;
    if (2.0 * all > kMost / static_cast<double>(always_.size() + 1)) return false;
    k_->never = static_cast<std::int64_t>(2.0 * all) + 1;
    for (const auto& [from, to] : always_) k_->arcs.push_back({from, to, k_->never});
    return true;
  }

  const PlainProblem& p_;
  std::unique_ptr<Sides> k_ = std::make_unique<Sides>();
  std::vector<std::pair<Index, Index>> always_;  // never parted so
};

std::unique_ptr<SpecialKind> find_cut(const PlainProblem& p) {
  return CutFinder(p).run();
}

void cut_cheapest(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Sides&>(kind);
  WorkCounter work;
  work.obey(r.interrupt());
  const auto found = structures::least_cut(k.nodes, k.arcs, kOneSide, kZeroSide, work);
  if (!found) return;
  if (found->capacity >= k.never) {
    r.note = "no sides keep all rules";
    return;
  }
  std::vector<double> values = r.nothing();
  for (std::size_t d = 0; d < values.size(); ++d) {
    const auto is_one = [&](Index node) { return found->beside[at(node)] != 0; };
    if (k.node[d] >= 0) values[d] = is_one(k.node[d]) ? 1.0 : 0.0;
    for (const auto& [first, second] : k.parted[d])
      if (is_one(first) && !is_one(second)) values[d] = 1.0;
  }
  const double cost = static_cast<double>(found->capacity) + k.apart;
  r.take(cost, std::move(values));
  r.bound(cost);
  r.note = "a flow as great as the cut proves that nothing is better";
}

}  // namespace

KindEntry cut_kind() {
  return {"choice of sides",
          find_cut,
          {{"least cut", "of sides of a network: the cheapest cut, by the greatest flow",
            "Goldberg and Tarjan 1988; prerequisites: Picard 1976", cut_cheapest}},
          cut_cheapest,
          "a least cut"};
}

}  // namespace kiteknot::methods
