#include "mip/row_propagation.hpp"

#include <algorithm>
#include <cmath>

#include "base/interval.hpp"

namespace kiteknot::mip {
namespace {

constexpr double kLeastGain = 1e-3;  // of a real column's width: smaller steps could go on for ever

// The least value of a x over [lower, upper], rounded down; a is an interval that keeps its sign.
double least_term(const Interval& a, double lower, double upper) {
  const double end = a.low > 0.0 ? lower : upper;
  if (std::isinf(end)) return -std::numeric_limits<double>::infinity();
  return times(end, a).low;
}

double most_term(const Interval& a, double lower, double upper) {
  return -least_term({-a.high, -a.low}, lower, upper);
}

bool worth_it(const Domain& domain, Index j, double gain) {
  if (domain.problem().integer(j)) return true;
  const double width = domain.upper(j) - domain.lower(j);
  return std::isinf(gain) || gain > kLeastGain * (std::isinf(width) ? 1.0 : width);
}

// a x <= rest, where rest is rounded up: a new upper (a > 0) or lower (a < 0) bound.
bool limit_term(Domain& domain, Index j, const Interval& a, double rest) {
  if (a.low > 0.0) {
    const double bound = divide_up(rest, rest >= 0.0 ? a.low : a.high);
    return !worth_it(domain, j, domain.upper(j) - bound) || domain.drop_upper(j, bound);
  }
  const double bound = divide_down(rest, rest >= 0.0 ? a.high : a.low);
  return !worth_it(domain, j, bound - domain.lower(j)) || domain.raise_lower(j, bound);
}

// sign a'x <= limit, given the least value `low` of the left side with `infinite` unbounded terms:
// every column may take at most what the others leave. A column's own bounds may have moved since
// `low` was taken; that only makes the result weaker.
bool tighten_side(const RowView& row, double sign, double low, Index infinite, double limit,
                  Domain& domain) {
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    const Index j = row.index[k];
    if (row.value[k] == 0.0 || domain.fixed(j)) continue;
    const Interval a = coefficient(sign * row.value[k], row.exact);
    const double end = a.low > 0.0 ? domain.lower(j) : domain.upper(j);
    double others = low;
    if (std::isfinite(end)) {
      if (infinite > 0) continue;
      others = add_down(low, -times(end, a).high);
    }
    if (!limit_term(domain, j, a, add_up(limit, -others))) return false;
  }
  return true;
}

}  // namespace

Activity activity(const RowView& row, const Domain& domain) {
  Activity range;
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    if (row.value[k] == 0.0) continue;
    const Interval a = coefficient(row.value[k], row.exact);
    const Index j = row.index[k];
    const double low = least_term(a, domain.lower(j), domain.upper(j));
    const double high = most_term(a, domain.lower(j), domain.upper(j));
    if (std::isinf(low))
      ++range.infinite_low;
    else
      range.low = add_down(range.low, low);
    if (std::isinf(high))
      ++range.infinite_high;
    else
      range.high = add_up(range.high, high);
  }
  return range;
}

bool out_of_reach(const RowView& row, const Domain& domain) {
  const Activity range = activity(row, domain);
  return (range.infinite_low == 0 && range.low > row.upper) ||
         (range.infinite_high == 0 && range.high < row.lower);
}

bool tighten(const RowView& row, Domain& domain) {
  const Activity range = activity(row, domain);
  if (range.infinite_low == 0 && range.low > row.upper) return false;
  if (range.infinite_high == 0 && range.high < row.lower) return false;
  const bool upper_can_bind = std::isfinite(row.upper) && range.infinite_low <= 1 &&
                              (range.infinite_high > 0 || range.high > row.upper);
  const bool lower_can_bind = std::isfinite(row.lower) && range.infinite_high <= 1 &&
                              (range.infinite_low > 0 || range.low < row.lower);
  if (upper_can_bind && !tighten_side(row, 1.0, range.low, range.infinite_low, row.upper, domain))
    return false;
  return !lower_can_bind ||
         tighten_side(row, -1.0, -range.high, range.infinite_high, -row.lower, domain);
}

}  // namespace kiteknot::mip
