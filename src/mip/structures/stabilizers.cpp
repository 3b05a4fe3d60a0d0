#include "mip/structures/stabilizers.hpp"

#include <algorithm>
#include <numeric>

#include "base/at.hpp"
#include "base/random.hpp"

namespace kiteknot::mip {
namespace {

using Permutation = std::vector<Index>;

// First a, then b.
Permutation then(const Permutation& a, const Permutation& b) {
  Permutation c(a.size());
  for (std::size_t k = 0; k < a.size(); ++k) c[k] = b[at(a[k])];
  return c;
}

Permutation inverse(const Permutation& a) {
  Permutation b(a.size());
  for (std::size_t k = 0; k < a.size(); ++k) b[at(a[k])] = static_cast<Index>(k);
  return b;
}

bool moves(const Permutation& a) {
  for (std::size_t k = 0; k < a.size(); ++k)
    if (a[k] != static_cast<Index>(k)) return true;
  return false;
}

}  // namespace

Stabilizers::Stabilizers(const Symmetry& symmetry, Index num_columns)
    : place_(at(num_columns), -1) {
  for (const Symmetry::Permutation& g : symmetry.generators)
    for (const Symmetry::Move& m : g) place_[at(m.from)] = 0;
  for (Index j = 0; j < num_columns; ++j) {
    if (place_[at(j)] < 0) continue;
    place_[at(j)] = static_cast<Index>(columns_.size());
    columns_.push_back(j);
  }
  std::vector<Permutation> all;
  for (const Symmetry::Permutation& g : symmetry.generators) {
    Permutation& dense = all.emplace_back(columns_.size());
    std::iota(dense.begin(), dense.end(), 0);
    for (const Symmetry::Move& m : g) dense[at(place_[at(m.from)])] = place_[at(m.to)];
  }
  levels_.push_back(level(-1, std::move(all)));
}

Stabilizers::Level Stabilizers::level(Index point, std::vector<Permutation> generators) const {
  Level l{point, std::move(generators), std::vector<Index>(columns_.size())};
  std::vector<Index>& of = l.orbit_of;
  std::iota(of.begin(), of.end(), 0);
  const auto find = [&](Index k) {
    while (of[at(k)] != k) k = of[at(k)] = of[at(of[at(k)])];
    return k;
  };
  for (const Permutation& g : l.generators)
    for (std::size_t k = 0; k < g.size(); ++k) of[at(find(static_cast<Index>(k)))] = find(g[k]);
  for (std::size_t k = 0; k < of.size(); ++k) of[k] = find(static_cast<Index>(k));
  return l;
}

std::vector<Permutation> Stabilizers::stabilizer(const std::vector<Permutation>& generators,
                                                 Index point, WorkCounter& work) const {
  constexpr std::size_t kMost = 24, kDraws = 48;
  constexpr std::size_t kLarge = 2'000;  // columns, beyond which those that fix the point will do
  std::vector<Permutation> found;
  if (columns_.size() > kLarge) {
    std::copy_if(generators.begin(), generators.end(), std::back_inserter(found),
                 [&](const Permutation& g) { return g[at(point)] == point; });
    return found;
  }
  // The same whenever it is asked for: what a worker answers does not depend on its past.
  Random random(static_cast<std::uint64_t>(point) + 1'000'003 * levels_.size());
  const auto pick = [&](std::size_t count) {
    return static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(count) - 1));
  };
  // The orbit of the point, and how each of its members is reached.
  std::vector<Index> orbit = {point};
  std::vector<Permutation> way(columns_.size());
  way[at(point)].resize(columns_.size());
  std::iota(way[at(point)].begin(), way[at(point)].end(), 0);
  for (std::size_t k = 0; k < orbit.size(); ++k)
    for (const Permutation& g : generators) {
      const Index image = g[at(orbit[k])];
      if (!way[at(image)].empty()) continue;
      way[at(image)] = then(way[at(orbit[k])], g);
      orbit.push_back(image);
    }
  const auto add = [&](std::size_t member, const Permutation& g) {
    const Permutation& back = way[at(g[at(orbit[member])])];
    Permutation h = then(then(way[at(orbit[member])], g), inverse(back));
    if (moves(h) && std::find(found.begin(), found.end(), h) == found.end())
      found.push_back(std::move(h));
  };
  const std::size_t all = orbit.size() * generators.size();
  for (std::size_t k = 0; k < std::min(all, kDraws) && found.size() < kMost; ++k) {
    if (all <= kDraws) {
      add(k % orbit.size(), generators[k / orbit.size()]);
      continue;
    }
    // A walk through the group, and back to the point.
    constexpr int kSteps = 8;
    Permutation g = generators[pick(generators.size())];
    for (int step = 1; step < kSteps; ++step) g = then(g, generators[pick(generators.size())]);
    add(pick(orbit.size()), g);
  }
  constexpr std::int64_t kPasses = 12;  // over a permutation, for one that is tried
  work.add(static_cast<std::int64_t>(columns_.size()) *
           static_cast<std::int64_t>(orbit.size() + kPasses * std::min(all, kDraws)));
  return found;
}

const std::vector<Index>& Stabilizers::orbits(std::span<const Index> points, WorkCounter& work) {
  std::size_t same = 0;
  while (same < points.size() && same + 1 < levels_.size() &&
         levels_[same + 1].point == points[same])
    ++same;
  levels_.resize(same + 1);
  for (std::size_t k = same; k < points.size(); ++k) {
    const std::vector<Permutation>& before = levels_.back().generators;
    const Index place = place_[at(points[k])];
    const bool idle = place < 0 || before.empty() ||
                      std::all_of(before.begin(), before.end(),
                                  [&](const Permutation& g) { return g[at(place)] == place; });
    levels_.push_back(level(points[k], idle ? before : stabilizer(before, place, work)));
  }
  return levels_.back().orbit_of;
}

}  // namespace kiteknot::mip
