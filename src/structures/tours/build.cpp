#include "structures/tours/build.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/infinity.hpp"
#include "structures/tours/fragments.hpp"
#include "structures/tours/point_tree.hpp"

namespace kiteknot::structures::tours {
namespace {

struct Candidate {
  double rank;  // the least comes first
  Index a, b;
};

double mean_length(const Distances& d, Index a, Index b) {
  return d.symmetric() ? d(a, b) : 0.5 * (d(a, b) + d(b, a));
}

// As they come along a curve; for want of time.
void join_one_by_one(const Distances& d, Fragments& fragments) {
  Index end = -1;  // of what there is so far
  for (const Index i : by_curve(d)) {
    if (!fragments.is_end(i)) continue;
    if (end < 0)
      end = fragments.other_end(i);
    else if (fragments.can_join(end, i)) {
      const Index far = fragments.other_end(i);
      fragments.join(end, i);
      end = far;
    }
  }
}

// Ends are joined to the nearest end of another fragment, the shortest such legs first, round by
// round: every round at least halves the fragments.
void join_ends(const Distances& d, Fragments& fragments, const Interrupt& interrupt) {
  while (fragments.count() > 1) {
    std::vector<Index> ends;
    for (Index i = 0; i < d.size(); ++i)
      if (fragments.is_end(i)) ends.push_back(i);
    if (interrupt.now()) return join_one_by_one(d, fragments);
    std::vector<Candidate> legs;
    if (d.has_places()) {
      const PointTree tree(d.in_space(), ends);
      for (const Index a : ends) {
        const Index b = tree.nearest_with(a, [&](Index p) { return fragments.other_end(a) != p; });
        if (b >= 0) legs.push_back({d(a, b), a, b});
      }
    } else {
      for (const Index a : ends) {
        Candidate best{kInf, a, -1};
        for (const Index b : ends)
          if (a != b && fragments.other_end(a) != b && mean_length(d, a, b) < best.rank)
            best = {mean_length(d, a, b), a, b};
        if (best.b < 0)  // nothing but legs without an end
          for (const Index b : ends)
            if (a != b && fragments.other_end(a) != b) best = {kInf, a, b};
        if (best.b >= 0) legs.push_back(best);
      }
    }
    std::stable_sort(legs.begin(), legs.end(),
                     [](const Candidate& x, const Candidate& y) { return x.rank < y.rank; });
    for (const Candidate& leg : legs)
      if (fragments.can_join(leg.a, leg.b)) fragments.join(leg.a, leg.b);
  }
}

std::vector<Index> from_legs(const Distances& d, std::vector<Candidate> legs,
                             const Interrupt& interrupt) {
  std::stable_sort(legs.begin(), legs.end(),
                   [](const Candidate& x, const Candidate& y) { return x.rank < y.rank; });
  Fragments fragments(d.size());
  for (const Candidate& leg : legs)
    if (fragments.can_join(leg.a, leg.b)) fragments.join(leg.a, leg.b);
  join_ends(d, fragments, interrupt);
  return fragments.in_order();
}

// The place of a cell on Hilbert's curve through a grid of 2^bits by 2^bits cells.
std::uint64_t along_the_curve(std::uint32_t x, std::uint32_t y, int bits) {
  std::uint64_t place = 0;
  for (std::uint32_t s = 1U << (bits - 1); s > 0; s /= 2) {
    const std::uint32_t rx = (x & s) != 0 ? 1 : 0, ry = (y & s) != 0 ? 1 : 0;
    place += static_cast<std::uint64_t>(s) * s * ((3 * rx) ^ ry);
    if (ry == 0) {
      if (rx == 1) {
        x = ((1U << bits) - 1) - x;
        y = ((1U << bits) - 1) - y;
      }
      std::swap(x, y);
    }
  }
  return place;
}

}  // namespace

std::vector<Index> by_nearest_stop(const Distances& d, Index start) {
  const Index n = d.size();
  std::vector<Index> tour;
  if (n == 0) return tour;
  tour.reserve(at(n));
  tour.push_back(start);
  if (d.has_places()) {
    PointTree left(d.in_space());
    left.remove(start);
    while (static_cast<Index>(tour.size()) < n) {
      tour.push_back(left.nearest(tour.back()));
      left.remove(tour.back());
    }
    return tour;
  }
  std::vector<char> seen(at(n), 0);
  seen[at(start)] = 1;
  while (static_cast<Index>(tour.size()) < n) {
    Index best = -1;
    for (Index j = 0; j < n; ++j)
      if (!seen[at(j)] && (best < 0 || d(tour.back(), j) < d(tour.back(), best))) best = j;
    seen[at(best)] = 1;
    tour.push_back(best);
  }
  return tour;
}

std::vector<Index> by_shortest_legs(const Distances& d, const Neighbours& near,
                                    const Interrupt& interrupt) {
  std::vector<Candidate> legs;
  for (Index a = 0; a < d.size(); ++a)
    for (const Index b : near.of(a)) {
      const std::span<const Index> back = near.of(b);
      if (a < b || std::find(back.begin(), back.end(), a) == back.end())
        legs.push_back({mean_length(d, a, b), a, b});
    }
  return from_legs(d, std::move(legs), interrupt);
}

std::vector<Index> by_savings(const Distances& d, const Neighbours& near,
                              const Interrupt& interrupt) {
  const Index n = d.size();
  if (n < 3) return by_nearest_stop(d);
  Index hub = 0;
  if (d.has_places()) {  // next to the middle of all
    const Places& p = d.in_space();
    double x = 0.0, y = 0.0, z = 0.0;
    for (std::size_t i = 0; i < at(n); ++i) x += p.x[i] / n, y += p.y[i] / n, z += p.z[i] / n;
    double least = kInf;
    for (std::size_t i = 0; i < at(n); ++i) {
      const double dx = p.x[i] - x, dy = p.y[i] - y, dz = p.z[i] - z,
                   away = dx * dx + dy * dy + dz * dz;
      if (away < least) least = away, hub = static_cast<Index>(i);
    }
  } else {
    double least = kInf;
    for (Index i = 0; i < n; ++i) {
      double sum = 0.0;
      for (Index j = 0; j < n; ++j) sum += i == j ? 0.0 : mean_length(d, i, j);
      if (sum < least) least = sum, hub = i;
    }
  }
  std::vector<Candidate> legs;
  for (Index a = 0; a < n; ++a)
    for (const Index b : near.of(a)) {
      const std::span<const Index> back = near.of(b);
      if (a == hub || b == hub || (b < a && std::find(back.begin(), back.end(), a) != back.end()))
        continue;
      legs.push_back(
          {mean_length(d, a, b) - mean_length(d, hub, a) - mean_length(d, hub, b), a, b});
    }
  return from_legs(d, std::move(legs), interrupt);
}

std::vector<Index> by_curve(const Distances& d) {
  std::vector<Index> tour(at(d.size()));
  std::iota(tour.begin(), tour.end(), 0);
  if (!d.has_places() || d.size() < 3) return tour;
  constexpr int kBits = 20;
  const Places& p = d.in_space();
  const auto [x_low, x_high] = std::minmax_element(p.x.begin(), p.x.end());
  const auto [y_low, y_high] = std::minmax_element(p.y.begin(), p.y.end());
  const double x0 = *x_low, y0 = *y_low, wide = std::max(*x_high - x0, *y_high - y0);
  const double scale = wide > 0.0 ? static_cast<double>((1U << kBits) - 1) / wide : 0.0;
  std::vector<std::uint64_t> place;
  for (std::size_t i = 0; i < tour.size(); ++i)
    place.push_back(along_the_curve(static_cast<std::uint32_t>((p.x[i] - x0) * scale),
                                    static_cast<std::uint32_t>((p.y[i] - y0) * scale), kBits));
  std::stable_sort(tour.begin(), tour.end(),
                   [&](Index a, Index b) { return place[at(a)] < place[at(b)]; });
  return tour;
}

}  // namespace kiteknot::structures::tours
