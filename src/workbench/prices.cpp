#include <limits>

#include "base/at.hpp"
#include "kiteknot/workbench.hpp"

namespace kiteknot {
namespace {

constexpr double kEnd = std::numeric_limits<double>::infinity();

// From where a basic column may be moved by steps of a figure: x + by * change stays within limits.
struct Room {
  std::optional<Rational> down, up;  // none: no end
  void meet(const Rational& change, bool is_up) {
    std::optional<Rational>& end = is_up ? up : down;
    if (!end || (is_up ? change < *end : change > *end)) end = change;
  }
};

// How far the limit behind a room may move while the basis stays: basic ones move by entry x sign.
Room room_of_limit(const Tableau& t, std::int32_t place, int sign) {
  Room room;
  for (std::size_t i = 0; i < t.basics().size(); ++i) {
    const Rational by = t.entry(static_cast<std::int32_t>(i), place) * sign;
    if (by.is_zero()) continue;
    const TableauColumn& c = t.column(t.basics()[i]);
    const Rational v = t.value(t.basics()[i]);
    if (c.low.is_finite()) room.meet((c.low - v) / by, by.sign() < 0);
    if (c.high.is_finite()) room.meet((c.high - v) / by, by.sign() > 0);
  }
  return room;
}

// 1 where a rising column would have to lose, -1 where a falling one would; 0 where it cannot move.
int side_of(const TableauColumn& c) {
  if (c.fixed()) return 0;
  return c.at_high ? -1 : 1;
}

Room room_of_coefficient(const Tableau& t, Tableau::Column j) {
  const TableauColumn& c = t.column(j);
  const Rational sense = t.maximize() ? 1 : -1;
  Room room;
  if (!c.basic) {
    const int side = side_of(c);
    if (side != 0) room.meet(-t.gain(c.place), (t.maximize() ? 1 : -1) * side > 0);
    return room;
  }
  for (std::size_t k = 0; k < t.others().size(); ++k) {
    const auto place = static_cast<std::int32_t>(k);
    const int side = side_of(t.column(t.others()[k]));
    const Rational e = t.entry(c.place, place) * sense * side;
    if (e.is_zero()) continue;
    room.meet(t.gain(place) * sense * side / e, e.sign() < 0);
  }
  return room;
}

Stretch around(const Rational& middle, const Room& room) {
  return {room.down ? (middle + *room.down).to_double() : -kEnd,
          room.up ? (middle + *room.up).to_double() : kEnd};
}

void tell_rules(const Tableau& t, Result& result) {
  Relaxed& x = result.relaxed;
  const std::size_t rules = result.report->rules.size();
  x.shadow_prices.assign(rules, 0.0);
  x.limit_stretches.assign(rules, {-kEnd, kEnd});
  for (const TableauRow& row : t.stated()) {
    const TableauColumn& room = t.column(row.room);
    if (row.rule < 0 || room.gone || room.basic) continue;
    const auto k = at(row.rule);
    x.shadow_prices[k] = (t.gain(room.place) * -row.sign).to_double();
    x.limit_stretches[k] =
        around(result.report->rules[k].value, room_of_limit(t, room.place, row.sign));
  }
}

}  // namespace

Result relaxed_answer(const Tableau& t) {
  if (!t.is_optimal())
    throw UsageError(
        "prices are read off a tableau whose goal is at its best; 'to the end' goes there");
  Result result(t.model());
  result.outcome = Outcome::optimal;
  result.relaxed_only = true;
  result.has_integers = false;
  result.plan = t.plan();
  result.report = check(t.model(), *result.plan, true);
  GoalResult goal;
  goal.name = t.goal_name();
  goal.sense = t.maximize() ? Sense::maximize : Sense::minimize;
  goal.value = t.goal_value();
  goal.bound = goal.value->to_double();
  goal.gap = 0.0;
  result.goals.push_back(std::move(goal));
  Relaxed& x = result.relaxed;
  x.value = t.goal_value().to_double();
  x.integral = t.is_whole();
  for (Tableau::Column j = 0; j < t.num_decisions(); ++j) {
    const TableauColumn& c = t.column(j);
    x.point.push_back(t.value(j).to_double());
    x.reduced_costs.push_back(c.basic ? 0.0 : t.gain(c.place).to_double());
    x.coefficients.push_back(t.goal_coefficients()[at(j)].to_double());
    x.coefficient_stretches.push_back(
        around(t.goal_coefficients()[at(j)], room_of_coefficient(t, j)));
  }
  for (const Tableau::Column b : t.basics()) {
    const Rational v = t.value(b);
    x.degenerate = x.degenerate || v == t.column(b).low || v == t.column(b).high;
  }
  tell_rules(t, result);
  return result;
}

}  // namespace kiteknot
