#pragma once
// Hard whole and mixed problems after published recipes, drawn from a seed. Everything is a
// mip::Problem: what is measured is the engine, not the reading.

#include <algorithm>
#include <array>
#include <set>
#include <string>
#include <vector>

#include "mip/kinds/indicator_rows.hpp"
#include "support/search_families.hpp"

namespace kiteknot::bench {

using linalg::Index;
using mip::LinearRow;

inline double whole(Random& random, std::int64_t low, std::int64_t high) {
  return static_cast<double>(random.between(low, high));
}
inline Index binary(mip::Problem& p, double cost) {
  return p.add_column(0.0, 1.0, true, cost);
}
inline LinearRow at_most(std::vector<lp::Entry> entries, double limit) {
  return {std::move(entries), -kInf, limit, true};
}
inline LinearRow at_least(std::vector<lp::Entry> entries, double limit) {
  return {std::move(entries), limit, kInf, true};
}
inline LinearRow equal(std::vector<lp::Entry> entries, double value) {
  return {std::move(entries), value, value, true};
}
/// Whole costs over whole columns.
inline mip::Problem stepping(mip::Problem p) {
  p.set_goal_facts(true, 1.0);
  return p;
}

/// 0-1 knapsacks of Pisinger 2005, "Where are the hard knapsack problems?", R = 1,000; the room is
/// half of all weights.
enum class Class { uncorrelated, weakly, strongly, inverse, almost, subset_sum };
constexpr std::array<std::pair<Class, const char*>, 6> kClasses = {{
    {Class::uncorrelated, "uncorrelated"},
    {Class::weakly, "weakly correlated"},
    {Class::strongly, "strongly correlated"},
    {Class::inverse, "inverse strongly correlated"},
    {Class::almost, "almost strongly correlated"},
    {Class::subset_sum, "subset sum"},
}};
inline mip::Problem knapsack(Class c, int items, std::uint64_t seed) {
  constexpr std::int64_t kRange = 1000;
  Random random(seed);
  mip::Problem p;
  LinearRow room;
  double sum = 0.0;
  for (int j = 0; j < items; ++j) {
    double weight = whole(random, 1, kRange), worth = weight;
    switch (c) {
      case Class::uncorrelated:
        worth = whole(random, 1, kRange);
        break;
      case Class::weakly:
        worth = std::max(1.0, weight + whole(random, -kRange / 10, kRange / 10));
        break;
      case Class::strongly:
        worth = weight + kRange / 10;
        break;
      case Class::inverse:
        weight = worth + kRange / 10;
        break;
      case Class::almost:
        worth = weight + kRange / 10 + whole(random, -kRange / 500, kRange / 500);
        break;
      case Class::subset_sum:
        break;
    }
    room.entries.push_back({binary(p, -worth), weight});
    sum += weight;
  }
  room.lower = -kInf;
  room.upper = std::floor(sum / 2.0);
  p.add_row(room);
  return stepping(std::move(p));
}

/// Chu and Beasley 1998: many rows, worth = mean weight + noise.
inline mip::Problem boxes(int rows, int items, double tightness, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<LinearRow> all(at(rows));
  for (int j = 0; j < items; ++j) {
    double sum = 0.0;
    for (LinearRow& row : all) {
      const double weight = whole(random, 0, 1000);
      row.entries.push_back({j, weight});
      row.upper += weight;
      sum += weight;
    }
    binary(p, -std::floor(sum / rows + 500.0 * random.fraction()));
  }
  for (LinearRow& row : all) {
    row.lower = -kInf;
    row.upper = std::floor(tightness * row.upper);
    p.add_row(row);
  }
  return stepping(std::move(p));
}

/// Balas and Ho 1980: every row in at least two columns, costs 1 .. 100.
inline mip::Problem cover(int rows, int columns, double density, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  for (int j = 0; j < columns; ++j) binary(p, whole(random, 1, 100));
  for (int i = 0; i < rows; ++i) {
    std::set<Index> in;
    while (in.size() < 2) in.insert(static_cast<Index>(random.between(0, columns - 1)));
    for (Index j = 0; j < columns; ++j)
      if (random.chance(density)) in.insert(j);
    LinearRow row;
    for (const Index j : in) row.entries.push_back({j, 1.0});
    p.add_row(at_least(row.entries, 1.0));
  }
  return stepping(std::move(p));
}

/// Generalised assignment, classes A to D of Chu and Beasley 1997.
inline mip::Problem assign(char kind, int machines, int jobs, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<LinearRow> room(at(machines)), once(at(jobs));
  std::vector<std::pair<double, int>> cheapest(at(jobs), {kInf, 0});
  for (int i = 0; i < machines; ++i)
    for (int j = 0; j < jobs; ++j) {
      const double load = kind == 'D' ? whole(random, 1, 100) : whole(random, 5, 25);
      const double cost =
          kind == 'D' ? 111.0 - load + whole(random, -10, 10) : whole(random, 10, 50);
      const Index column = binary(p, cost);
      cheapest[at(j)] = std::min(cheapest[at(j)], {cost, i});
      room[at(i)].entries.push_back({column, load});
      room[at(i)].upper += load;
      once[at(j)].entries.push_back({column, 1.0});
    }
  std::vector<double> drawn(at(machines), 0.0);  // by those whose cheapest job they are
  for (int j = 0; j < jobs; ++j) {
    const int i = cheapest[at(j)].second;
    drawn[at(i)] += room[at(i)].entries[at(j)].value;
  }
  const double most = *std::max_element(drawn.begin(), drawn.end());
  for (const LinearRow& r : room) {
    const double wide = 0.6 * 15.0 * jobs / machines + 0.4 * most;
    const double limit = kind == 'A' ? wide : (kind == 'B' ? 0.7 * wide : 0.8 * r.upper / machines);
    p.add_row(at_most(r.entries, std::floor(limit)));
  }
  for (const LinearRow& r : once) p.add_row(equal(r.entries, 1.0));
  return stepping(std::move(p));
}

/// Capacitated facilities with splittable demand, Cornuejols, Sridharan and Thizy 1991: places in
/// a square, room of all over demand of all = `ratio`.
inline mip::Problem facility(int sites, int customers, double ratio, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  const auto place = [&] { return std::pair(random.fraction(), random.fraction()); };
  std::vector<std::pair<double, double>> where, home;
  std::vector<double> demand, room;
  double wanted = 0.0, offered = 0.0;
  for (int j = 0; j < customers; ++j) {
    home.push_back(place());
    demand.push_back(whole(random, 5, 35));
    wanted += demand.back();
  }
  for (int i = 0; i < sites; ++i) {
    where.push_back(place());
    room.push_back(whole(random, 10, 160));
    offered += room.back();
  }
  std::vector<LinearRow> met(at(customers));
  for (int i = 0; i < sites; ++i) {
    room[at(i)] = std::ceil(room[at(i)] * ratio * wanted / offered);
    const Index open = binary(
        p, std::floor(whole(random, 0, 90) + whole(random, 100, 110) * std::sqrt(room[at(i)])));
    LinearRow all{{{open, -room[at(i)]}}, -kInf, 0.0, true};
    for (int j = 0; j < customers; ++j) {
      const double apart = std::hypot(where[at(i)].first - home[at(j)].first,
                                      where[at(i)].second - home[at(j)].second);
      const double most = std::min(demand[at(j)], room[at(i)]);
      const Index ship = p.add_column(0.0, most, false, std::floor(10.0 * apart * 10.0) / 10.0);
      met[at(j)].entries.push_back({ship, 1.0});
      all.entries.push_back({ship, 1.0});
      p.add_row(at_most({{ship, 1.0}, {open, -most}}, 0.0));
    }
    p.add_row(all);
  }
  for (int j = 0; j < customers; ++j) p.add_row(equal(met[at(j)].entries, demand[at(j)]));
  return p;
}

/// Steiner triples of 9 x 3^k points by tripling, or of 15 = the lines of PG(3, 2), 45 from those:
/// least number of points that meets every triple (Fulkerson, Nemhauser and Trotter 1974).
inline mip::Problem steiner(int points) {
  using Triple = std::array<int, 3>;
  std::vector<Triple> triples;
  int v = points % 15 == 0 ? 15 : 9;
  if (v == 15) {
    for (int a = 1; a < 16; ++a)
      for (int b = a + 1; b < 16; ++b)
        if ((a ^ b) > b) triples.push_back({a - 1, b - 1, (a ^ b) - 1});
  } else {
    for (int a = 0; a < 9; ++a)  // lines of the plane over three elements
      for (int b = a + 1; b < 9; ++b) {
        const int c = (6 - a / 3 - b / 3) % 3 * 3 + (6 - a % 3 - b % 3) % 3;
        if (c > b) triples.push_back({a, b, c});
      }
  }
  for (; v < points; v *= 3) {
    std::vector<Triple> next;
    for (int i = 0; i < v; ++i) next.push_back({3 * i, 3 * i + 1, 3 * i + 2});
    for (const Triple& t : triples)
      for (int a = 0; a < 3; ++a)
        for (int b = 0; b < 3; ++b)
          next.push_back({3 * t[0] + a, 3 * t[1] + b, 3 * t[2] + (6 - a - b) % 3});
    triples = std::move(next);
  }
  mip::Problem p;
  for (int j = 0; j < points; ++j) binary(p, 1.0);
  for (const Triple& t : triples) p.add_row(at_least({{t[0], 1.0}, {t[1], 1.0}, {t[2], 1.0}}, 1.0));
  return stepping(std::move(p));
}

/// Cornuejols and Dawande 1998: `rows` equations over 10 (rows - 1) yes-or-no columns; hardly ever
/// a plan.
inline mip::Problem market_split(int rows, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  const int n = 10 * (rows - 1);
  for (int j = 0; j < n; ++j) binary(p, 0.0);
  for (int i = 0; i < rows; ++i) {
    std::vector<lp::Entry> entries;
    double sum = 0.0;
    for (Index j = 0; j < n; ++j) {
      entries.push_back({j, whole(random, 0, 99)});
      sum += entries.back().value;
    }
    p.add_row(equal(entries, std::floor(sum / 2.0)));
  }
  return stepping(std::move(p));
}

/// The most points of a random graph of which no two are joined; one row an edge.
inline mip::Problem stable_set(int points, double density, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  for (int j = 0; j < points; ++j) binary(p, -1.0);
  for (Index a = 0; a < points; ++a)
    for (Index b = a + 1; b < points; ++b)
      if (random.chance(density)) p.add_row(at_most({{a, 1.0}, {b, 1.0}}, 1.0));
  return stepping(std::move(p));
}

/// Colours for the queens' graph on a square board: as few as possible of `colours`.
inline mip::Problem queens(int side, int colours) {
  mip::Problem p;
  const int cells = side * side;
  std::vector<Index> used;
  for (int c = 0; c < colours; ++c) used.push_back(binary(p, 1.0));
  std::vector<std::vector<Index>> x(at(cells));
  for (int v = 0; v < cells; ++v) {
    LinearRow one;
    for (int c = 0; c < colours; ++c) {
      x[at(v)].push_back(binary(p, 0.0));
      one.entries.push_back({x[at(v)].back(), 1.0});
    }
    p.add_row(equal(one.entries, 1.0));
  }
  for (int a = 0; a < cells; ++a)
    for (int b = a + 1; b < cells; ++b) {
      const int down = b / side - a / side, across = b % side - a % side;
      if (down != 0 && across != 0 && down != across && down != -across) continue;
      for (std::size_t c = 0; c < at(colours); ++c)
        p.add_row(at_most({{x[at(a)][c], 1.0}, {x[at(b)][c], 1.0}, {used[c], -1.0}}, 0.0));
    }
  return stepping(std::move(p));
}

/// Colours for a random graph: as few as possible of `colours`, used in order. Edges with
/// probability `density`.
inline mip::Problem colouring(int points, int colours, double density, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<Index> used;
  for (int c = 0; c < colours; ++c) used.push_back(binary(p, 1.0));
  for (std::size_t c = 1; c < at(colours); ++c)
    p.add_row(at_least({{used[c - 1], 1.0}, {used[c], -1.0}}, 0.0));
  std::vector<std::vector<Index>> x(at(points));
  for (std::vector<Index>& of : x) {
    LinearRow one;
    for (int c = 0; c < colours; ++c) {
      of.push_back(binary(p, 0.0));
      one.entries.push_back({of.back(), 1.0});
    }
    p.add_row(equal(one.entries, 1.0));
  }
  for (std::size_t a = 0; a < x.size(); ++a)
    for (std::size_t b = a + 1; b < x.size(); ++b) {
      if (!random.chance(density)) continue;
      for (std::size_t c = 0; c < at(colours); ++c)
        p.add_row(at_most({{x[a][c], 1.0}, {x[b][c], 1.0}, {used[c], -1.0}}, 0.0));
    }
  return stepping(std::move(p));
}

/// As many sources as sinks, each tied to about `arcs` others, exactly what there is brought to
/// where it is wanted; with `single`, one to one.
inline mip::Problem transport(int size, int arcs, bool single, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<LinearRow> rows(2 * at(size));
  for (std::size_t i = 0; i < at(size); ++i)
    for (std::size_t j = 0; j < at(size); ++j) {
      if (i != j && random.between(0, size - 1) >= arcs) continue;
      const Index x = p.add_column(0.0, single ? 1.0 : 1e6, true, whole(random, 1, 1000));
      rows[i].entries.push_back({x, 1.0});
      rows[at(size) + j].entries.push_back({x, 1.0});
    }
  for (std::size_t i = 0; i < at(size); ++i) {
    const double amount = single ? 1.0 : whole(random, 5, 30);
    for (LinearRow* row : {&rows[i], &rows[at(size) + i]}) row->lower = row->upper = amount;
  }
  for (const LinearRow& row : rows) p.add_row(row);
  return stepping(std::move(p));
}

/// Choices with worth under rules of the kinds that people state: implications, at most so many of
/// a few, either this or that, and two budgets.
inline mip::Problem logical(int choices, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  for (int j = 0; j < choices; ++j) binary(p, -whole(random, 1, 60));
  const auto any = [&] { return static_cast<Index>(random.between(0, choices - 1)); };
  for (int k = 0; k < 2 * choices; ++k) {
    std::set<Index> some;
    while (some.size() < 4) some.insert(any());
    LinearRow row;
    for (const Index j : some) row.entries.push_back({j, 1.0});
    switch (random.between(0, 3)) {
      case 0:  // the first implies one of the others
        row.entries[0].value = -1.0;
        p.add_row(at_least(row.entries, 0.0));
        break;
      case 1:
        p.add_row(at_most(row.entries, 2.0));
        break;
      case 2:  // with the first, none of the others
        row.entries[0].value = 3.0;
        p.add_row(at_most(row.entries, 3.0));
        break;
      default:
        p.add_row(at_least(row.entries, 1.0));
        break;
    }
  }
  for (int k = 0; k < 2; ++k) {
    LinearRow row;
    double sum = 0.0;
    for (int j = 0; j < choices; ++j) {
      row.entries.push_back({static_cast<Index>(j), whole(random, 5, 50)});
      sum += row.entries.back().value;
    }
    p.add_row(at_most(row.entries, std::floor(0.4 * sum)));
  }
  return stepping(std::move(p));
}

/// Items into as few bins as possible.
inline mip::Problem bins(int items, double room, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<double> size;
  for (int j = 0; j < items; ++j) size.push_back(whole(random, 20, 60));
  std::sort(size.rbegin(), size.rend());
  int most = 0;  // by first fit
  std::vector<double> left;
  for (const double s : size) {
    const auto fit = std::find_if(left.begin(), left.end(), [&](double l) { return l >= s; });
    if (fit == left.end())
      left.push_back(room - s), ++most;
    else
      *fit -= s;
  }
  std::vector<LinearRow> once(at(items));
  for (int b = 0; b < most; ++b) {
    const Index open = binary(p, 1.0);
    LinearRow full{{{open, -room}}, -kInf, 0.0, true};
    for (int j = 0; j < items; ++j) {
      const Index in = binary(p, 0.0);
      full.entries.push_back({in, size[at(j)]});
      once[at(j)].entries.push_back({in, 1.0});
    }
    p.add_row(full);
  }
  for (const LinearRow& r : once) p.add_row(equal(r.entries, 1.0));
  return stepping(std::move(p));
}

/// By job the steps in order: on which machine, and how long.
using ShopSteps = std::vector<std::vector<std::pair<int, double>>>;
inline ShopSteps shop_steps(int jobs, int machines, double longest, std::uint64_t seed) {
  Random random(seed);
  ShopSteps steps(at(jobs));
  for (auto& job : steps) {
    std::vector<int> order;
    for (int m = 0; m < machines; ++m) order.push_back(m);
    for (std::size_t k = order.size(); k > 1; --k)
      std::swap(
          order[k - 1],
          order[static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(k) - 1))]);
    for (const int m : order)
      job.emplace_back(m, whole(random, 1, static_cast<std::int64_t>(longest)));
  }
  return steps;
}

