#include "structures/tours/one_tree.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>
#include <utility>

#include "base/infinity.hpp"
#include "base/interval.hpp"
#include "structures/tours/spanning_tree.hpp"

namespace kiteknot::structures::tours {
namespace {

struct Tree {
  double bound = -kInf;      // rounded down
  std::vector<int> degrees;  // by stops
  std::vector<std::pair<Index, Index>> legs;
};

// The shortest 1-tree around stop 0 by priced lengths, and what it proves. Lengths plus two prices
// are off by two roundings; a tree that is shortest by rounded lengths is at most as much longer
// than the truly shortest one as the legs of both are off. No leg of either is longer than the
// longest one here (a shortest tree's longest leg is the shortest possible), and none is shorter
// than two prices.
Tree shortest(const Distances& d, const std::vector<double>& price, TreeInSpace* in_space,
              const Interrupt& interrupt) {
  const Index n = d.size();
  Tree tree;
  tree.legs =
      in_space != nullptr ? in_space->shortest(price, interrupt) : tree_by_rows(d, price, 0);
  const bool whole = tree.legs.size() + 2 == at(n);
  const auto leg_of_first = [&](Index j) { return priced(d, price, 0, j); };
  Index first = 1, second = 2;
  if (leg_of_first(second) < leg_of_first(first)) std::swap(first, second);
  for (Index j = 3; j < n; ++j) {
    if (leg_of_first(j) < leg_of_first(first)) {
      second = first;
      first = j;
    } else if (leg_of_first(j) < leg_of_first(second)) {
      second = j;
    }
  }
  tree.legs.emplace_back(0, first);
  tree.legs.emplace_back(0, second);
  tree.degrees.assign(at(n), 0);
  double sum = 0.0, longest = 0.0, dearest = 0.0;
  for (const auto& [i, j] : tree.legs) {
    const double leg = priced(d, price, i, j);
    sum = add_down(sum, leg);
    longest = std::max(longest, leg);
    ++tree.degrees[at(i)];
    ++tree.degrees[at(j)];
  }
  for (const double p : price) {
    sum = add_down(sum, -2.0 * p);
    dearest = std::max(dearest, std::abs(p));
  }
  constexpr double kRoundings = 8.0 * 0x1p-53;  // four a leg, of this tree and of the shortest one
  const double largest = longest + 4.0 * dearest;
  if (!whole) return tree;  // interrupted: it proves nothing
  tree.bound = largest == kInf ? kInf : add_down(sum, -multiply_up(kRoundings * n, largest));
  return tree;
}

// The shortest 1-tree of some legs only: near ones, and those of trees found before. No bound, but
// it says where prices should go. O(legs log legs); Kruskal 1956.
class NearTrees {
 public:
  NearTrees(const Distances& d, const Neighbours& near) : d_(d) {
    for (Index i = 0; i < d.size(); ++i) {
      const auto first = static_cast<std::ptrdiff_t>(legs_.size());
      for (const Index j : near.of(i)) {
        const std::span<const Index> back = near.of(j);
        if (i < j)
          legs_.emplace_back(i, j);
        else if (std::find(back.begin(), back.end(), i) == back.end())
          others_.emplace_back(j, i);
      }
      std::sort(legs_.begin() + first, legs_.end());
    }
    add(std::exchange(others_, {}));
  }
  void add(const std::vector<std::pair<Index, Index>>& legs) {
    const auto before = static_cast<std::ptrdiff_t>(legs_.size());
    for (const auto& [i, j] : legs) legs_.emplace_back(std::min(i, j), std::max(i, j));
    std::sort(legs_.begin() + before, legs_.end());
    std::inplace_merge(legs_.begin(), legs_.begin() + before, legs_.end());
    legs_.erase(std::unique(legs_.begin(), legs_.end()), legs_.end());
    length_.clear();
    for (const auto& [i, j] : legs_) length_.push_back(d_(i, j));
    order_.clear();
    for (std::size_t k = 0; k < legs_.size(); ++k) order_.emplace_back(0.0, k);
  }
  Tree shortest(const std::vector<double>& price) {
    Tree tree;
    tree.degrees.assign(at(d_.size()), 0);
    tree.bound = -2.0 * std::accumulate(price.begin(), price.end(), 0.0);
    // As they were in order before, and nearly are.
    for (auto& [length, k] : order_)
      length = length_[k] + price[at(legs_[k].first)] + price[at(legs_[k].second)];
    std::sort(order_.begin(), order_.end());
    part_.resize(at(d_.size()));
    std::iota(part_.begin(), part_.end(), 0);
    int around_first = 0;  // stop 0 is the one outside the tree
    for (const auto& [length, k] : order_) {
      const auto& [i, j] = legs_[k];
      if (i == 0 ? around_first == 2 : !join(i, j)) continue;
      around_first += i == 0 ? 1 : 0;
      tree.bound += length;
      ++tree.degrees[at(i)];
      ++tree.degrees[at(j)];
    }
    return tree;
  }

