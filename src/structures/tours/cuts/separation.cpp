#include "structures/tours/cuts/separation.hpp"

#include <algorithm>
#include <unordered_map>

#include "structures/tours/cuts/blossoms.hpp"
#include "structures/tours/cuts/loops.hpp"

namespace kiteknot::structures::tours {
namespace {

// The support with groups of stops as its stops.
Support join(const Support& support, const std::vector<Index>& group, Index count) {
  std::unordered_map<std::int64_t, double> sums;
  support.each([&](Index a, Index b, double x) {
    Index p = group[at(a)], q = group[at(b)];
    if (p == q) return;
    if (p > q) std::swap(p, q);
    sums[static_cast<std::int64_t>(p) * count + q] += x;
  });
  std::vector<std::pair<Leg, double>> joined;
  for (const auto& [key, x] : sums)
    joined.emplace_back(Leg{static_cast<Index>(key / count), static_cast<Index>(key % count)}, x);
  std::sort(joined.begin(), joined.end());  // in no order of hashes
  std::vector<Leg> legs;
  std::vector<double> x;
  for (const auto& [leg, value] : joined) {
    legs.push_back(leg);
    x.push_back(value);
  }
  return {count, legs, x};
}

}  // namespace

std::vector<StopRow> TourSeparation::look(std::span<const Leg> legs, std::span<const double> x,
                                          double margin, std::size_t most) {
  std::vector<StopRow> found;
  if (stops_ < 3) return found;
  const Support support(stops_, legs, x);
  cut_parts(support, found);
  if (found.empty()) {
    cut_weak_sets(support, margin, found);
    keep_sets(found);
  }
  // Few sets are left: the others are worth looking for.
  if (found.size() < 5) {
    cut_blossoms(support, margin, found);
    look_for_combs(support, margin, found);
  }
  std::vector<std::pair<double, std::size_t>> order;
  for (std::size_t k = 0; k < found.size(); ++k) {
    normalise(found[k], stops_);
    const double broken = found[k].at_least - counts_.value(found[k], legs, x);
    if (broken > margin) order.emplace_back(-broken, k);
  }
  std::sort(order.begin(), order.end());
  std::vector<StopRow> result;
  for (const auto& [unused, k] : order) {
    if (result.size() >= most) break;
    if (std::find(result.begin(), result.end(), found[k]) == result.end())
      result.push_back(std::move(found[k]));
  }
  return result;
}

void TourSeparation::keep_sets(const std::vector<StopRow>& found) {
  constexpr std::size_t kMost = 2000;
  for (const StopRow& row : found) sets_.push_back(row.sets[0]);
  if (sets_.size() > kMost)
    sets_.erase(sets_.begin(), sets_.begin() + static_cast<std::ptrdiff_t>(sets_.size() - kMost));
}

// Sets with exactly 2 in and out of them are joined, drawn by lot where they overlap: teeth of
// larger sets show as blossoms there. Source: Padberg and Rinaldi 1990, "Facet identification for
// the symmetric traveling salesman polytope" (shrinking).
void TourSeparation::look_for_combs(const Support& support, double margin,
                                    std::vector<StopRow>& found) {
  constexpr int kTries = 6;
  constexpr double kTight = 1e-6;
  std::vector<std::size_t> tight;
  std::vector<char> inside(at(stops_), 0);
  for (std::size_t k = 0; k < sets_.size(); ++k) {
    if (support.legs_out(sets_[k], inside) < 2.0 + kTight) tight.push_back(k);
  }
  // Legs of 1 are such sets, too.
  std::vector<Leg> ones;
  support.each([&](Index a, Index b, double x) {
    if (x >= 1.0 - Support::kWhole) ones.push_back({a, b});
  });
  for (int t = 0; t < kTries && found.size() < 200; ++t) {
    std::vector<Index> group(at(stops_), -1);
    Index count = 0;
    std::vector<std::size_t> order = tight;
    for (std::size_t k = order.size(); k > 1; --k)
      std::swap(
          order[k - 1],
          order[static_cast<std::size_t>(random_.between(0, static_cast<std::int64_t>(k) - 1))]);
    for (const std::size_t k : order) {
      if (std::any_of(sets_[k].begin(), sets_[k].end(), [&](Index s) { return group[at(s)] >= 0; }))
        continue;
      for (const Index s : sets_[k]) group[at(s)] = count;
      ++count;
    }
    for (const Leg& leg : ones) {
      if (group[at(leg.a)] >= 0 || group[at(leg.b)] >= 0 || random_.chance(0.5)) continue;
      group[at(leg.a)] = group[at(leg.b)] = count++;
    }
    for (Index& g : group)
      if (g < 0) g = count++;
    if (count < 6 || count == stops_) continue;
    cut_combs_over(join(support, group, count), members(group, count), margin, found);
  }
}

}  // namespace kiteknot::structures::tours
