// How far one limit or one cost can move while the basis stays optimal, and rows of the tableau
// behind it. Textbook ratio tests on the optimal basis: Gal 1979, "Postoptimal analyses, parametric
// programming and related topics", chapter 3. In degenerate vertices they hold for this basis,
// which may not be the only one.

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/check.hpp"
#include "base/infinity.hpp"
#include "lp/simplex.hpp"

namespace kiteknot::lp {
namespace {

// Narrows `range` so that value + step x rate stays within [low, high] for every step in it.
void keep_within(Interval& range, double value, double rate, double low, double high,
                 double smallest) {
  if (std::abs(rate) <= smallest) return;
  const double up = rate > 0.0 ? (high - value) / rate : (low - value) / rate;
  const double down = rate > 0.0 ? (low - value) / rate : (high - value) / rate;
  range.high = std::min(range.high, std::max(up, 0.0));
  range.low = std::max(range.low, std::min(down, 0.0));
}

// One value: also where that is no double, and the limits stand just below and above it.
bool is_one_value(double lower, double upper) {
  constexpr double kUlps = 4.0 * std::numeric_limits<double>::epsilon();
  return std::isfinite(lower) &&
         upper - lower <= kUlps * std::min(std::abs(lower), std::abs(upper));
}

}  // namespace

std::vector<double> Simplex::inverse_row(Index variable) {
  KITEKNOT_CHECK(state_.factored && state_.row_of[at(variable)] >= 0,
                 "only a basic variable has a row of the inverse");
  state_.rho.clear();
  state_.rho.add(state_.row_of[at(variable)], 1.0);
  state_.lu.btran(state_.rho, Tolerances{}.drop);
  return {state_.rho.values().begin(), state_.rho.values().end()};
}

std::vector<double> Simplex::tableau_row(Index variable) {
  (void)inverse_row(variable);
  state_.price_row(state_.rho);
  std::vector<double> row(state_.alpha.values().begin(), state_.alpha.values().end());
  for (Index i = 0; i < state_.m; ++i) row[at(state_.basic[at(i)])] = 0.0;
  row[at(variable)] = 1.0;
  return row;
}

// A nonbasic logical that moves by t moves the basic variables by -t B^-1 (-e_i).
Interval Simplex::limit_room(Index row) {
  const double smallest = Tolerances{}.pivot;
  Interval room{-kInf, kInf};
  const Index k = state_.n + row;
  if (state_.row_of[at(k)] >= 0) {  // not at a limit: either limit may move up to the value
    if (std::isfinite(state_.upper[at(k)])) room.low = state_.x[at(k)] - state_.upper[at(k)];
    if (std::isfinite(state_.lower[at(k)])) room.high = state_.x[at(k)] - state_.lower[at(k)];
    return room;
  }
  state_.load_column(k, state_.column);
  state_.lu.ftran(state_.column, Tolerances{}.drop);
  for (const Index i : state_.column.list()) {
    const Index b = state_.basic[at(i)];
    keep_within(room, state_.x[at(b)], -state_.column[i], state_.lower[at(b)], state_.upper[at(b)],
                smallest);
  }
  return room;
}

// A cost that moves by t moves a nonbasic column's own reduced cost by t; a basic one's moves every
// nonbasic reduced cost by -t times its entry in the tableau row.
Interval Simplex::cost_room(Index column) {
  const double smallest = Tolerances{}.pivot;
  Interval room{-kInf, kInf};
  const auto keep_sign = [&](Index k, double rate) {
    if (is_one_value(state_.lower[at(k)], state_.upper[at(k)])) return;
    const double d = state_.d[at(k)];
    if (state_.place[at(k)] == VariableStatus::at_lower)
      keep_within(room, std::max(d, 0.0), rate, 0.0, kInf, smallest);
    else if (state_.place[at(k)] == VariableStatus::at_upper)
      keep_within(room, std::min(d, 0.0), rate, -kInf, 0.0, smallest);
    else
      keep_within(room, 0.0, rate, 0.0, 0.0, smallest);
  };
  if (state_.row_of[at(column)] < 0) {
    keep_sign(column, 1.0);
    return room;
  }
  (void)inverse_row(column);
  state_.price_row(state_.rho);
  for (const Index k : state_.alpha.list())
    if (state_.row_of[at(k)] < 0) keep_sign(k, -state_.alpha[k]);
  return room;
}

bool Simplex::degenerate() const {
  const double near = Tolerances{}.feasibility;
  return std::any_of(state_.basic.begin(), state_.basic.end(), [&](Index k) {
    const double slack =
        std::min(state_.x[at(k)] - state_.lower[at(k)], state_.upper[at(k)] - state_.x[at(k)]);
    return slack <= near * (1.0 + std::abs(state_.x[at(k)]));
  });
}

}  // namespace kiteknot::lp
