#pragma once
// Bounds that no plan better than the best one has all together: what a branch that came to nothing
// leaves behind.

#include <vector>

#include "base/interval.hpp"
#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

struct Conflict {
  std::vector<Change> bounds;  ///< each of another column or side, or condition
};

/// Whether the domain is within the bound.
inline bool holds(const Domain& domain, const Change& bound) {
  switch (bound.what) {
    case Change::What::lower:
      return domain.lower(bound.index) >= bound.value;
    case Change::What::upper:
      return domain.upper(bound.index) <= bound.value;
    case Change::What::condition:
      break;
  }
  return domain.state(bound.index) == (bound.value == 1.0 ? State::holds : State::fails);
}

/// What is left of the domain beyond the bound: the next whole value and further, or what is not
/// less than that where no double says it; of a real column the bound itself stays.
inline Change beyond(const Problem& problem, const Change& bound) {
  if (bound.what == Change::What::condition)
    return {bound.what, bound.index, bound.value == 1.0 ? 0.0 : 1.0};
  const double step = problem.integer(bound.index) ? 1.0 : 0.0;
  return bound.what == Change::What::lower
             ? Change{Change::What::upper, bound.index, add_up(bound.value, -step)}
             : Change{Change::What::lower, bound.index, add_down(bound.value, step)};
}

}  // namespace kiteknot::mip
