#pragma once
// Seeded families of linear programs. Each fills a Program and, where the construction gives it
// away, the optimal value.

#include <cmath>
#include <optional>
#include <vector>

#include "base/infinity.hpp"
#include "base/random.hpp"
#include "lp/program.hpp"

namespace kiteknot::bench {

using lp::Entry;
using lp::Index;
using lp::Program;

struct Family {
  Program program;
  std::optional<double> optimum;
};

/// n suppliers, n customers, supply 10..30, demand filled up to match, costs 1..100; 2n rows, n^2
/// columns.
inline Family transport(int n, std::uint64_t seed) {
  Random random(seed);
  Family f;
  std::vector<double> supply, demand(static_cast<std::size_t>(n), 0.0);
  for (int i = 0; i < n; ++i) {
    supply.push_back(static_cast<double>(random.between(10, 30)));
    for (int k = 0; k < static_cast<int>(supply.back()); ++k)
      demand[static_cast<std::size_t>(random.between(0, n - 1))] += 1.0;
  }
  for (int i = 0; i < n; ++i)
    f.program.add_row(-kInf, supply[static_cast<std::size_t>(i)], {}, true);
  for (int j = 0; j < n; ++j)
    f.program.add_row(demand[static_cast<std::size_t>(j)], kInf, {}, true);
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j)
      f.program.add_column(static_cast<double>(random.between(1, 100)), 0.0, kInf,
                           {{i, 1.0}, {n + j, 1.0}});
  return f;
}

/// Relaxed set covering: rows x columns, `density` ones, costs 1..100, every row at least 1.
inline Family cover(int rows, int columns, double density, std::uint64_t seed) {
  Random random(seed);
  Family f;
  for (int i = 0; i < rows; ++i) f.program.add_row(1.0, kInf, {}, true);
  for (int j = 0; j < columns; ++j) {
    std::vector<Entry> entries;
    for (int i = 0; i < rows; ++i)
      if (random.chance(density)) entries.push_back({i, 1.0});
    if (entries.empty()) entries.push_back({static_cast<Index>(random.between(0, rows - 1)), 1.0});
    f.program.add_column(static_cast<double>(random.between(1, 100)), 0.0, 1.0, entries);
  }
  return f;
}

/// Lot sizing: items x periods, making, storing and a relaxed set-up each; shared capacity a
/// period.
inline Family staircase(int items, int periods, std::uint64_t seed) {
  Random random(seed);
  Family f;
  const auto n = static_cast<std::size_t>(items);
  std::vector<double> top(n, 0.0);
  std::vector<std::vector<double>> demand(n);
  double total = 0.0;
  for (std::size_t i = 0; i < n; ++i)
    for (int t = 0; t < periods; ++t) {
      demand[i].push_back(static_cast<double>(random.between(0, 40)));
      total += demand[i].back();
      top[i] += demand[i].back();
    }
  const double capacity = std::ceil(1.15 * total / periods);
  for (int t = 0; t < periods; ++t) f.program.add_row(-kInf, capacity, {}, true);
  // Item i, period t: its balance, and behind it the link of making to setting up.
  for (std::size_t i = 0; i < n; ++i)
    for (int t = 0; t < periods; ++t) {
      const double d = demand[i][static_cast<std::size_t>(t)];
      f.program.add_row(d, d, {}, true);
      f.program.add_row(-kInf, 0.0, {}, true);
    }
  for (int i = 0; i < items; ++i)
    for (int t = 0; t < periods; ++t) {
      const Index balance = periods + 2 * (i * periods + t), link = balance + 1;
      const double most = std::min(top[static_cast<std::size_t>(i)], capacity);
      f.program.add_column(static_cast<double>(random.between(1, 5)), 0.0, kInf,
                           {{t, 1.0}, {balance, 1.0}, {link, 1.0}});
      f.program.add_column(static_cast<double>(random.between(50, 300)), 0.0, 1.0,
                           {{link, -most}, {t, 2.0}});
      std::vector<Entry> store = {{balance, -1.0}};
      if (t + 1 < periods) store.push_back({balance + 2, 1.0});
      f.program.add_column(static_cast<double>(random.between(1, 4)), 0.0,
                           t + 1 < periods ? kInf : 0.0, store);
    }
  return f;
}

