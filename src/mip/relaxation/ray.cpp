#include "mip/relaxation/ray.hpp"

#include <algorithm>

#include "lp/ray.hpp"
#include "mip/problem/exact_rows.hpp"

namespace kiteknot::mip {

bool is_ray(const Problem& problem, std::span<const Rational> d) {
  if (!problem.complete()) return false;
  Rational goal = 0;
  for (Index j = 0; j < problem.num_columns(); ++j) {
    const Rational& rate = d[static_cast<std::size_t>(j)];
    const auto known = problem.known_bounds().find(j);
    const auto [low, high] =
        exact_limits(known == problem.known_bounds().end() ? nullptr : &known->second,
                     problem.lower(j), problem.upper(j));
    if (!lp::recedes(rate, low, high)) return false;
    goal += (problem.known_costs().empty() ? Rational::exactly(problem.cost(j))
                                           : problem.known_costs()[static_cast<std::size_t>(j)]) *
            rate;
  }
  if (goal.sign() >= 0) return false;
  return std::all_of(
      problem.kinds().all().begin(), problem.kinds().all().end(),
      [&](const auto& kind) { return !kind->any(problem) || kind->recedes(problem, d); });
}

std::optional<std::vector<Rational>> exact_ray(const Problem& problem,
                                               std::span<const double> direction) {
  if (direction.empty()) return std::nullopt;
  for (std::vector<Rational>& d : lp::as_fractions(direction))
    if (is_ray(problem, d)) return std::move(d);
  return std::nullopt;
}

}  // namespace kiteknot::mip
