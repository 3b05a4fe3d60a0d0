#include "mip/separators/safe_rounding.hpp"

#include <algorithm>
#include <cmath>

#include "lp/proof.hpp"

namespace kiteknot::mip {
namespace {

constexpr double kLargest = 0x1p40;  // quotients beyond have no fraction worth the name
constexpr double kNear = 1e-9;       // of a whole number
constexpr double kMostGiven = 1e-6;  // on the right side, for a coefficient that is moved
constexpr double kLeastFraction = 0.005;

// The greatest value of d x within the ends, rounded up; infinite where there is none.
double most_of(const Interval& d, double lower, double upper) {
  return -lp::least_product({-d.high, -d.low}, lower, upper);
}

}  // namespace

std::optional<Cut> SafeRounding::round(const SumVariables& variables,
                                       const RowCombination& combination, const RoundingPlan& plan,
                                       double least_efficacy) {
  sum_.resize(at(variables.num_columns()));
  is_touched_.resize(sum_.size(), 0);
  from_upper_.resize(at(variables.num()), 0);
  for (const Index k : plan.from_upper) from_upper_[at(k)] = 1;
  std::optional<Cut> cut;
  if (list_terms(variables, combination, plan) && round_terms(plan.divisor) &&
      back_to_columns(variables))
    cut = as_row(variables, least_efficacy);
  for (const Index k : plan.from_upper) from_upper_[at(k)] = 0;
  for (const Index j : touched_) {
    sum_[at(j)] = {};
    is_touched_[at(j)] = 0;
  }
  touched_.clear();
  return cut;
}

// sum a_j t_j <= right_, both divided; coefficients are lower ends, the right side an upper one.
bool SafeRounding::list_terms(const SumVariables& variables, const RowCombination& combination,
                              const RoundingPlan& plan) {
  terms_.clear();
  right_ = 0.0;
  const double sign = plan.negated ? -1.0 : 1.0;
  const lp::Program& program = variables.program();
  for (const Index i : combination.multipliers().list()) {
    const double by = sign * combination.multipliers()[i];
    if (by == 0.0) continue;
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    const bool exact = program.row_exact(i);
    for (std::size_t k = 0; k < index.size(); ++k) {
      const Index j = index[k];
      if (!is_touched_[at(j)]) {
        is_touched_[at(j)] = 1;
        touched_.push_back(j);
      }
      sum_[at(j)].add(times(by, coefficient(value[k], exact)));
    }
  }
  std::sort(touched_.begin(), touched_.end());
  for (const Index j : touched_)
    if (!add_term(variables, j, sum_[at(j)], plan.divisor)) return false;
  for (const Index i : combination.multipliers().list()) {
    const double by = -sign * combination.multipliers()[i];
    if (!add_term(variables, variables.num_columns() + i, {by, by}, plan.divisor)) return false;
  }
  for (const Index j : touched_) sum_[at(j)] = {};
  // Coefficients a hair below a multiple of the divisor, or below 0, move up to it at the right
  // side's cost.
  for (Term& t : terms_) {
    const double to = t.step > 0.0 ? std::ceil(t.a / plan.divisor) * plan.divisor : 0.0;
    const double by = add_up(to, -t.a);
    if (!(by > 0.0) || by > kNear * plan.divisor) continue;
    const double given = multiply_up(by, t.width);
    if (given > kMostGiven * plan.divisor) continue;
    t.a = to;
    right_ = add_up(right_, given);
  }
  return std::abs(right_) < kLargest * plan.divisor;
}

bool SafeRounding::add_term(const SumVariables& variables, Index k, const Interval& a,
                            double divisor) {
  if (a.low == 0.0 && a.high == 0.0) return true;
  const double lower = variables.lower(k), upper = variables.upper(k);
  bool from_upper = from_upper_[at(k)] != 0;
  if (std::isinf(from_upper ? upper : lower)) from_upper = !from_upper;
  const double end = from_upper ? upper : lower;
  if (std::isinf(end)) return false;
  right_ = add_up(right_, -times(end, a).low);
  if (lower == upper) return true;
  // Whole multiples of the step, counted from an end that is one.
  double step = variables.step(k);
  if (step > 0.0 && !kiteknot::whole(end / step)) step = 0.0;
  const double low = from_upper ? -a.high : a.low;
  Term t{k, step > 0.0 ? low * step : low, 0.0, step, from_upper};
  t.width = step_up(upper - lower) / (step > 0.0 ? step : 1.0);
  if (!(std::abs(t.a) < kLargest * divisor)) return false;
  terms_.push_back(t);
  return true;
}

// All of it times d (1 - f_0), so that whole data stay whole: with n = floor(a / d), N = floor(b /
// d), r_0 = b - N d, a whole variable gets n (d - r_0) + max(0, a - n d - r_0), another one
// min(0, a), and the right side is N (d - r_0). Coefficients again rounded down.
bool SafeRounding::round_terms(double d) {
  // The greatest whole n with n d <= v, or the one before.
  const auto floor_of = [&](double v) {
    double n = std::floor(v / d);
    while (multiply_up(n, d) > v) n -= 1.0;
    return n;
  };
  const double n0 = floor_of(right_);
  const Interval r0{add_down(right_, -multiply_up(n0, d)), add_up(right_, -multiply_down(n0, d))};
  if (r0.low < kLeastFraction * d || r0.high > (1.0 - kLeastFraction) * d) return false;
  const Interval rest{add_down(d, -r0.high), add_up(d, -r0.low)};
  const auto times_rest = [&](double n) { return times(n, rest); };
  rounded_.clear();
  for (const Term& t : terms_) {
    if (t.step == 0.0) {
      rounded_.push_back(std::min(t.a, 0.0));
      continue;
    }
    const double n = floor_of(t.a);
    const double over = add_down(add_down(t.a, -multiply_up(n, d)), -r0.high);
    rounded_.push_back(add_down(times_rest(n).low, std::clamp(over, 0.0, rest.low)));
  }
  right_ = times_rest(n0).high;
  return true;
}

bool SafeRounding::back_to_columns(const SumVariables& variables) {
  const lp::Program& program = variables.program();
  const auto touch = [&](Index j) {
    if (is_touched_[at(j)]) return;
    is_touched_[at(j)] = 1;
    touched_.push_back(j);
  };
  for (std::size_t k = 0; k < terms_.size(); ++k) {
    const Term& t = terms_[k];
    if (rounded_[k] == 0.0) continue;
    const double slope = (t.from_upper ? -1.0 : 1.0) * rounded_[k] / (t.step > 0.0 ? t.step : 1.0);
    const double end = t.from_upper ? variables.upper(t.variable) : variables.lower(t.variable);
    right_ = add_up(right_, multiply_up(slope, end));
    if (t.variable < variables.num_columns()) {
      touch(t.variable);
      sum_[at(t.variable)].add({slope, slope});
      continue;
    }
    const Index i = t.variable - variables.num_columns();
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e) {
      touch(index[e]);
      sum_[at(index[e])].add(times(slope, coefficient(value[e], program.row_exact(i))));
    }
  }
  std::sort(touched_.begin(), touched_.end());
  return std::isfinite(right_);
}

