#include "structures/tours/spanning_tree.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <tuple>

#include "base/infinity.hpp"

namespace kiteknot::structures::tours {

Legs tree_by_rows(const Distances& d, const std::vector<double>& price, Index without) {
  struct Outside {
    Index stop = -1, to = -1;
    double away = kInf;
  };
  std::vector<Outside> outside;
  for (Index j = 0; j < d.size(); ++j)
    if (j != without) outside.push_back({j});
  Legs legs;
  if (outside.empty()) return legs;
  Index last = outside.front().stop;
  outside.erase(outside.begin());
  while (!outside.empty()) {
    std::size_t next = 0;
    for (std::size_t k = 0; k < outside.size(); ++k) {
      Outside& o = outside[k];
      const double leg = priced(d, price, last, o.stop);
      if (o.to < 0 || leg < o.away) {
        o.away = leg;
        o.to = last;
      }
      if (o.away < outside[next].away) next = k;
    }
    last = outside[next].stop;
    legs.emplace_back(last, outside[next].to);
    outside[next] = outside.back();
    outside.pop_back();
  }
  return legs;
}

// Equally long legs have an order of their own, the same from either end: without one, parts that
// choose among them at the same time may close a loop, and what is left is no shortest tree.
bool TreeInSpace::Leg::operator<(const Leg& other) const {
  const auto key = [](const Leg& l) {
    return std::tuple(l.length, std::min(l.from, l.to), std::max(l.from, l.to));
  };
  return key(*this) < key(other);
}

TreeInSpace::TreeInSpace(const Distances& distances, Index without) : d_(distances) {
  for (Index i = 0; i < d_.size(); ++i)
    if (i != without) order_.push_back(i);
  if (!order_.empty()) (void)lay_out(0, static_cast<Index>(order_.size()));
  part_.resize(at(d_.size()));
  joined_.resize(at(d_.size()));
}

// Halves by the middle of the longest side. Equal points stay in one cell.
Index TreeInSpace::lay_out(Index first, Index last) {
  constexpr Index kLeaf = 6;
  const Places& p = d_.in_space();
  const std::vector<double>* axes[3] = {&p.x, &p.y, &p.z};
  const auto here = static_cast<Index>(cells_.size());
  Cell cell;
  cell.first = first;
  cell.last = last;
  int axis = 0;
  for (int a = 0; a < 3; ++a) {
    const std::vector<double>& x = *axes[a];
    cell.low[a] = cell.high[a] = x[at(order_[at(first)])];
    for (Index k = first; k < last; ++k) {
      cell.low[a] = std::min(cell.low[a], x[at(order_[at(k)])]);
      cell.high[a] = std::max(cell.high[a], x[at(order_[at(k)])]);
    }
    if (cell.high[a] - cell.low[a] > cell.high[axis] - cell.low[axis]) axis = a;
  }
  cells_.push_back(cell);
  if (last - first <= kLeaf || cell.high[axis] <= cell.low[axis]) return here;
  const Index middle = first + (last - first) / 2;
  const std::vector<double>& x = *axes[axis];
  std::nth_element(order_.begin() + first, order_.begin() + middle, order_.begin() + last,
                   [&](Index a, Index b) { return x[at(a)] < x[at(b)]; });
  const Index left = lay_out(first, middle), right = lay_out(middle, last);
  cells_[at(here)].left = left;
  cells_[at(here)].right = right;
  return here;
}

void TreeInSpace::name_parts() {
  for (const Index i : order_) {
    Index root = i;
    while (joined_[at(root)] != root) root = joined_[at(root)] = joined_[at(joined_[at(root)])];
    part_[at(i)] = root;
  }
  for (auto cell = cells_.rbegin(); cell != cells_.rend(); ++cell) {
    if (cell->left >= 0) {
      const Index left = cells_[at(cell->left)].part;
      cell->part = left == cells_[at(cell->right)].part ? left : -1;
      continue;
    }
    cell->part = part_[at(order_[at(cell->first)])];
    for (Index k = cell->first; k < cell->last; ++k)
      if (part_[at(order_[at(k)])] != cell->part) cell->part = -1;
  }
}

// No priced leg into the cell is shorter.
double TreeInSpace::least_to(const Cell& cell, Index from) const {
  const Places& p = d_.in_space();
  const double at_[3] = {p.x[at(from)], p.y[at(from)], p.z[at(from)]};
  double squared = 0.0;
  for (int a = 0; a < 3; ++a) {
    const double off = std::max({0.0, cell.low[a] - at_[a], at_[a] - cell.high[a]});
    squared += off * off;
  }
  const double prices = (*price_)[at(from)] + cell.price, length = d_.at_least(std::sqrt(squared));
  constexpr double kRoundings = 4.0 * 0x1p-53;
  return length + prices -
         kRoundings * (length + std::abs((*price_)[at(from)]) + std::abs(cell.price));
}

void TreeInSpace::look(Index cell, Index from, double least) {
  const Cell& c = cells_[at(cell)];
  const Index part = part_[at(from)];
  Leg& best = best_[at(part)];
  if (c.part == part || least > best.length) return;
  if (c.left < 0) {
    for (Index k = c.first; k < c.last; ++k) {
      const Index to = order_[at(k)];
      if (part_[at(to)] == part) continue;
      const Leg leg{priced(d_, *price_, from, to), from, to};
      from_[at(from)] = std::min(from_[at(from)], leg.length);
      if (leg < best || best.from < 0) best = leg;
    }
    return;
  }
  const double left = least_to(cells_[at(c.left)], from),
               right = least_to(cells_[at(c.right)], from);
  look(left <= right ? c.left : c.right, from, std::min(left, right));
  look(left <= right ? c.right : c.left, from, std::max(left, right));
}

Legs TreeInSpace::shortest(const std::vector<double>& price, const Interrupt& interrupt) {
  constexpr int kBetweenLooks = 1024;  // at the clock
  price_ = &price;
  for (auto cell = cells_.rbegin(); cell != cells_.rend(); ++cell) {
    cell->price = kInf;
    if (cell->left >= 0)
      cell->price = std::min(cells_[at(cell->left)].price, cells_[at(cell->right)].price);
    else
      for (Index k = cell->first; k < cell->last; ++k)
        cell->price = std::min(cell->price, price[at(order_[at(k)])]);
  }
  std::iota(joined_.begin(), joined_.end(), 0);
  from_.assign(at(d_.size()), -kInf);
  Legs legs;
  while (legs.size() + 1 < order_.size()) {
    name_parts();
    best_.assign(at(d_.size()), {kInf, -1, -1});
    int looks = 0;
    for (const Index i : order_) {
      if (++looks % kBetweenLooks == 0 && interrupt.now()) return legs;
      const double reach = best_[at(part_[at(i)])].length;
      if (from_[at(i)] > reach) continue;  // parts grow: what was too far stays so
      from_[at(i)] = kInf;
      look(0, i, -kInf);
      // Cells were passed over only where they are farther than the best leg at the time.
      from_[at(i)] = std::min(from_[at(i)], best_[at(part_[at(i)])].length);
    }
    for (const Index i : order_) {
      const Leg& leg = best_[at(i)];
      if (leg.from < 0) continue;
      const auto root = [&](Index k) {
        while (joined_[at(k)] != k) k = joined_[at(k)] = joined_[at(joined_[at(k)])];
        return k;
      };
      const Index a = root(leg.from), b = root(leg.to);
      if (a == b) continue;  // both parts chose the same leg
      joined_[at(a)] = b;
      legs.emplace_back(leg.from, leg.to);
    }
  }
  return legs;
}

}  // namespace kiteknot::structures::tours
