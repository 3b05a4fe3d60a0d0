#include "structures/tours/one_tree.hpp"

#include <cmath>

#include "base/interval.hpp"

namespace kiteknot::structures::tours {
namespace {

constexpr double kInf = std::numeric_limits<double>::infinity();

struct Tree {
  double bound = -kInf;      // rounded down
  std::vector<int> degrees;  // by stops
};

// The shortest 1-tree around stop 0 by priced lengths (Prim 1957), and what it proves. Lengths plus
// two prices are off by two roundings; a tree that is shortest by rounded lengths is at most as
// much longer than the truly shortest one as the legs of both are off. No leg of either is longer
// than the longest one here (a shortest tree's longest leg is the shortest possible), and none is
// shorter than two prices.
Tree shortest(const Distances& d, const std::vector<double>& price) {
  const Index n = d.size();
  Tree tree;
  tree.degrees.assign(at(n), 0);
  std::vector<double> away(at(n), kInf);
  std::vector<Index> to(at(n), -1);
  std::vector<char> in(at(n), 0);
  double sum = 0.0, longest = 0.0, dearest = 0.0;
  const auto priced = [&](Index i, Index j) { return d(i, j) + price[at(i)] + price[at(j)]; };
  const auto take = [&](Index i, Index j, double leg) {
    sum = add_down(sum, leg);
    longest = std::max(longest, leg);
    ++tree.degrees[at(i)];
    ++tree.degrees[at(j)];
  };
  Index last = 1;
  in[1] = 1;
  for (Index count = 2; count < n; ++count) {
    Index next = -1;
    for (Index j = 1; j < n; ++j) {
      if (in[at(j)]) continue;
      const double leg = priced(last, j);
      if (to[at(j)] < 0 || leg < away[at(j)]) {
        away[at(j)] = leg;
        to[at(j)] = last;
      }
      if (next < 0 || away[at(j)] < away[at(next)]) next = j;
    }
    in[at(next)] = 1;
    take(next, to[at(next)], away[at(next)]);
    last = next;
  }
  Index first = 1, second = 2;
  if (priced(0, second) < priced(0, first)) std::swap(first, second);
  for (Index j = 3; j < n; ++j) {
    if (priced(0, j) < priced(0, first)) {
      second = first;
      first = j;
    } else if (priced(0, j) < priced(0, second)) {
      second = j;
    }
  }
  take(0, first, priced(0, first));
  take(0, second, priced(0, second));
  for (const double p : price) {
    sum = add_down(sum, -2.0 * p);
    dearest = std::max(dearest, std::abs(p));
  }
  constexpr double kRoundings = 8.0 * 0x1p-53;  // four a leg, of this tree and of the shortest one
  const double largest = longest + 4.0 * dearest;
  tree.bound = largest == kInf ? kInf : add_down(sum, -multiply_up(kRoundings * n, largest));
  return tree;
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
  std::vector<double> price(at(n), 0.0), before(at(n), 0.0);
  Tree tree = shortest(d, price);
  best.value = tree.bound;
  double step = 2.0;
  int since = 0;
  constexpr int kPatience = 10;
  for (; best.rounds < options.rounds && !options.interrupt.now(); ++best.rounds) {
    double off = 0.0;  // of degrees from 2
    for (const int degree : tree.degrees) off += (degree - 2) * (degree - 2);
    if (off == 0.0 || best.value == kInf) break;  // a tour
    // Without a tour a little above the bound will do.
    const double goal = std::isfinite(options.upper) ? options.upper : 1.01 * best.value;
    const double length = step * std::max(goal - tree.bound, 1e-6 * std::abs(goal)) / off;
    for (std::size_t i = 0; i < price.size(); ++i) {
      const double way = 0.7 * (tree.degrees[i] - 2) + 0.3 * before[i];
      before[i] = tree.degrees[i] - 2;
      price[i] += length * way;
    }
    tree = shortest(d, price);
    if (tree.bound > best.value) {
      best.value = tree.bound;
      best.prices = price;
      since = 0;
    } else if (++since >= kPatience) {
      step *= 0.5;
      since = 0;
    }
  }
  return best;
}

}  // namespace kiteknot::structures::tours