/// Facility location with one linking rule a pair: depots x fields.
inline Family facility(int depots, int fields, std::uint64_t seed) {
  Random random(seed);
  Family f;
  for (int j = 0; j < fields; ++j) f.program.add_row(1.0, 1.0, {}, true);
  std::vector<std::pair<double, double>> depot, field;
  for (int i = 0; i < depots; ++i) depot.emplace_back(random.fraction(), random.fraction());
  for (int j = 0; j < fields; ++j) field.emplace_back(random.fraction(), random.fraction());
  for (int i = 0; i < depots; ++i) {
    std::vector<Entry> open;
    const Index first = f.program.num_rows();
    for (int j = 0; j < fields; ++j) {
      f.program.add_row(-kInf, 0.0, {}, true);
      open.push_back({first + j, -1.0});
    }
    f.program.add_column(static_cast<double>(random.between(500, 1500)), 0.0, 1.0, open);
    for (int j = 0; j < fields; ++j) {
      const auto a = depot[static_cast<std::size_t>(i)], b = field[static_cast<std::size_t>(j)];
      f.program.add_column(std::round(1000.0 * std::hypot(a.first - b.first, a.second - b.second)),
                           0.0, kInf, {{j, 1.0}, {first + j, 1.0}});
    }
  }
  return f;
}

/// rows x columns, `per_column` nonzeros, with a constructed optimal pair: half of the optimal
/// basis is structural, the rest logicals; costs follow from the duals, so that the optimum is
/// known.
inline Family random_sparse(int rows, int columns, int per_column, std::uint64_t seed) {
  Random random(seed);
  Family f;
  std::vector<std::vector<Entry>> column(static_cast<std::size_t>(columns));
  std::vector<double> activity(static_cast<std::size_t>(rows), 0.0),
      dual(static_cast<std::size_t>(rows), 0.0);
  std::vector<double> x(static_cast<std::size_t>(columns), 0.0);
  for (int j = 0; j < columns; ++j) {
    auto& c = column[static_cast<std::size_t>(j)];
    const bool basic = j < rows / 2;
    if (basic) c.push_back({static_cast<Index>(j), static_cast<double>(random.between(2, 9))});
    while (static_cast<int>(c.size()) < per_column) {
      const auto i = static_cast<Index>(random.between(0, rows - 1));
      bool there = false;
      for (const Entry& e : c) there = there || e.index == i;
      if (!there)
        c.push_back(
            {i, static_cast<double>(random.between(1, 9)) * (random.chance(0.5) ? 1.0 : -1.0)});
    }
    if (basic) x[static_cast<std::size_t>(j)] = static_cast<double>(random.between(1, 20));
    for (const Entry& e : c)
      activity[static_cast<std::size_t>(e.index)] += e.value * x[static_cast<std::size_t>(j)];
  }
  for (int i = 0; i < rows; ++i) {
    const bool tight = i < rows / 2;
    const auto at = static_cast<std::size_t>(i);
    if (tight) dual[at] = static_cast<double>(random.between(1, 10));
    f.program.add_row(
        tight ? activity[at] : activity[at] - static_cast<double>(random.between(1, 50)), kInf, {},
        true);
  }
  double optimum = 0.0;
  for (int j = 0; j < columns; ++j) {
    double cost = 0.0;
    for (const Entry& e : column[static_cast<std::size_t>(j)])
      cost += dual[static_cast<std::size_t>(e.index)] * e.value;
    if (j >= rows / 2) cost += static_cast<double>(random.between(0, 20));
    optimum += cost * x[static_cast<std::size_t>(j)];
    f.program.add_column(cost, 0.0, 100.0, column[static_cast<std::size_t>(j)]);
  }
  f.optimum = optimum;
  return f;
}

/// A third of the columns without bounds, a third of the rows equations, all figures quarters.
inline Family free_quarters(int rows, int columns, int per_column, std::uint64_t seed) {
  Random random(seed);
  Family f;
  const auto quarter = [&] { return static_cast<double>(random.between(1, 36)) / 4.0; };
  const auto kind = [](int k) { return k % 3; };  // of a column: free, at work, idle
  std::vector<std::vector<Entry>> column(static_cast<std::size_t>(columns));
  std::vector<double> activity(static_cast<std::size_t>(rows), 0.0),
      dual(static_cast<std::size_t>(rows), 0.0), x(static_cast<std::size_t>(columns), 0.0);
  for (int j = 0; j < columns; ++j) {
    const auto at = static_cast<std::size_t>(j);
    while (static_cast<int>(column[at].size()) < per_column) {
      const auto i = static_cast<Index>(random.between(0, rows - 1));
      bool there = false;
      for (const Entry& e : column[at]) there = there || e.index == i;
      if (!there) column[at].push_back({i, random.chance(0.5) ? quarter() : -quarter()});
    }
    if (kind(j) == 0) x[at] = random.chance(0.5) ? quarter() : -quarter();
    if (kind(j) == 1) x[at] = quarter();
    for (const Entry& e : column[at])
      activity[static_cast<std::size_t>(e.index)] += e.value * x[at];
  }
  for (int i = 0; i < rows; ++i) {
    const auto at = static_cast<std::size_t>(i);
    const bool equation = i % 3 == 0, tight = equation || i % 3 == 1;
    if (tight) dual[at] = equation && random.chance(0.5) ? -quarter() : quarter();
    f.program.add_row(tight ? activity[at] : activity[at] - quarter(),
                      equation ? activity[at] : kInf, {}, true);
  }
  double optimum = 0.0;
  for (int j = 0; j < columns; ++j) {
    const auto at = static_cast<std::size_t>(j);
    double cost = 0.0;
    for (const Entry& e : column[at]) cost += dual[static_cast<std::size_t>(e.index)] * e.value;
    if (kind(j) == 2) cost += quarter();
    optimum += cost * x[at];
    f.program.add_column(cost, kind(j) == 0 ? -kInf : 0.0, kInf, column[at]);
  }
  f.optimum = optimum;
  return f;
}

