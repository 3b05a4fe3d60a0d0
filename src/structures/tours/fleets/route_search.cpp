#include "structures/tours/fleets/route_search.hpp"

#include <algorithm>

#include "structures/tours/neighbours.hpp"

namespace kiteknot::structures::tours {
namespace {

// What does not shorten by more is no gain: sums of legs are off in their last places.
double least_gain(const Fleet& fleet) {
  constexpr double kShare = 1e-11;
  double longest = 0.0;
  for (Index s = 0; s < fleet.size(); ++s)
    longest = std::max({longest, fleet.distances(fleet.gate, s), fleet.distances(s, fleet.gate)});
  return kShare * longest;
}

// Looks at moves of one stop beside another, and makes those that pay.
class RouteSearch {
 public:
  RouteSearch(const Fleet& fleet, Routes& routes)
      : fleet_(fleet),
        d_(fleet.distances),
        routes_(routes),
        both_ways_(d_.symmetric()),
        less_(least_gain(fleet)) {
    if (static_cast<Index>(routes_.size()) < fleet_.most) routes_.emplace_back();
    place_.resize(at(fleet.size()));
    route_.assign(at(fleet.size()), -1);
    loads_.resize(routes_.size());
    for (std::size_t r = 0; r < routes_.size(); ++r) note(static_cast<Index>(r));
  }

  void run(const Interrupt& interrupt) {
    constexpr std::size_t kNear = 20;
    const Neighbours near(d_, kNear);
    for (bool moved = true; moved && !interrupt.now();) {
      moved = false;
      for (Index u = 0; u < fleet_.size() && !interrupt.now(); ++u) {
        if (u == fleet_.gate) continue;
        for (const Index v : near.of(u))
          if (v != fleet_.gate && improves(u, v)) moved = true;
        moved = own_trip(u) || moved;
      }
    }
    std::erase_if(routes_, [](const auto& r) { return r.empty(); });
  }

 private:
  void note(Index r) {
    std::int64_t sum = 0;
    for (std::size_t k = 0; k < routes_[at(r)].size(); ++k) {
      const Index s = routes_[at(r)][k];
      place_[at(s)] = static_cast<Index>(k);
      route_[at(s)] = r;
      sum += fleet_.load[at(s)];
    }
    loads_[at(r)] = sum;
  }
  [[nodiscard]] Index before(Index s) const {
    const Index k = place_[at(s)];
    return k == 0 ? fleet_.gate : routes_[at(route_[at(s)])][at(k - 1)];
  }
  [[nodiscard]] Index after(Index s) const {
    const auto& route = routes_[at(route_[at(s)])];
    const Index k = place_[at(s)] + 1;
    return k == static_cast<Index>(route.size()) ? fleet_.gate : route[at(k)];
  }

  bool improves(Index u, Index v) {
    for (Index count = 1; count <= 3; ++count)
      if (shift(u, count, v)) return true;
    if (exchange(u, v)) return true;
    return route_[at(u)] != route_[at(v)] ? exchange_ends(u, v) : both_ways_ && turn(u, v);
  }

  // The stops from u on are put behind v, or between v and the one before it.
  bool shift(Index u, Index count, Index v) {
    const Index from = route_[at(u)], to = route_[at(v)];
    const auto& route = routes_[at(from)];
    const auto k = at(place_[at(u)]);
    if (k + at(count) > route.size()) return false;
    const Index last = route[k + at(count) - 1];
    if (from == to && place_[at(v)] >= place_[at(u)] && place_[at(v)] < place_[at(u)] + count)
      return false;
    std::int64_t carried = 0;
    for (std::size_t j = k; j < k + at(count); ++j) carried += fleet_.load[at(route[j])];
    if (from != to && loads_[at(to)] + carried > fleet_.capacity) return false;
    const Index p = before(u), q = after(last);
    const double freed = d_(p, u) + d_(last, q) - d_(p, q);
    for (const bool behind : {true, false}) {
      const Index left = behind ? v : before(v), right = behind ? after(v) : v;
      if (left == last || right == u) continue;  // it is there
      const double gap = d_(left, right);
      for (const bool turned : {false, true}) {
        if (turned && !both_ways_) continue;
        const double cost = turned ? d_(left, last) + d_(u, right) : d_(left, u) + d_(last, right);
        if (cost - gap >= freed - less_) continue;
        std::vector<Index> moved(route.begin() + static_cast<std::ptrdiff_t>(k),
                                 route.begin() + static_cast<std::ptrdiff_t>(k + at(count)));
        if (turned) std::reverse(moved.begin(), moved.end());
        auto& source = routes_[at(from)];
        source.erase(source.begin() + static_cast<std::ptrdiff_t>(k),
                     source.begin() + static_cast<std::ptrdiff_t>(k + at(count)));
        auto& target = routes_[at(to)];
        auto where = std::ranges::find(target, v);
        if (behind) ++where;
        target.insert(where, moved.begin(), moved.end());
        note(from);
        note(to);
        return true;
      }
    }
    return false;
  }

