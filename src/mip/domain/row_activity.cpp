#include "mip/domain/row_activity.hpp"

#include <algorithm>
#include <cmath>

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
struct Side {
  double sign, low;
  Index infinite;
  double limit;
};

bool tighten_entry(const RowView& row, std::size_t k, const Side& side, Domain& domain) {
  const Index j = row.index[k];
  if (row.value[k] == 0.0 || domain.fixed(j)) return true;
  const Interval a = coefficient(side.sign * row.value[k], row.exact);
  const double end = a.low > 0.0 ? domain.lower(j) : domain.upper(j);
  double others = side.low;
  if (std::isfinite(end)) {
    if (side.infinite > 0) return true;
    others = add_down(side.low, -times(end, a).high);
  }
  return limit_term(domain, j, a, add_up(side.limit, -others));
}

bool tighten_side(const RowView& row, const Side& side, std::span<const Reach> by_reach,
                  Domain& domain) {
  if (by_reach.empty() || side.infinite > 0) {
    for (std::size_t k = 0; k < row.index.size(); ++k)
      if (!tighten_entry(row, k, side, domain)) return false;
    return true;
  }
  const double room = add_up(side.limit, -side.low);
  for (const Reach& r : by_reach) {
    if (static_cast<double>(r.most) < room) return true;  // nor do the others
    if (!tighten_entry(row, at(r.entry), side, domain)) return false;
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
    range.peak_low = std::max(range.peak_low, std::abs(range.low));
    range.peak_high = std::max(range.peak_high, std::abs(range.high));
  }
  return range;
}

// The change of a bound lies between these; a times it, on the side that keeps the range an
// enclosure.
void follow_lower(Activity& range, const Interval& a, double before, double now) {
  const bool up = a.low > 0.0;
  double& end = up ? range.low : range.high;
  if (std::isinf(before)) {
    --(up ? range.infinite_low : range.infinite_high);
    const Interval term = times(now, a);
    end = up ? add_down(end, term.low) : add_up(end, term.high);
    return;
  }
  const double by = add_down(now, -before);  // > 0
  end = up ? add_down(end, multiply_down(a.low, by)) : add_up(end, multiply_up(a.high, by));
}

void follow_upper(Activity& range, const Interval& a, double before, double now) {
  const bool up = a.low > 0.0;
  double& end = up ? range.high : range.low;
  if (std::isinf(before)) {
    --(up ? range.infinite_high : range.infinite_low);
    const Interval term = times(now, a);
    end = up ? add_up(end, term.high) : add_down(end, term.low);
    return;
  }
  const double by = add_up(now, -before);  // < 0
  end = up ? add_up(end, multiply_up(a.low, by)) : add_down(end, multiply_down(a.high, by));
}

double room(const RowView& row, const Activity& range) {
  double least = kInf;
  const auto side = [&](double limit, Index infinite, double left) {
    if (!std::isfinite(limit) || infinite > 1) return;
    least = std::min(least, infinite == 1 ? -1.0 : left);
  };
  side(row.upper, range.infinite_low, add_up(row.upper, -range.low));
  side(row.lower, range.infinite_high, add_up(range.high, -row.lower));
  return least;
}

bool tighten(const RowView& row, const Activity& range, Domain& domain,
             std::span<const Reach> by_reach) {
  if (out_of_reach(row, range)) return false;
  const bool upper_can_bind = std::isfinite(row.upper) && range.infinite_low <= 1 &&
                              (range.infinite_high > 0 || range.high > row.upper);
  const bool lower_can_bind = std::isfinite(row.lower) && range.infinite_high <= 1 &&
                              (range.infinite_low > 0 || range.low < row.lower);
  if (upper_can_bind &&
      !tighten_side(row, {1.0, range.low, range.infinite_low, row.upper}, by_reach, domain))
    return false;
  return !lower_can_bind ||
         tighten_side(row, {-1.0, -range.high, range.infinite_high, -row.lower}, by_reach, domain);
}

}  // namespace kiteknot::mip
