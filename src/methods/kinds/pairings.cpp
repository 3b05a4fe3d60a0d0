// Pairs of which no two share a point: every decision is a pair, every rule a point.

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/special_kind.hpp"
#include "structures/pairing.hpp"

namespace kiteknot::methods {
namespace {

struct Pairing final : SpecialKind {
  Index points = 0;
  std::vector<structures::Edge> pairs;  // by decision; weights with what the points call for
  std::vector<double> cost;             // by decision
  std::vector<char> needed;             // by point
  bool whole = true;                    // costs: the heaviest pairs are then the cheapest

  [[nodiscard]] std::string told() const override {
    return fmt::format("pairs among {}, {} that may be", counted(at(points), "point"),
                       counted(pairs.size(), "pair"));
  }
};

// Whether points are of two sorts, with pairs between these only: a network, which the linear
// engine solves whole.
bool two_sorts(Index points, const std::vector<std::vector<Index>>& ends) {
  std::vector<std::vector<Index>> beside(at(points));
  for (const auto& e : ends) {
    beside[at(e[0])].push_back(e[1]);
    beside[at(e[1])].push_back(e[0]);
  }
  std::vector<signed char> sort(at(points), 0);
  for (Index from = 0; from < points; ++from) {
    if (sort[at(from)] != 0) continue;
    sort[at(from)] = 1;
    for (std::vector<Index> stack{from}; !stack.empty();) {
      const Index v = stack.back();
      stack.pop_back();
      for (const Index w : beside[at(v)]) {
        if (sort[at(w)] == sort[at(v)]) return false;
        if (sort[at(w)] != 0) continue;
        sort[at(w)] = static_cast<signed char>(-sort[at(v)]);
        stack.push_back(w);
      }
    }
  }
  return true;
}

std::unique_ptr<SpecialKind> find_pairing(const PlainProblem& p) {
  if (!p.all_binary() || p.num_rows() < 3) return {};
  auto found = std::make_unique<Pairing>();
  Pairing& k = *found;
  k.points = p.num_rows();
  k.cost = p.cost;
  std::vector<std::vector<Index>> ends(p.cost.size());
  for (Index i = 0; i < p.num_rows(); ++i) {
    if (!p.one_of(i) && !p.at_most_one_of(i)) return {};
    k.needed.push_back(p.one_of(i) ? 1 : 0);
    for (const WeightedNode& t : p.row(i)) ends[at(t.node)].push_back(i);
  }
  if (!std::ranges::all_of(ends, [](const auto& e) { return e.size() == 2 && e[0] != e[1]; }))
    return {};
  if (two_sorts(k.points, ends)) return {};
  // What is too fine for whole weights is rounded to some 30 digits in twos.
  double largest = 0.0;
  for (const double c : p.cost) {
    largest = std::max(largest, std::abs(c));
    k.whole = k.whole && whole_figure(c);
  }
  const double fit = std::ldexp(1.0, 58) / (4.0 * std::pow(static_cast<double>(k.points) + 1.0, 2));
  if (!k.whole || largest > fit) k.whole = false;
  const double scale =
      k.whole || largest == 0.0 ? 1.0 : std::min(std::ldexp(1.0, 30), fit) / largest;
  if (scale == 0.0) return {};
  // One more needed point outweighs all that pairs may bring.
  const auto point = static_cast<std::int64_t>(scale * largest + 1.0) * (k.points + 1);
  for (std::size_t d = 0; d < p.cost.size(); ++d) {
    const std::int64_t calls = k.needed[at(ends[d][0])] + k.needed[at(ends[d][1])];
    k.pairs.push_back({ends[d][0], ends[d][1],
                       calls * point - static_cast<std::int64_t>(std::llround(scale * p.cost[d]))});
  }
  return found;
}

// True where every point that needs a pair has one.
bool take_pairing(KindRun& r, const Pairing& k, const std::vector<Index>& pair_of) {
  std::vector<double> values = r.nothing();
  double cost = 0.0;
  for (Index v = 0; v < k.points; ++v) {
    const Index e = pair_of[at(v)];
    if (e < 0 && k.needed[at(v)]) return false;
    if (e < 0 || values[at(e)] > 0.0) continue;
    values[at(e)] = 1.0;
    cost += k.cost[at(e)];
  }
  r.take(cost, std::move(values));
  return true;
}

void pairs_heaviest_first(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Pairing&>(kind);
  if (!take_pairing(r, k, structures::pairs_by_weight(k.points, k.pairs)))
    r.note = "some point is left without a pair";
}

void pairs_best(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Pairing&>(kind);
  WorkCounter work;
  work.obey(r.interrupt());
  const auto pair_of = structures::heaviest_pairs(k.points, k.pairs, work);
  if (!pair_of) return;
  if (!take_pairing(r, k, *pair_of)) {
    r.note = "no pairs reach every point that needs one";
    return;
  }
  if (!k.whole) return;
  r.bound(r.cost());
  r.note = "prices on points and on odd rings prove that nothing is better";
}

}  // namespace

KindEntry pairing_kind() {
  return {"choice of pairs",
          find_pairing,
          {{"pair greedy", "of pairs: the best pair whose points are free, again and again",
            "Avis 1983", pairs_heaviest_first},
           {"pair rings", "of pairs: the best of all, by paths on which odd rings are shrunk",
            "Edmonds 1965; Galil 1986", pairs_best}},
          pairs_best,
          "paths between points"};
}

}  // namespace kiteknot::methods