  bool exchange(Index u, Index v) {
    const Index a = route_[at(u)], b = route_[at(v)];
    const std::int64_t more = fleet_.load[at(v)] - fleet_.load[at(u)];
    if (a != b &&
        (loads_[at(a)] + more > fleet_.capacity || loads_[at(b)] - more > fleet_.capacity))
      return false;
    if (after(u) == v || after(v) == u) return false;  // a shift does it
    const Index pu = before(u), qu = after(u), pv = before(v), qv = after(v);
    const double now = d_(pu, u) + d_(u, qu) + d_(pv, v) + d_(v, qv);
    const double then = d_(pu, v) + d_(v, qu) + d_(pv, u) + d_(u, qv);
    if (then >= now - less_) return false;
    std::swap(routes_[at(a)][at(place_[at(u)])], routes_[at(b)][at(place_[at(v)])]);
    note(a);
    note(b);
    return true;
  }

  // The head of one trip up to u goes on with the tail of the other from v; or the two heads, or
  // the two tails, are joined, one of them turned round.
  bool exchange_ends(Index u, Index v) {
    const Index a = route_[at(u)], b = route_[at(v)];
    auto &first = routes_[at(a)], &second = routes_[at(b)];
    const auto ku = at(place_[at(u)]) + 1, kv = at(place_[at(v)]);
    std::int64_t head_u = 0, head_v = 0;  // up to and with u; up to v without it
    for (std::size_t k = 0; k < ku; ++k) head_u += fleet_.load[at(first[k])];
    for (std::size_t k = 0; k < kv; ++k) head_v += fleet_.load[at(second[k])];
    const std::int64_t one = head_u + loads_[at(b)] - head_v,
                       other = loads_[at(a)] + loads_[at(b)] - one;
    if (one <= fleet_.capacity && other <= fleet_.capacity) {
      const double now = d_(u, after(u)) + d_(before(v), v);
      const double then = d_(u, v) + d_(before(v), after(u));
      if (then < now - less_) {
        std::vector<Index> tail(first.begin() + static_cast<std::ptrdiff_t>(ku), first.end());
        first.resize(ku);
        first.insert(first.end(), second.begin() + static_cast<std::ptrdiff_t>(kv), second.end());
        second.resize(kv);
        second.insert(second.end(), tail.begin(), tail.end());
        note(a);
        note(b);
        return true;
      }
    }
    if (!both_ways_) return false;
    const std::int64_t heads = head_u + head_v + fleet_.load[at(v)];
    if (heads > fleet_.capacity || loads_[at(a)] + loads_[at(b)] - heads > fleet_.capacity)
      return false;
    const double now = d_(u, after(u)) + d_(v, after(v));
    const double then = d_(u, v) + d_(after(u), after(v));
    if (then >= now - less_) return false;
    std::vector<Index> joined(first.begin(), first.begin() + static_cast<std::ptrdiff_t>(ku));
    joined.insert(joined.end(), second.rend() - static_cast<std::ptrdiff_t>(kv + 1), second.rend());
    std::vector<Index> rest(first.rbegin(), first.rend() - static_cast<std::ptrdiff_t>(ku));
    rest.insert(rest.end(), second.begin() + static_cast<std::ptrdiff_t>(kv + 1), second.end());
    first = std::move(joined);
    second = std::move(rest);
    note(a);
    note(b);
    return true;
  }

