#include "structures/tours/fragments.hpp"

#include <numeric>

namespace kiteknot::structures::tours {

Fragments::Fragments(Index stops)
    : parent_(at(stops)),
      other_(at(stops)),
      degree_(at(stops), 0),
      legs_(2 * at(stops), -1),
      count_(stops) {
  std::iota(parent_.begin(), parent_.end(), 0);
  std::iota(other_.begin(), other_.end(), 0);
}

Index Fragments::root(Index stop) {
  while (parent_[at(stop)] != stop) {
    parent_[at(stop)] = parent_[at(parent_[at(stop)])];
    stop = parent_[at(stop)];
  }
  return stop;
}

void Fragments::join(Index a, Index b) {
  parent_[at(root(a))] = root(b);
  const Index first = other_[at(a)], last = other_[at(b)];
  other_[at(first)] = last;
  other_[at(last)] = first;
  legs_[2 * at(a) + at(degree_[at(a)]++)] = b;
  legs_[2 * at(b) + at(degree_[at(b)]++)] = a;
  --count_;
}

std::vector<Index> Fragments::in_order() const {
  std::vector<Index> order;
  if (degree_.empty()) return order;
  Index here = 0;
  while (degree_[at(here)] > 1) ++here;
  for (Index before = -1; here >= 0;) {
    order.push_back(here);
    const Index a = legs_[2 * at(here)], b = legs_[2 * at(here) + 1];
    const Index next = a != before ? a : b;
    before = here;
    here = next;
  }
  return order;
}

}  // namespace kiteknot::structures::tours