/// Blending over periods: products from raw goods within quality limits, storage between periods.
inline Family blending(int goods, int products, int periods, std::uint64_t seed) {
  Random random(seed);
  Family f;
  std::vector<double> quality, low, high;
  for (int g = 0; g < goods; ++g) quality.push_back(static_cast<double>(random.between(10, 90)));
  for (int p = 0; p < products; ++p) {
    low.push_back(static_cast<double>(random.between(30, 45)));
    high.push_back(low.back() + static_cast<double>(random.between(5, 20)));
  }
  std::vector<Index> stock_before(static_cast<std::size_t>(goods), -1);
  for (int t = 0; t < periods; ++t) {
    std::vector<Index> made, at_least, at_most;
    for (int p = 0; p < products; ++p) {
      made.push_back(
          f.program.add_row(static_cast<double>(random.between(20, 60)), kInf, {}, true));
      at_least.push_back(f.program.add_row(0.0, kInf, {}, true));
      at_most.push_back(f.program.add_row(-kInf, 0.0, {}, true));
    }
    for (int g = 0; g < goods; ++g) {
      const auto k = static_cast<std::size_t>(g);
      const Index balance = f.program.add_row(0.0, 0.0, {}, true);
      f.program.add_column(static_cast<double>(random.between(5, 60)), 0.0,
                           static_cast<double>(random.between(30, 120)), {{balance, 1.0}});
      if (stock_before[k] >= 0)
        f.program.add_column(1.0, 0.0, 200.0, {{stock_before[k], -1.0}, {balance, 1.0}});
      for (int p = 0; p < products; ++p) {
        const auto q = static_cast<std::size_t>(p);
        f.program.add_column(0.0, 0.0, kInf,
                             {{balance, -1.0},
                              {made[q], 1.0},
                              {at_least[q], quality[k] - low[q]},
                              {at_most[q], quality[k] - high[q]}});
      }
      stock_before[k] = balance;
    }
  }
  return f;
}

/// Assignment of n to n with costs 1..5: every vertex has 2n basic variables of which at most n are
/// not 0, and most reduced costs tie.
inline Family degenerate(int n, std::uint64_t seed) {
  Random random(seed);
  Family f;
  for (int i = 0; i < 2 * n; ++i) f.program.add_row(1.0, 1.0, {}, true);
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j)
      f.program.add_column(static_cast<double>(random.between(1, 5)), 0.0, kInf,
                           {{i, 1.0}, {n + j, 1.0}});
  return f;
}

/// A cover whose rows and columns are multiplied by powers of ten between 1e-4 and 1e4.
inline Family badly_scaled(std::uint64_t seed) {
  const Family plain = cover(200, 1000, 0.03, seed);
  Random random(seed + 1);
  Family f;
  std::vector<double> scale;
  for (Index i = 0; i < plain.program.num_rows(); ++i) {
    scale.push_back(std::pow(10.0, static_cast<double>(random.between(-4, 4))));
    f.program.add_row(scale.back(), kInf, {}, true);  // the doubles are the data
  }
  for (Index j = 0; j < plain.program.num_columns(); ++j) {
    const double unit = std::pow(10.0, static_cast<double>(random.between(-2, 2)));
    std::vector<Entry> entries;
    for (const Index i : plain.program.columns().index(j))
      entries.push_back({i, scale[static_cast<std::size_t>(i)] / unit});
    f.program.add_column(plain.program.cost(j) / unit, 0.0, unit, entries);
  }
  return f;
}

}  // namespace kiteknot::bench
