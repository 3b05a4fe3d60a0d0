#include "mip/ray.hpp"

#include "lp/ray.hpp"

namespace kiteknot::mip {
namespace {

using lp::recedes;

bool row_recedes(std::span<const Index> index, std::span<const double> value, double lower,
                 double upper, const std::vector<Rational>& d) {
  Rational rate = 0;
  for (std::size_t k = 0; k < index.size(); ++k)
    rate += Rational::exactly(value[k]) * d[static_cast<std::size_t>(index[k])];
  return recedes(rate, lower, upper);
}

bool holds(const Problem& problem, const std::vector<Rational>& d) {
  Rational goal = 0;
  for (Index j = 0; j < problem.num_columns(); ++j) {
    const Rational& rate = d[static_cast<std::size_t>(j)];
    if (!recedes(rate, problem.lower(j), problem.upper(j))) return false;
    goal += Rational::exactly(problem.cost(j)) * rate;
  }
  if (goal.sign() >= 0) return false;
  for (Index i = 0; i < problem.num_rows(); ++i)
    if (!problem.row_exact(i) || !row_recedes(problem.rows().index(i), problem.rows().value(i),
                                              problem.row_lower(i), problem.row_upper(i), d))
      return false;
  for (const ConditionalRow& c : problem.conditional_rows()) {
    Rational rate = 0;
    for (const Entry& e : c.row.entries)
      rate += Rational::exactly(e.value) * d[static_cast<std::size_t>(e.index)];
    if (!recedes(rate, c.row.lower, c.row.upper)) return false;
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
