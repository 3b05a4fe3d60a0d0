#include "structures/tours/cuts/trips.hpp"

#include <algorithm>
#include <numeric>

#include "structures/tours/cuts/cut_tree.hpp"

namespace kiteknot::structures::tours {
namespace {

constexpr double kZero = 1e-7;
constexpr double kBroken = 0.02;       // by points with fractions, as legs in and out of a set
constexpr double kBrokenWhole = 1e-3;  // by whole ones

std::int64_t trips_for(std::int64_t load, std::int64_t capacity) {
  return load <= 0 ? 0 : (load - 1) / capacity + 1;
}

void divide(TripRow& row) {
  std::int64_t by = row.at_least;
  for (const auto* entries : {&row.legs, &row.visits})
    for (const auto& [place, times] : *entries) by = std::gcd(by, times);
  if (by <= 1) return;
  row.at_least /= by;
  for (auto* entries : {&row.legs, &row.visits})
    for (auto& [place, times] : *entries) times /= by;
}

}  // namespace

TripSeparation::TripSeparation(Trips trips)
    : trips_(std::move(trips)), root_(trips_.gate), inside_(at(trips_.stops), 0) {
  for (Index s = 0; s < trips_.stops && root_ < 0; ++s)
    if (trips_.sure(s)) root_ = s;
}

std::vector<TripRow> TripSeparation::look(std::span<const double> x, std::span<const double> y,
                                          bool whole, std::size_t most) {
  found_.clear();
  tried_.clear();
  margin_ = whole ? kBrokenWhole : kBroken;
  join_legs(x);
  look_at_parts(y);
  if (!trips_.load.empty()) look_at_loads(y, whole);
  if (found_.empty() && !whole) look_at_cut_tree(y);
  if (!trips_.ahead.empty()) look_at_order(x, y);
  std::stable_sort(found_.begin(), found_.end(),
                   [](const Found& a, const Found& b) { return a.broken > b.broken; });
  std::vector<TripRow> rows;
  for (Found& f : found_)
    if (rows.size() < most) rows.push_back(std::move(f.row));
  return rows;
}

void TripSeparation::join_legs(std::span<const double> x) {
  near_.assign(at(trips_.stops), {});
  const auto add = [&](Index from, Index to, double v) {
    auto& list = near_[at(from)];
    const auto it = std::ranges::find(list, to, &Pair::to);
    if (it == list.end())
      list.push_back({to, v});
    else
      it->x += v;
  };
  for (std::size_t k = 0; k < trips_.legs.size(); ++k) {
    const auto [a, b] = trips_.legs[k];
    if (x[k] <= kZero || a == b) continue;
    add(a, b, x[k]);
    add(b, a, x[k]);
  }
}

double TripSeparation::crossing(const std::vector<Index>& set) {
  for (const Index s : set) inside_[at(s)] = 1;
  double sum = 0.0;
  for (const Index s : set)
    for (const Pair& p : near_[at(s)])
      if (inside_[at(p.to)] == 0) sum += p.x;
  for (const Index s : set) inside_[at(s)] = 0;
  return sum;
}

TripRow TripSeparation::row_of(const std::vector<Index>& set, const RightSide& side) {
  TripRow row{side.kind, {}, {}, side.base};
  for (const Index s : set) inside_[at(s)] = 1;
  std::vector<Index> within, across;  // one way only: as many come as go
  for (std::size_t k = 0; k < trips_.legs.size(); ++k) {
    const auto [a, b] = trips_.legs[k];
    if (a == b) continue;
    const bool in_a = inside_[at(a)] != 0, in_b = inside_[at(b)] != 0;
    if (in_a && in_b)
      within.push_back(static_cast<Index>(k));
    else if (in_a || (in_b && !trips_.directed))
      across.push_back(static_cast<Index>(k));
  }
  for (const Index s : set) inside_[at(s)] = 0;
  std::vector<std::int64_t> visit(at(trips_.stops), 0);
  for (const auto& [stop, times] : side.visits) {
    if (trips_.sure(stop))
      row.at_least += times;
    else
      visit[at(stop)] -= times;
  }
  if (within.size() <= across.size()) {
    for (const Index k : within) row.legs.emplace_back(k, -2 * side.over);
    for (const Index s : set) {
      if (trips_.sure(s))
        row.at_least -= 2 * side.over;
      else
        visit[at(s)] += 2 * side.over;
    }
  } else {
    for (const Index k : across) row.legs.emplace_back(k, (trips_.directed ? 2 : 1) * side.over);
  }
  for (Index s = 0; s < trips_.stops; ++s)
    if (visit[at(s)] != 0) row.visits.emplace_back(s, visit[at(s)]);
  divide(row);
  return row;
}

void TripSeparation::take(const std::vector<Index>& set, const RightSide& side, double crossing,
                          std::span<const double> y) {
  double right = static_cast<double>(side.base);
  for (const auto& [stop, times] : side.visits) right += static_cast<double>(times) * y[at(stop)];
  const double broken = right / static_cast<double>(side.over) - crossing;
  if (broken > margin_) found_.push_back({row_of(set, side), broken});
}

// What is said of the set, or of the others where the root is in it.
void TripSeparation::try_set(const std::vector<Index>& given, std::span<const double> y) {
  std::vector<char> in(at(trips_.stops), 0);
  for (const Index s : given) in[at(s)] = 1;
  const bool turn = root_ >= 0 && in[at(root_)] != 0;
  std::vector<Index> set, others;
  for (Index s = 0; s < trips_.stops; ++s) ((in[at(s)] != 0) != turn ? set : others).push_back(s);
  if (set.empty() || others.empty()) return;
  if (std::ranges::find(tried_, set) != tried_.end()) return;
  tried_.push_back(set);
  const auto most_visited = [&](const std::vector<Index>& of) {
    return *std::ranges::max_element(
        of, {}, [&](Index s) { return y[at(s)] + (trips_.sure(s) ? kZero : 0.0); });
  };
  const double across = crossing(set);
  const Index k = most_visited(set);
  if (root_ >= 0)
    take(set, {TripRule::loop, 0, 1, {{k, 2}}}, across, y);
  else
    take(set, {TripRule::loop, -2, 1, {{k, 2}, {most_visited(others), 2}}}, across, y);
  if (!trips_.load.empty()) try_loads(set, across, y);
}

// Parts that no leg leaves; where a gate is named, those that only it holds together.
void TripSeparation::look_at_parts(std::span<const double> y) {
  const Index skip = trips_.several ? trips_.gate : -1;
  std::vector<char> seen(at(trips_.stops), 0);
  std::vector<Index> part;
  for (Index first = 0; first < trips_.stops; ++first) {
    if (seen[at(first)] != 0 || first == skip) continue;
    part.assign(1, first);
    seen[at(first)] = 1;
    for (std::size_t k = 0; k < part.size(); ++k)
      for (const Pair& p : near_[at(part[k])])
        if (p.to != skip && seen[at(p.to)] == 0) {
          seen[at(p.to)] = 1;
          part.push_back(p.to);
        }
    const bool visited = std::ranges::any_of(part, [&](Index s) { return y[at(s)] > kZero; });
    if (!visited) continue;
    std::sort(part.begin(), part.end());
    try_set(part, y);
  }
}

void TripSeparation::look_at_cut_tree(std::span<const double> y) {
  if (trips_.stops < 3) return;
  FlowGraph graph(trips_.stops);
  for (Index s = 0; s < trips_.stops; ++s)
    for (const Pair& p : near_[at(s)])
      if (s < p.to) graph.add(s, p.to, p.x);
  const CutTree tree = graph.cut_tree();
  std::vector<std::vector<Index>> below(at(trips_.stops));
  for (Index s = 0; s < trips_.stops; ++s)
    if (tree.parent[at(s)] >= 0) below[at(tree.parent[at(s)])].push_back(s);
  for (Index top = 0; top < trips_.stops; ++top) {
    if (tree.parent[at(top)] < 0) continue;
    if (tree.least[at(top)] >= 2.0 - margin_ && trips_.load.empty()) continue;
    std::vector<Index> set{top};
    for (std::size_t k = 0; k < set.size(); ++k)
      for (const Index s : below[at(set[k])]) set.push_back(s);
    std::sort(set.begin(), set.end());
    try_set(set, y);
  }
}

// The loads of stops that are always visited, rounded; with others, as a share of the capacity, and
// by a choice of them that is too much for one trip.
void TripSeparation::try_loads(const std::vector<Index>& set, double across,
                               std::span<const double> y) {
  std::int64_t sure = 0, all = 0;
  for (const Index s : set) {
    all += trips_.load[at(s)];
    if (trips_.sure(s)) sure += trips_.load[at(s)];
  }
  const std::int64_t trips = trips_for(sure, trips_.capacity);
  if (trips > 1) take(set, {TripRule::load, 2 * trips, 1, {}}, across, y);
  if (sure == all || all <= trips_.capacity) return;
  RightSide share{TripRule::load, 0, trips_.capacity, {}};
  for (const Index s : set)
    if (trips_.load[at(s)] > 0) share.visits.emplace_back(s, 2 * trips_.load[at(s)]);
  take(set, share, across, y);
  std::vector<Index> order = set;
  std::ranges::stable_sort(order, std::greater{}, [&](Index s) {
    return std::pair(y[at(s)] > 1.0 - kZero ? 1.0 : y[at(s)], trips_.load[at(s)]);
  });
  // Of m left out of the chosen, 4 - 2 m legs: a trip for what is left is 2 anyway.
  RightSide chosen{TripRule::load, 4, 1, {}};
  std::int64_t load = 0;
  for (const Index s : order) {
    if (load > trips_.capacity) break;
    load += trips_.load[at(s)];
    chosen.base -= 2;
    chosen.visits.emplace_back(s, 2);
  }
  if (chosen.visits.size() > 1) take(set, chosen, across, y);
}

// From one stop on, always the one that most legs join to those before.
void TripSeparation::grow(Index from, std::span<const double> y) {
  std::vector<double> joined(at(trips_.stops), 0.0);
  std::vector<char> in(at(trips_.stops), 0);
  std::vector<Index> set;
  double across = 0.0;
  std::int64_t load = 0;
  for (Index next = from; next >= 0;) {
    double own = 0.0;
    for (const Pair& p : near_[at(next)]) own += p.x;
    across += own - 2.0 * joined[at(next)];
    in[at(next)] = 1;
    set.push_back(next);
    load += trips_.load[at(next)];
    if (load > trips_.capacity) {
      const double least = 2.0 * static_cast<double>(load) / static_cast<double>(trips_.capacity);
      const double rounded = 2.0 * static_cast<double>(trips_for(load, trips_.capacity));
      if (across < std::max(least, rounded) - margin_) {
        std::vector<Index> sorted = set;
        std::sort(sorted.begin(), sorted.end());
        try_set(sorted, y);
      }
    }
    for (const Pair& p : near_[at(next)]) joined[at(p.to)] += p.x;
    next = -1;
    for (Index s = 0; s < trips_.stops; ++s)
      if (in[at(s)] == 0 && s != trips_.gate && joined[at(s)] > kZero &&
          (next < 0 || joined[at(s)] > joined[at(next)]))
        next = s;
  }
}

void TripSeparation::look_at_loads(std::span<const double> y, bool whole) {
  if (whole) return;  // its parts without the gate were looked at
  // The least of x(in and out of S) - 2 load(S) / capacity over all S is a least cut.
  const Index sink = trips_.stops;
  FlowGraph graph(trips_.stops + 1);
  for (Index s = 0; s < trips_.stops; ++s) {
    for (const Pair& p : near_[at(s)])
      if (s < p.to) graph.add(s, p.to, p.x);
    if (s != trips_.gate && trips_.load[at(s)] > 0)
      graph.add(s, sink,
                2.0 * y[at(s)] * static_cast<double>(trips_.load[at(s)]) /
                    static_cast<double>(trips_.capacity));
  }
  std::vector<char> from_side;
  (void)graph.least_cut(trips_.gate, sink, from_side);
  std::vector<Index> set;
  for (Index s = 0; s < trips_.stops; ++s)
    if (from_side[at(s)] == 0) set.push_back(s);
  if (!set.empty()) try_set(set, y);
  constexpr Index kMostStarts = 60;
  std::vector<Index> starts;
  for (Index s = 0; s < trips_.stops; ++s)
    if (s != trips_.gate && y[at(s)] > kZero) starts.push_back(s);
  while (static_cast<Index>(starts.size()) > kMostStarts) {
    std::swap(starts[static_cast<std::size_t>(
                  random_.between(0, static_cast<std::int64_t>(starts.size()) - 1))],
              starts.back());
    starts.pop_back();
  }
  for (const Index s : starts) grow(s, y);
}

void TripSeparation::look_at_order(std::span<const double> x, std::span<const double> y) {
  // In a graph without one stop, from one to another.
  const auto cut = [&](Index from, Index to, Index without, Index first, Index second) {
    const double least = y[at(first)] + y[at(second)] - 1.0;
    if (least <= margin_) return;
    FlowGraph graph(trips_.stops);
    for (std::size_t k = 0; k < trips_.legs.size(); ++k) {
      const auto [a, b] = trips_.legs[k];
      if (x[k] > kZero && a != b && a != without && b != without) graph.add_one_way(a, b, x[k]);
    }
    std::vector<char> from_side;
    const double flow = graph.least_cut(from, to, from_side);
    if (flow >= least - margin_) return;
    TripRow row{TripRule::order, {}, {}, -1};
    for (std::size_t k = 0; k < trips_.legs.size(); ++k) {
      const auto [a, b] = trips_.legs[k];
      if (a != without && b != without && from_side[at(a)] != 0 && from_side[at(b)] == 0)
        row.legs.emplace_back(static_cast<Index>(k), 1);
    }
    for (const Index s : {first, second}) {
      if (trips_.sure(s))
        row.at_least += 1;
      else
        row.visits.emplace_back(s, -1);
    }
    found_.push_back({std::move(row), 2.0 * (least - flow)});
  };
  for (const auto& [a, b] : trips_.ahead) {
    cut(trips_.gate, a, b, a, b);
    cut(a, b, trips_.gate, a, b);
  }
}

}  // namespace kiteknot::structures::tours
