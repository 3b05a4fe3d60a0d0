#include "mip/relaxation/ray.hpp"

#include <cmath>

#include "lp/ray.hpp"

namespace kiteknot::mip {
namespace {

using lp::recedes;

// The limits of a row or column in the model's own numbers: a double may be infinite for want of
// room.
std::pair<Rational, Rational> limits(const lp::Exact* known, double lower, double upper) {
  const auto as_it_is = [](double v) {
    return std::isfinite(v) ? Rational::exactly(v)
           : v > 0          ? Rational::infinity()
                            : Rational::minus_infinity();
  };
  return {known != nullptr && known->low_as == lower ? known->low : as_it_is(lower),
          known != nullptr && known->high_as == upper ? known->high : as_it_is(upper)};
}

const lp::Exact* found(const std::unordered_map<Index, lp::Exact>& known, Index k) {
  const auto it = known.find(k);
  return it == known.end() ? nullptr : &it->second;
}

bool row_recedes(const RowView& row, const lp::Exact* known, const std::vector<Rational>& d) {
  Rational rate = 0;
  for (std::size_t k = 0; k < row.index.size(); ++k)
    rate += (known != nullptr && !known->values.empty() ? known->values[k]
                                                        : Rational::exactly(row.value[k])) *
            d[at(row.index[k])];
  const auto [low, high] = limits(known, row.lower, row.upper);
  return recedes(rate, low, high);
}

bool holds(const Problem& problem, const std::vector<Rational>& d) {
  Rational goal = 0;
  for (Index j = 0; j < problem.num_columns(); ++j) {
    const Rational& rate = d[static_cast<std::size_t>(j)];
    const auto [low, high] =
        limits(found(problem.known_bounds(), j), problem.lower(j), problem.upper(j));
    if (!recedes(rate, low, high)) return false;
    goal += (problem.known_costs().empty() ? Rational::exactly(problem.cost(j))
                                           : problem.known_costs()[static_cast<std::size_t>(j)]) *
            rate;
  }
  if (goal.sign() >= 0) return false;
  for (Index i = 0; i < problem.num_rows(); ++i) {
    const lp::Exact* known = problem.known_row(i);
    if ((!problem.row_exact(i) && (known == nullptr || known->values.empty())) ||
        !row_recedes(problem.row(i), known, d))
      return false;
  }
  for (Index k = 0; k < problem.num_conditional_rows(); ++k) {
    const When when = problem.when(k);
    const Index column = problem.column_of_condition(when.condition);
    if (column >= 0 && problem.lower(column) == problem.upper(column) &&
        (problem.lower(column) == 1.0) != when.holds)
      continue;  // it need not hold
    if (!row_recedes(problem.conditional_row(k), problem.known_conditional_row(k), d)) return false;
  }
  for (const OrderedSet& set : problem.ordered_sets())
    for (const Index j : set.columns)
      if (!d[static_cast<std::size_t>(j)].is_zero()) return false;
  return true;
}

}  // namespace

std::optional<std::vector<Rational>> exact_ray(const Problem& problem,
                                               std::span<const double> direction) {
  if (problem.generator() != nullptr || direction.empty()) return std::nullopt;
  for (std::vector<Rational>& d : lp::as_fractions(direction))
    if (holds(problem, d)) return std::move(d);
  return std::nullopt;
}

}  // namespace kiteknot::mip