/// Jobs over machines, each in an order of its own; two jobs on one machine: one before the other,
/// as rows under a condition. The last one ends as early as possible.
inline mip::Problem job_shop(const ShopSteps& shop) {
  mip::Problem p;
  struct Step {
    int machine;
    double takes;
    Index start;
  };
  double all = 0.0;
  std::vector<std::vector<Step>> steps(shop.size());
  for (std::size_t j = 0; j < shop.size(); ++j)
    for (const auto& [machine, takes] : shop[j]) {
      steps[j].push_back({machine, takes, -1});
      all += takes;
    }
  const Index end = p.add_column(0.0, all, true, 1.0);
  for (auto& job : steps)
    for (std::size_t k = 0; k < job.size(); ++k) {
      job[k].start = p.add_column(0.0, all, true, 0.0);
      if (k > 0)
        p.add_row(at_least({{job[k].start, 1.0}, {job[k - 1].start, -1.0}}, job[k - 1].takes));
      if (k + 1 == job.size())
        p.add_row(at_least({{end, 1.0}, {job[k].start, -1.0}}, job[k].takes));
    }
  for (std::size_t a = 0; a < steps.size(); ++a)
    for (std::size_t b = a + 1; b < steps.size(); ++b)
      for (const Step& s : steps[a])
        for (const Step& t : steps[b]) {
          if (s.machine != t.machine) continue;
          const Index c = p.add_condition(binary(p, 0.0));
          mip::add_indicator_row(p,
                                 {{c, true}, at_least({{t.start, 1.0}, {s.start, -1.0}}, s.takes)});
          mip::add_indicator_row(
              p, {{c, false}, at_least({{s.start, 1.0}, {t.start, -1.0}}, t.takes)});
        }
  return stepping(std::move(p));
}

