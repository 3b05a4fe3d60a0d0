#include "structures/tours/tree_tour.hpp"

#include <algorithm>

#include "structures/tours/build.hpp"
#include "structures/tours/point_tree.hpp"
#include "structures/tours/spanning_tree.hpp"
#include "structures/tours/whole_lengths.hpp"

namespace kiteknot::structures::tours {
namespace {

struct Ranked {
  double length = 0.0;
  Index a = 0, b = 0;
};

bool shorter(const Ranked& p, const Ranked& q) {
  return p.length != q.length ? p.length < q.length : p.a != q.a ? p.a < q.a : p.b < q.b;
}

// The nearest two first, of those near each other; again for what is left.
void pair_up(const Distances& d, std::vector<Index> odd, std::vector<Leg>& legs) {
  constexpr std::size_t kNear = 6;
  std::vector<char> free(at(d.size()), 0);
  while (!odd.empty()) {
    for (const Index a : odd) free[at(a)] = 1;
    std::vector<Ranked> wishes;
    if (d.has_places()) {
      const PointTree points(d.in_space(), odd);
      for (const Index a : odd)
        for (const Index b : points.nearest(a, kNear)) wishes.push_back({d(a, b), a, b});
    } else {
      for (const Index a : odd) {
        Index to = -1;
        for (const Index b : odd)
          if (b != a && (to < 0 || d(a, b) < d(a, to))) to = b;
        wishes.push_back({d(a, to), a, to});
      }
    }
    std::sort(wishes.begin(), wishes.end(), shorter);
    for (const Ranked& w : wishes) {
      if (free[at(w.a)] == 0 || free[at(w.b)] == 0) continue;
      free[at(w.a)] = free[at(w.b)] = 0;
      legs.push_back({w.a, w.b});
    }
    std::erase_if(odd, [&](Index a) { return free[at(a)] == 0; });
  }
}

// Every leg once (Hierholzer 1873), every stop where it is come to first.
std::vector<Index> go_round(Index stops, const std::vector<Leg>& legs) {
  std::vector<std::vector<std::size_t>> at_stop(at(stops));
  for (std::size_t k = 0; k < legs.size(); ++k) {
    at_stop[at(legs[k].a)].push_back(k);
    at_stop[at(legs[k].b)].push_back(k);
  }
  std::vector<char> gone(legs.size(), 0), seen(at(stops), 0);
  std::vector<Index> way{0}, tour;
  while (!way.empty()) {
    const Index v = way.back();
    auto& left = at_stop[at(v)];
    while (!left.empty() && gone[left.back()] != 0) left.pop_back();
    if (!left.empty()) {
      const Leg& leg = legs[left.back()];
      gone[left.back()] = 1;
      way.push_back(leg.a == v ? leg.b : leg.a);
      continue;
    }
    way.pop_back();
    if (seen[at(v)] == 0) tour.push_back(v);
    seen[at(v)] = 1;
  }
  return tour;
}

}  // namespace

std::vector<Index> by_tree_and_pairs(const Distances& d, const Interrupt& interrupt) {
  if (d.size() == 0) return {};
  const std::vector<double> free_of_charge(at(d.size()), 0.0);
  const Legs tree = TreeInSpace::pays(d) ? TreeInSpace(d, -1).shortest(free_of_charge, interrupt)
                                         : tree_by_rows(d, free_of_charge, -1);
  if (tree.size() + 1 < at(d.size())) return by_curve(d);
  // In one order, whatever they were found by: the way round depends on it.
  std::vector<Ranked> ranked;
  for (const auto& [i, j] : tree) ranked.push_back({d(i, j), std::min(i, j), std::max(i, j)});
  std::sort(ranked.begin(), ranked.end(), shorter);
  std::vector<Leg> legs;
  for (const Ranked& r : ranked) legs.push_back({r.a, r.b});
  if (interrupt.now()) {
    for (std::size_t k = 0, size = legs.size(); k < size; ++k) legs.push_back(legs[k]);
    return go_round(d.size(), legs);
  }
  std::vector<char> odd(at(d.size()), 0);
  for (const Leg& leg : legs) {
    odd[at(leg.a)] ^= 1;
    odd[at(leg.b)] ^= 1;
  }
  std::vector<Index> unpaired;
  for (Index i = 0; i < d.size(); ++i)
    if (odd[at(i)] != 0) unpaired.push_back(i);
  pair_up(d, std::move(unpaired), legs);
  return go_round(d.size(), legs);
}

}  // namespace kiteknot::structures::tours
