#include "structures/boxes.hpp"

#include <algorithm>
#include <numeric>
#include <set>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

std::vector<Index> largest_first(const std::vector<std::int64_t>& sizes) {
  std::vector<Index> order(sizes.size());
  std::iota(order.begin(), order.end(), 0);
  std::ranges::stable_sort(order, [&](Index a, Index b) { return sizes[at(a)] > sizes[at(b)]; });
  return order;
}

}  // namespace

Boxes first_fit(const std::vector<std::int64_t>& sizes, std::int64_t room) {
  Boxes b{std::vector<Index>(sizes.size(), -1), 0};
  std::vector<std::int64_t> left;
  for (const Index i : largest_first(sizes)) {
    const auto fits = std::ranges::find_if(left, [&](std::int64_t l) { return l >= sizes[at(i)]; });
    b.box_of[at(i)] = static_cast<Index>(fits - left.begin());
    if (fits == left.end())
      left.push_back(room - sizes[at(i)]);
    else
      *fits -= sizes[at(i)];
  }
  b.used = static_cast<Index>(left.size());
  return b;
}

Boxes best_fit(const std::vector<std::int64_t>& sizes, std::int64_t room) {
  Boxes b{std::vector<Index>(sizes.size(), -1), 0};
  std::set<std::pair<std::int64_t, Index>> left;  // room and box
  for (const Index i : largest_first(sizes)) {
    const auto fits = left.lower_bound({sizes[at(i)], -1});
    const std::int64_t before = fits == left.end() ? room : fits->first;
    const Index box = fits == left.end() ? b.used++ : fits->second;
    if (fits != left.end()) left.erase(fits);
    left.insert({before - sizes[at(i)], box});
    b.box_of[at(i)] = box;
  }
  return b;
}

// For a threshold t: items above room - t need a box each with nothing beside them that is t or
// more; those above half a box each; the rest from t on share what is left.
Index boxes_needed(const std::vector<std::int64_t>& sizes, std::int64_t room) {
  std::vector<std::int64_t> thresholds{0};
  for (const std::int64_t s : sizes)
    if (2 * s <= room) thresholds.push_back(s);
  std::ranges::sort(thresholds);
  thresholds.erase(std::unique(thresholds.begin(), thresholds.end()), thresholds.end());
  std::vector<std::int64_t> sorted = sizes;
  std::ranges::sort(sorted);
  std::vector<std::int64_t> before(sorted.size() + 1, 0);  // sums of the smaller ones
  for (std::size_t k = 0; k < sorted.size(); ++k) before[k + 1] = before[k] + sorted[k];
  const auto place = [&](std::int64_t above) {  // the first one larger than that
    return static_cast<std::size_t>(std::upper_bound(sorted.begin(), sorted.end(), above) -
                                    sorted.begin());
  };
  const std::size_t half = place(room / 2);
  std::int64_t most = 0;
  for (const std::int64_t t : thresholds) {
    const std::size_t alone = place(room - t);
    const std::size_t from = static_cast<std::size_t>(
        std::lower_bound(sorted.begin(), sorted.end(), t) - sorted.begin());
    const auto large = static_cast<std::int64_t>(sorted.size() - alone);
    const auto middle = static_cast<std::int64_t>(alone - std::min(half, alone));
    const std::int64_t beside =
        middle * room - (before[alone] - before[std::min(half, alone)]);  // room beside those
    const std::int64_t rest = before[std::min(half, alone)] - before[std::min(from, half)];
    const std::int64_t more = rest > beside ? (rest - beside + room - 1) / room : 0;
    most = std::max(most, large + middle + more);
  }
  return static_cast<Index>(most);
}

}  // namespace kiteknot::structures