// Doubles for the coefficients, short ones where that costs little; what they are off by is at most
// so much within the columns' ends.
std::optional<Cut> SafeRounding::as_row(const SumVariables& variables,
                                        double least_efficacy) const {
  constexpr double kSmall = 1e-7;    // of the largest coefficient
  constexpr double kGrid = 0x1p-30;  // of it, too
  double largest = 0.0;
  for (const Index j : touched_)
    largest = std::max({largest, std::abs(sum_[at(j)].low), std::abs(sum_[at(j)].high)});
  if (!(largest > 1e-9) || !(largest < kLargest)) return std::nullopt;
  int exponent = 0;
  (void)std::frexp(largest, &exponent);
  const double scale = std::ldexp(1.0, -exponent), grid = kGrid / scale;
  Cut cut;
  cut.row.entries.reserve(touched_.size());
  double right = right_, value = 0.0, norm = 0.0;
  for (const Index j : touched_) {
    const Interval& a = sum_[at(j)];
    if (a.low == 0.0 && a.high == 0.0) continue;
    const double lower = variables.lower(j), upper = variables.upper(j);
    const auto cost = [&](double g) {  // on the right side
      return most_of({add_down(g, -a.high), add_up(g, -a.low)}, lower, upper);
    };
    double g = a.low + 0.5 * (a.high - a.low);
    const double near = std::nearbyint(g / grid) * grid;
    if (std::abs(g) < kSmall * largest)
      g = 0.0;
    else if (a.low != a.high && cost(near) <= kMostGiven / scale)
      g = near;
    double given = cost(g);
    for (const double other : {a.low, a.high}) {
      if (std::isfinite(given)) break;
      given = cost(g = other);
    }
    if (!std::isfinite(given)) return std::nullopt;
    right = add_up(right, given);
    if (g == 0.0) continue;
    value += g * variables.value(j);
    norm += g * g;
    // Powers of two only: not a digit changes.
    cut.row.entries.push_back({j, g * scale / variables.unit(j)});
  }
  cut.efficacy = (value - right) / std::sqrt(norm);
  if (!(cut.efficacy >= least_efficacy) || !std::isfinite(right)) return std::nullopt;
  cut.row.lower = -kInf;
  cut.row.upper = right * scale;
  return cut;
}

}  // namespace kiteknot::mip
