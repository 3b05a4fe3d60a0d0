#include "structures/tours/directed.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace kiteknot::structures::tours {
namespace {

Distances spread(const Distances& d, double tie, double never) {
  const Index n = d.size();
  const std::size_t side = 2 * at(n);
  std::vector<double> matrix(side * side, never);
  for (Index i = 0; i < n; ++i) {
    const std::size_t arrival = at(i), departure = at(i) + at(n);
    matrix[arrival * side + departure] = matrix[departure * side + arrival] = tie;
    for (Index j = 0; j < n; ++j) {
      if (i == j) continue;
      const std::size_t to = at(j);
      matrix[departure * side + to] = matrix[to * side + departure] = d(i, j);
    }
  }
  for (std::size_t k = 0; k < side; ++k) matrix[k * side + k] = 0.0;
  return {static_cast<Index>(side), std::move(matrix)};
}

}  // namespace

Distances arrivals_and_departures(const Distances& directed) {
  return spread(directed, 0.0, std::numeric_limits<double>::infinity());
}

Distances nearly_arrivals_and_departures(const Distances& directed) {
  double longest = 1.0;
  for (Index i = 0; i < directed.size(); ++i)
    for (Index j = 0; j < directed.size(); ++j)
      if (i != j && std::isfinite(directed(i, j)))
        longest = std::max(longest, std::abs(directed(i, j)));
  return spread(directed, -4.0 * longest, 8.0 * longest);
}

std::vector<Leg> ties(Index stops) {
  std::vector<Leg> legs;
  for (Index i = 0; i < stops; ++i) legs.push_back({i, i + stops});
  return legs;
}

std::vector<Index> directed_tour(const std::vector<Index>& symmetric, Index stops) {
  std::vector<Index> tour;
  for (const Index s : symmetric)
    if (s < stops) tour.push_back(s);
  // An arrival is followed by its own departure, or the tour was told backwards.
  const auto first =
      std::find_if(symmetric.begin(), symmetric.end(), [&](Index s) { return s < stops; });
  if (first == symmetric.end()) return tour;
  const auto next = first + 1 == symmetric.end() ? symmetric.begin() : first + 1;
  if (*next != *first + stops) std::reverse(tour.begin(), tour.end());
  return tour;
}

std::vector<Index> symmetric_tour(const std::vector<Index>& directed) {
  std::vector<Index> tour;
  const auto n = static_cast<Index>(directed.size());
  for (const Index s : directed) {
    tour.push_back(s);
    tour.push_back(s + n);
  }
  return tour;
}

}  // namespace kiteknot::structures::tours
