#include "mip/separators/rounding_choice.hpp"

#include <algorithm>
#include <cmath>

#include "mip/separators/separator.hpp"

namespace kiteknot::mip {
namespace {

constexpr double kTiny = 1e-11;  // coefficients below count as 0

}  // namespace

bool RoundingChoice::list_terms(const SumVariables& variables, const RowCombination& combination,
                                double sign) {
  terms_.clear();
  right_ = 0.0;
  const auto take = [&](Index k, double a) {
    if (std::abs(a) < kTiny) return true;
    const double lower = variables.lower(k), upper = variables.upper(k);
    const double value = variables.value(k);
    if (std::isinf(lower) && std::isinf(upper)) return false;
    const bool from_upper = upper - value < value - lower;
    right_ -= a * (from_upper ? upper : lower);
    if (lower == upper) return true;
    const double step = variables.step(k), unit = step > 0.0 ? step : 1.0;
    terms_.push_back({k, (from_upper ? -a : a) * unit,
                      std::max(0.0, from_upper ? upper - value : value - lower) / unit,
                      (upper - lower) / unit, step > 0.0, from_upper});
    return true;
  };
  for (const Index j : combination.columns().list())
    if (!take(j, sign * combination.columns()[j])) return false;
  for (const Index i : combination.multipliers().list())
    if (!take(variables.num_columns() + i, -sign * combination.multipliers()[i])) return false;
  work_ += static_cast<std::int64_t>(terms_.size());
  return true;
}

// How far the point lies beyond the rounded row, in distances; negative where it does not.
double RoundingChoice::efficacy(double divisor) {
  constexpr double kLeastFraction = 0.01, kLargest = 1e9;
  work_ += static_cast<std::int64_t>(terms_.size());
  const double right = right_ / divisor;
  if (!(std::abs(right) < kLargest)) return -1.0;
  const double whole = std::floor(right + kTiny), f0 = right - whole;
  if (f0 < kLeastFraction || f0 > 1.0 - kLeastFraction) return -1.0;
  const double by = 1.0 / (1.0 - f0);
  double value = 0.0, norm = 0.0;
  for (const Term& t : terms_) {
    const double a = t.a / divisor;
    double g = 0.0;
    if (t.whole) {
      const double floor = std::floor(a + kTiny);
      g = floor + std::max(0.0, a - floor - f0) * by;
    } else {
      g = std::min(a, 0.0) * by;
    }
    value += g * t.t;
    norm += g * g;
  }
  return norm > 0.0 ? (value - whole) / std::sqrt(norm) : -1.0;
}

void RoundingChoice::turn_over(Term& term) {
  right_ -= term.a * term.width;
  term.a = -term.a;
  term.t = term.width - term.t;
  term.from_upper = !term.from_upper;
}

std::optional<RoundingPlan> RoundingChoice::choose(const SumVariables& variables,
                                                   const RowCombination& combination, bool negated,
                                                   double divisor) {
  if (!list_terms(variables, combination, negated ? -1.0 : 1.0)) return std::nullopt;
  double best = -1.0, chosen = divisor;
  const auto attempt = [&](double d) {
    const double reached = efficacy(d);
    if (reached <= best) return;
    best = reached;
    chosen = d;
  };
  if (divisor > 0.0) {
    best = efficacy(divisor);
  } else {
    constexpr std::size_t kMostDivisors = 8, kMostTurns = 10;
    divisors_.clear();
    for (const Term& t : terms_)
      if (between(t)) divisors_.emplace_back(-std::min(t.t, t.width - t.t), std::abs(t.a));
    std::sort(divisors_.begin(), divisors_.end());
    double last = 0.0;
    std::size_t tried = 0;
    for (const auto& [unused, d] : divisors_) {
      if (d == last) continue;
      attempt(last = d);
      if (++tried == kMostDivisors) break;
    }
    if (tried == 0 || best < 0.0) return std::nullopt;
    const double first = chosen;
    for (const double part : {2.0, 4.0, 8.0}) attempt(first / part);
    turns_.clear();
    for (std::size_t k = 0; k < terms_.size(); ++k)
      if (between(terms_[k]) && std::isfinite(terms_[k].width))
        turns_.emplace_back(std::abs(terms_[k].t - 0.5 * terms_[k].width), k);
    std::sort(turns_.begin(), turns_.end());
    if (turns_.size() > kMostTurns) turns_.resize(kMostTurns);
    for (const auto& [unused, k] : turns_) {
      turn_over(terms_[k]);
      const double reached = efficacy(chosen);
      if (reached > best)
        best = reached;
      else
        turn_over(terms_[k]);
    }
  }
  if (best < kLeastEfficacy) return std::nullopt;
  RoundingPlan plan{chosen, negated, {}};
  for (const Term& t : terms_)
    if (t.from_upper) plan.from_upper.push_back(t.variable);
  return plan;
}

}  // namespace kiteknot::mip
