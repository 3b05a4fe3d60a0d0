#include <algorithm>
#include <cmath>

#include "base/tolerances.hpp"
#include "mip/branching/disjunction.hpp"

namespace kiteknot::mip {
namespace {

bool is_zero(double x) {
  return std::abs(x) <= Tolerances{}.integrality;
}

}  // namespace

bool OrderedSets::met(const Domain& domain, std::span<const double> point) const {
  for (const OrderedSet& set : domain.problem().ordered_sets()) {
    Index first = -1, last = -1;
    for (std::size_t k = 0; k < set.columns.size(); ++k) {
      if (is_zero(point[at(set.columns[k])])) continue;
      if (first < 0) first = static_cast<Index>(k);
      last = static_cast<Index>(k);
    }
    if (first >= 0 && last - first + 1 > set.width) return false;
  }
  return true;
}

bool OrderedSets::split(const Domain& domain, std::span<const double> point, Branching& out) const {
  for (const OrderedSet& set : domain.problem().ordered_sets()) {
    const auto size = static_cast<Index>(set.columns.size());
    Index first = -1, last = -1;
    double weight = 0.0, centre = 0.0;
    for (Index k = 0; k < size; ++k) {
      const double x = std::abs(point[at(set.columns[at(k)])]);
      if (is_zero(x)) continue;
      if (first < 0) first = k;
      last = k;
      weight += x;
      centre += x * k;
    }
    if (first < 0 || last - first + 1 <= set.width) continue;
    // The left child keeps 0 .. place + width - 1, the right one place + 1 .. ; both cut the point
    // off.
    const Index place = std::clamp(static_cast<Index>(centre / weight), first, last - set.width);
    std::vector<Change> left, right;
    for (Index k = 0; k < size; ++k) {
      const Index j = set.columns[at(k)];
      std::vector<Change>* part = k >= place + set.width ? &left : (k <= place ? &right : nullptr);
      if (part == nullptr) continue;
      if (domain.lower(j) < 0.0) part->push_back({Change::What::lower, j, 0.0});
      if (domain.upper(j) > 0.0) part->push_back({Change::What::upper, j, 0.0});
    }
    out.children = {std::move(left), std::move(right)};
    return true;
  }
  return false;
}

}  // namespace kiteknot::mip
