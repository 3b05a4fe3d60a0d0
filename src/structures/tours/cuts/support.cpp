#include "structures/tours/cuts/support.hpp"

namespace kiteknot::structures::tours {

Support::Support(Index stops, std::span<const Leg> legs, std::span<const double> x)
    : first_(at(stops) + 1, 0) {
  for (std::size_t k = 0; k < legs.size(); ++k)
    if (x[k] > kZero) {
      ++first_[at(legs[k].a) + 1];
      ++first_[at(legs[k].b) + 1];
    }
  for (std::size_t i = 1; i < first_.size(); ++i) first_[i] += first_[i - 1];
  arcs_.resize(first_.back());
  std::vector<std::size_t> next(first_.begin(), first_.end() - 1);
  for (std::size_t k = 0; k < legs.size(); ++k)
    if (x[k] > kZero) {
      arcs_[next[at(legs[k].a)]++] = {legs[k].b, x[k]};
      arcs_[next[at(legs[k].b)]++] = {legs[k].a, x[k]};
    }
}

std::vector<std::vector<Index>> members(const std::vector<Index>& part, Index count) {
  std::vector<std::vector<Index>> sets(at(count));
  for (std::size_t s = 0; s < part.size(); ++s) sets[at(part[s])].push_back(static_cast<Index>(s));
  return sets;
}

}  // namespace kiteknot::structures::tours