inline mip::Problem job_shop(int jobs, int machines, std::uint64_t seed) {
  return job_shop(shop_steps(jobs, machines, 10.0, seed));
}

/// The festival's generators: on or off by the hour, a price to start, at least three hours on.
inline mip::Problem generators(int units, int hours, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<LinearRow> load(at(hours)), spare(at(hours));
  double capacity = 0.0;
  for (int u = 0; u < units; ++u) {
    const double most = whole(random, 20, 80), least = std::floor(most / 3.0);
    const double run = whole(random, 10, 40), start = whole(random, 20, 120);
    const double each = whole(random, 2, 9);
    capacity += most;
    std::vector<Index> on, begins;
    for (int h = 0; h < hours; ++h) {
      on.push_back(binary(p, run));
      begins.push_back(binary(p, start));
      const Index power = p.add_column(0.0, most, false, each);
      p.add_row(at_most({{power, 1.0}, {on.back(), -most}}, 0.0));
      p.add_row(at_least({{power, 1.0}, {on.back(), -least}}, 0.0));
      load[at(h)].entries.push_back({power, 1.0});
      spare[at(h)].entries.push_back({on.back(), most});
      if (h > 0)
        p.add_row(at_most({{on[at(h)], 1.0}, {on[at(h - 1)], -1.0}, {begins[at(h)], -1.0}}, 0.0));
      for (int k = std::max(0, h - 2); k < h; ++k)
        p.add_row(at_most({{begins[at(k)], 1.0}, {on[at(h)], -1.0}}, 0.0));
    }
  }
  for (int h = 0; h < hours; ++h) {
    const double need = std::floor(capacity * (0.4 + 0.3 * random.fraction()));
    p.add_row(equal(load[at(h)].entries, need));
    p.add_row(at_least(spare[at(h)].entries, std::floor(1.1 * need)));
  }
  return p;
}

}  // namespace kiteknot::bench
