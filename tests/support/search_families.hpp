#pragma once
// Families of whole-number problems for tables of node counts and speeds. All figures are whole and
// drawn from a seed.

#include <algorithm>
#include <string>

#include "base/random.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::test {

/// maximise what is packed into `rows` boxes at once; weights and worths alike, so that bounds are
/// near each other (Chu and Beasley 1998, "A genetic algorithm for the multidimensional knapsack
/// problem": worth = mean weight + noise, tightness 1/2).
inline mip::Problem many_knapsacks(int rows, int items, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<mip::LinearRow> all(static_cast<std::size_t>(rows));
  for (int j = 0; j < items; ++j) {
    double sum = 0.0;
    for (mip::LinearRow& row : all) {
      const auto weight = static_cast<double>(random.between(1, 1000));
      row.entries.push_back({j, weight});
      row.upper += weight;
      sum += weight;
    }
    p.add_column(0.0, 1.0, true,
                 -std::floor(sum / rows) - static_cast<double>(random.between(0, 500)));
  }
  for (mip::LinearRow& row : all) {
    row.lower = -kInf;
    row.upper = std::floor(row.upper / 2.0);
    p.add_row(row);
  }
  p.set_goal_facts(true, 1.0);
  return p;
}

/// Jobs to machines with room (Chu and Beasley 1997, class C): each job on one, room 0.8 of the
/// mean load.
inline mip::Problem assignment(int machines, int jobs, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<mip::LinearRow> room(static_cast<std::size_t>(machines)),
      once(static_cast<std::size_t>(jobs));
  for (int i = 0; i < machines; ++i)
    for (int j = 0; j < jobs; ++j) {
      const linalg::Index column =
          p.add_column(0.0, 1.0, true, static_cast<double>(random.between(10, 50)));
      const auto load = static_cast<double>(random.between(5, 25));
      room[static_cast<std::size_t>(i)].entries.push_back({column, load});
      room[static_cast<std::size_t>(i)].upper += load;
      once[static_cast<std::size_t>(j)].entries.push_back({column, 1.0});
    }
  for (mip::LinearRow& row : room) {
    row.lower = -kInf;
    row.upper = std::floor(0.8 * row.upper / machines);
    p.add_row(row);
  }
  for (mip::LinearRow& row : once) {
    row.lower = row.upper = 1.0;
    p.add_row(row);
  }
  p.set_goal_facts(true, 1.0);
  return p;
}

inline mip::Problem cover(int rows, int columns, double density, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  for (int j = 0; j < columns; ++j)
    p.add_column(0.0, 1.0, true, static_cast<double>(random.between(20, 30)));
  for (int i = 0; i < rows; ++i) {
    mip::LinearRow row;
    for (int j = 0; j < columns; ++j)
      if (random.chance(density) || j == i % columns) row.entries.push_back({j, 1.0});
    row.lower = 1.0;
    row.upper = kInf;
    p.add_row(row);
  }
  p.set_goal_facts(true, 1.0);
  return p;
}

/// One row over many yes-or-no columns whose worth is near their weight.
inline mip::Problem long_row(int columns, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  mip::LinearRow row;
  double sum = 0.0;
  for (int j = 0; j < columns; ++j) {
    const auto weight = static_cast<double>(random.between(1000, 9999));
    p.add_column(0.0, 1.0, true, -weight - static_cast<double>(random.between(0, 1000)));
    row.entries.push_back({j, weight});
    sum += weight;
  }
  row.lower = -kInf;
  row.upper = std::floor(sum / 3.0);
  p.add_row(row);
  p.set_goal_facts(true, 1.0);
  return p;
}

/// Whole lots with set-ups: make_t <= most * set_t, stock from period to period.
inline mip::Problem lots(int items, int periods, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  const auto column = [&](double upper, double cost) {
    return p.add_column(0.0, upper, true, cost);
  };
  std::vector<mip::LinearRow> room(static_cast<std::size_t>(periods));
  for (int i = 0; i < items; ++i) {
    linalg::Index stock = -1;
    const auto setup = static_cast<double>(random.between(40, 120));
    const auto hold = static_cast<double>(random.between(1, 4));
    for (int t = 0; t < periods; ++t) {
      const auto want = static_cast<double>(random.between(0, 14));
      const linalg::Index make = column(60.0, 0.0), next = column(60.0, hold),
                          set = column(1.0, setup);
      mip::LinearRow flow{{{make, 1.0}, {next, -1.0}}, want, want, true};
      if (stock >= 0) flow.entries.push_back({stock, 1.0});
      p.add_row(flow);
      p.add_row({{{make, 1.0}, {set, -60.0}}, -kInf, 0.0, true});
      mip::LinearRow& r = room[static_cast<std::size_t>(t)];
      r.entries.push_back({make, 1.0});
      r.entries.push_back({set, 5.0});
      stock = next;
    }
  }
  for (mip::LinearRow& r : room) {
    r.lower = -kInf;
    r.upper = 20.0 * items;
    p.add_row(r);
  }
  p.set_goal_facts(true, 1.0);
  return p;
}

/// One source feeds all other points of a random network; opening an arc costs, and so does what
/// flows. After Magnanti and Wong 1984, "Network design and transportation planning".
inline mip::Problem network(int points, int arcs_a_point, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  const auto whole = [&](std::int64_t low, std::int64_t high) {
    return static_cast<double>(random.between(low, high));
  };
  std::vector<mip::LinearRow> balance(static_cast<std::size_t>(points));
  double all = 0.0;
  for (std::size_t v = 1; v < balance.size(); ++v) {
    const double need = whole(1, 10);
    balance[v].lower = balance[v].upper = need;
    all += need;
  }
  balance[0].lower = balance[0].upper = -all;
  const auto arc = [&](std::int64_t from, std::int64_t to) {
    const double room = random.chance(0.5) ? all : std::ceil(all / 2.0);
    const linalg::Index flow = p.add_column(0.0, room, false, whole(1, 5));
    const linalg::Index open = p.add_column(0.0, 1.0, true, whole(50, 200));
    balance[static_cast<std::size_t>(from)].entries.push_back({flow, -1.0});
    balance[static_cast<std::size_t>(to)].entries.push_back({flow, 1.0});
    p.add_row({{{flow, 1.0}, {open, -room}}, -kInf, 0.0, true});
  };
  for (std::int64_t v = 1; v < points; ++v) {
    arc(random.between(0, v - 1), v);  // so that everybody can be reached
    for (int k = 1; k < arcs_a_point; ++k) {
      const auto from = random.between(0, points - 1);
      if (from != v) arc(from, v);
    }
  }
  for (mip::LinearRow& row : balance) p.add_row(row);
  return p;
}

/// Accepts what meets the problem exactly.
inline mip::Judge exact_judge(const mip::Problem& p) {
  return [&p](std::span<const Rational> x) {
    Rational goal = 0;
    for (linalg::Index j = 0; j < p.num_columns(); ++j)
      if (!x[static_cast<std::size_t>(j)].is_zero())
        goal += Rational::exactly(p.cost(j)) * x[static_cast<std::size_t>(j)];
    return mip::Verdict{satisfies(p, x), goal};
  };
}

}  // namespace kiteknot::test