  // The way from behind u to v is gone the other way round.
  bool turn(Index u, Index v) {
    if (place_[at(u)] > place_[at(v)]) std::swap(u, v);
    const double now = d_(u, after(u)) + d_(v, after(v));
    const double then = d_(u, v) + d_(after(u), after(v));
    if (then >= now - less_) return false;
    auto& route = routes_[at(route_[at(u)])];
    std::reverse(route.begin() + place_[at(u)] + 1, route.begin() + place_[at(v)] + 1);
    note(route_[at(u)]);
    return true;
  }

  // A trip of its own.
  bool own_trip(Index u) {
    const auto empty = std::ranges::find_if(routes_, [](const auto& r) { return r.empty(); });
    if (empty == routes_.end() || routes_[at(route_[at(u)])].size() < 2) return false;
    const double freed = d_(before(u), u) + d_(u, after(u)) - d_(before(u), after(u));
    if (d_(fleet_.gate, u) + d_(u, fleet_.gate) >= freed - less_) return false;
    const Index from = route_[at(u)];
    auto& route = routes_[at(from)];
    route.erase(route.begin() + place_[at(u)]);
    empty->push_back(u);
    note(from);
    note(static_cast<Index>(empty - routes_.begin()));
    return true;
  }

  const Fleet& fleet_;
  const Distances& d_;
  Routes& routes_;
  bool both_ways_;
  double less_;
  std::vector<Index> place_, route_;  // by stops
  std::vector<std::int64_t> loads_;   // by routes
};

}  // namespace

void improve_each(const Fleet& fleet, Routes& routes) {
  const Distances& d = fleet.distances;
  const double less = least_gain(fleet);
  for (auto& route : routes) {
    const auto n = route.size();
    const auto stop = [&](std::size_t k) { return k == 0 || k > n ? fleet.gate : route[k - 1]; };
    for (bool moved = true; moved;) {
      moved = false;
      // Legs (i, i + 1) and (j, j + 1) of the trip with the gate at 0.
      for (std::size_t i = 0; i + 1 < n && d.symmetric(); ++i)
        for (std::size_t j = i + 2; j <= n; ++j) {
          const double now = d(stop(i), stop(i + 1)) + d(stop(j), stop(j + 1));
          const double then = d(stop(i), stop(j)) + d(stop(i + 1), stop(j + 1));
          if (then >= now - less) continue;
          std::reverse(route.begin() + static_cast<std::ptrdiff_t>(i),
                       route.begin() + static_cast<std::ptrdiff_t>(j));
          moved = true;
        }
      for (std::size_t count = 1; count <= 3; ++count)
        for (std::size_t i = 1; i + count <= n + 1; ++i) {
          const double freed = d(stop(i - 1), stop(i)) + d(stop(i + count - 1), stop(i + count)) -
                               d(stop(i - 1), stop(i + count));
          for (std::size_t j = 0; j <= n; ++j) {
            if (j + 1 >= i && j < i + count) continue;
            const double cost =
                d(stop(j), stop(i)) + d(stop(i + count - 1), stop(j + 1)) - d(stop(j), stop(j + 1));
            if (cost >= freed - less) continue;
            const auto begin = route.begin();
            const auto first = static_cast<std::ptrdiff_t>(i - 1);
            const auto last = first + static_cast<std::ptrdiff_t>(count);
            const auto to = static_cast<std::ptrdiff_t>(j);
            if (to < first)
              std::rotate(begin + to, begin + first, begin + last);
            else
              std::rotate(begin + first, begin + last, begin + to);
            moved = true;
            break;
          }
        }
    }
  }
}

void improve_routes(const Fleet& fleet, Routes& routes, const Interrupt& interrupt) {
  if (fleet.size() < 2) return;
  RouteSearch(fleet, routes).run(interrupt);
}

}  // namespace kiteknot::structures::tours