 private:
  Index root(Index i) {
    while (part_[at(i)] != i) i = part_[at(i)] = part_[at(part_[at(i)])];
    return i;
  }
  bool join(Index i, Index j) {
    const Index a = root(i), b = root(j);
    part_[at(a)] = b;
    return a != b;
  }
  const Distances& d_;
  std::vector<std::pair<Index, Index>> legs_, others_;  // in order; those told from afar
  std::vector<double> length_;
  std::vector<std::pair<double, std::size_t>> order_;
  std::vector<Index> part_;
};

// Prices that rise where more than two legs meet, from those of `best` on, which gets the best.
template <class TreeOf>
void raise(OneTreeBound& best, Tree tree, int rounds, const OneTreeOptions& options,
           const TreeOf& tree_of) {
  std::vector<double> price = best.prices, before(price.size(), 0.0);
  double step = 2.0;
  int since = 0;
  constexpr int kPatience = 10;
  for (int round = 0; round < rounds && !options.interrupt.now(); ++round, ++best.rounds) {
    double off = 0.0;  // of degrees from 2
    for (const int degree : tree.degrees) off += (degree - 2) * (degree - 2);
    if (off == 0.0 || best.value == kInf) break;  // a tour
    // A poor tour, or none, would make the steps too long.
    constexpr double kFarthest = 0.1;  // above the bound
    const double goal = std::min(options.upper, best.value + kFarthest * std::abs(best.value));
    const double length = step * std::max(goal - tree.bound, 1e-6 * std::abs(goal)) / off;
    for (std::size_t i = 0; i < price.size(); ++i) {
      const double way = 0.7 * (tree.degrees[i] - 2) + 0.3 * before[i];
      before[i] = tree.degrees[i] - 2;
      price[i] += length * way;
    }
    tree = tree_of(price);
    if (tree.bound > best.value) {
      best.value = tree.bound;
      best.prices = price;
      since = 0;
    } else if (++since >= kPatience) {
      step *= 0.5;
      since = 0;
    }
  }
}

}  // namespace

OneTreeBound one_tree_bound(const Distances& d, const OneTreeOptions& options) {
  const Index n = d.size();
  OneTreeBound best;
  best.prices.assign(at(n), 0.0);
  if (n < 3) {
    best.value = n == 2 ? d(0, 1) + d(1, 0) : 0.0;
    return best;
  }
  std::optional<TreeInSpace> in_space;
  if (TreeInSpace::pays(d)) in_space.emplace(d, 0);
  const auto over_all = [&](const std::vector<double>& price) {
    return shortest(d, price, in_space ? &*in_space : nullptr, options.interrupt);
  };
  Tree tree = over_all(best.prices);
  best.value = tree.bound;
  if (options.near == nullptr) {
    raise(best, std::move(tree), options.rounds, options, over_all);
    return best;
  }
  if (options.interrupt.now()) return best;
  // Prices by near legs; what they prove is found over all legs, whose tree tells which were
  // missing.
  NearTrees near(d, *options.near);
  near.add(tree.legs);
  constexpr int kLooks = 3;
  OneTreeBound guess = best;
  for (int look = 0; look < kLooks && !options.interrupt.now(); ++look) {
    Tree start = near.shortest(guess.prices);
    guess.value = start.bound;
    raise(guess, std::move(start), options.rounds / kLooks, options,
          [&](const std::vector<double>& price) { return near.shortest(price); });
    tree = over_all(guess.prices);
    near.add(tree.legs);
    if (tree.bound > best.value) {
      best.value = tree.bound;
      best.prices = guess.prices;
    }
  }
  best.rounds = guess.rounds;
  return best;
}

}  // namespace kiteknot::structures::tours
