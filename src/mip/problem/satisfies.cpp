#include "mip/problem/exact_rows.hpp"

namespace kiteknot::mip {

bool satisfies(const Problem& problem, std::span<const Rational> point) {
  for (Index j = 0; j < problem.num_columns(); ++j) {
    const Rational& x = point[at(j)];
    if (!within(x, problem.lower(j), problem.upper(j)) || (problem.integer(j) && !x.is_integer()))
      return false;
  }
  ExactPoint exact{point, std::vector<char>(at(problem.num_conditions()), 0),
                   std::vector<char>(at(problem.num_conditions()), 0)};
  for (const auto& kind : problem.kinds().all())
    if (!kind->satisfied(problem, exact)) return false;
  for (std::size_t c = 0; c < exact.must_hold.size(); ++c)
    if (exact.must_hold[c] && exact.must_fail[c]) return false;
  return true;
}

}  // namespace kiteknot::mip
