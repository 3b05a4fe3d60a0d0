#pragma once
// Small random models of sums, of every kind of limit and rule, for work by hand.

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

namespace kiteknot::test {

struct HandShape {
  bool reals = true;      // some decisions are
  bool equations = true;  // some rules are
  bool closed = false;    // every decision has both limits, so that plans can be counted through
  bool halves = true;     // figures may be multiples of 1/2
};

inline Model hand_model(Random& random, const HandShape& shape) {
  Model m{"By hand"};
  const auto figure = [&](std::int64_t low, std::int64_t high) {
    return shape.halves && random.chance(0.2)
               ? Rational::ratio(random.between(2 * low, 2 * high), 2)
               : Rational(static_cast<long long>(random.between(low, high)));
  };
  std::vector<Decision> x;
  const auto n = random.between(2, 4), rules = random.between(1, 4);
  for (std::int64_t j = 0; j < n; ++j) {
    const std::string name = "x" + std::to_string(j);
    const bool real = shape.reals && random.chance(0.3);
    const auto low = random.chance(0.3) ? random.between(-2, 2) : 0;
    Limits limits = between(low, low + random.between(1, 5));
    if (!shape.closed && random.chance(0.4)) limits = from(low);
    if (!shape.closed && real && random.chance(0.1)) limits = anything();
    x.push_back(real ? m.real(name, {}, limits).only() : m.integer(name, {}, limits).only());
  }
  Expression goal;
  for (const Decision& d : x) goal += figure(-4, 9) * Expression(d);
  for (std::int64_t i = 0; i < rules; ++i) {
    Expression sum;
    for (const Decision& d : x) sum += figure(random.chance(0.3) ? -3 : 0, 5) * Expression(d);
    const Rational limit = figure(1, 15);
    const auto kind = random.between(0, shape.equations ? 9 : 7);
    const std::string name = "rule" + std::to_string(i);
    if (kind < 6)
      m.rule(name, sum <= Expression(limit));
    else if (kind < 7)
      m.rule(name, sum >= Expression(limit / 3));
    else if (kind < 8)
      m.rule(name, within(limit - Rational(3), sum, limit));
    else
      m.rule(name, sum == Expression(limit));
  }
  if (random.chance(0.6))
    m.maximize("worth", goal);
  else
    m.minimize("cost", goal);
  return m;
}

/// Calls `see` with every whole point within the limits of a closed model without reals.
inline void each_whole_point(const Tableau& t, const std::function<void(const Plan&)>& see) {
  std::vector<Rational> point;
  for (std::int32_t j = 0; j < t.num_decisions(); ++j) point.push_back(t.column(j).low);
  while (true) {
    see(Plan(t.model(), point));
    std::size_t j = 0;
    for (; j < point.size(); ++j) {
      if (point[j] < t.column(static_cast<std::int32_t>(j)).high) {
        point[j] += Rational(1);
        break;
      }
      point[j] = t.column(static_cast<std::int32_t>(j)).low;
    }
    if (j == point.size()) return;
  }
}

}  // namespace kiteknot::test
