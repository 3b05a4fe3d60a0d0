#pragma once
// Plans over periods, of real size: lots, projects, blends.

#include "../mip_families.hpp"

namespace kiteknot::bench {

/// Items over periods on one resource with set-up times, and overtime that only costs. After
/// Trigeiro, Thomas and McClain 1989, "Capacitated lot sizing with setup times".
inline mip::Problem lots_with_overtime(int items, int periods, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<LinearRow> hours(at(periods));
  double wanted = 0.0;
  for (int i = 0; i < items; ++i) {
    const double setup = whole(random, 200, 1000), hold = 1.0 + 4.0 * random.fraction();
    const double takes = whole(random, 5, 25);
    std::vector<double> need;
    double rest = 0.0;
    for (int t = 0; t < periods; ++t)
      rest += need.emplace_back(random.chance(0.6) ? whole(random, 20, 120) : 0.0);
    wanted += rest;
    Index stock = -1;
    for (int t = 0; t < periods; ++t) {
      const Index make = p.add_column(0.0, kInf, false, 0.0);
      const Index kept = p.add_column(0.0, kInf, false, std::floor(10.0 * hold) / 10.0);
      const Index set = binary(p, setup);
      LinearRow flow = equal({{make, 1.0}, {kept, -1.0}}, need[at(t)]);
      if (stock >= 0) flow.entries.push_back({stock, 1.0});
      p.add_row(flow);
      p.add_row(at_most({{make, 1.0}, {set, -rest}}, 0.0));
      hours[at(t)].entries.push_back({make, 1.0});
      hours[at(t)].entries.push_back({set, takes});
      stock = kept;
      rest -= need[at(t)];
    }
  }
  for (LinearRow& row : hours) {
    row.entries.push_back({p.add_column(0.0, kInf, false, 100.0), -1.0});
    p.add_row(at_most(row.entries, std::ceil(1.1 * wanted / periods + 8.0 * items)));
  }
  return p;
}

/// Items that go into each other, three levels; ends of chains are wanted from outside. After
/// Tempelmeier and Derstroff 1996, "A Lagrangean-based heuristic for dynamic multilevel multiitem
/// constrained lotsizing with setup times".
inline mip::Problem lots_in_levels(int items, int periods, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  const auto count = at(items), length = at(periods);
  std::vector<std::vector<std::pair<std::size_t, double>>> goes_into(count);
  std::vector<std::vector<double>> need(count, std::vector<double>(length, 0.0));
  for (std::size_t i = 0; i < count; ++i) {
    const std::size_t level = 3 * i / count;
    if (level == 0) {
      for (double& n : need[i]) n = random.chance(0.7) ? whole(random, 10, 90) : 0.0;
      continue;
    }
    const std::size_t first = (level - 1) * count / 3, end = level * count / 3;
    std::set<std::size_t> in;
    for (std::int64_t k = random.between(1, 2); k > 0; --k)
      in.insert(static_cast<std::size_t>(
          random.between(static_cast<std::int64_t>(first), static_cast<std::int64_t>(end) - 1)));
    for (const std::size_t j : in) {
      goes_into[i].emplace_back(j, whole(random, 1, 2));
      for (std::size_t t = 0; t < length; ++t)
        need[i][t] += goes_into[i].back().second * need[j][t];
    }
  }
  std::vector<std::vector<Index>> make(count);
  std::array<std::vector<LinearRow>, 3> hours;
  hours.fill(std::vector<LinearRow>(length));
  std::array<double, 3> load{};
  for (std::size_t i = 0; i < count; ++i) {
    const double setup = whole(random, 100, 600), hold = whole(random, 1, 5);
    const double takes = whole(random, 5, 20);
    double rest = 0.0;
    for (const double n : need[i]) rest += n;
    load[3 * i / count] += rest + takes * static_cast<double>(length);
    Index stock = -1;
    for (std::size_t t = 0; t < length; ++t) {
      make[i].push_back(p.add_column(0.0, kInf, false, 0.0));
      const Index kept = p.add_column(0.0, kInf, false, hold), set = binary(p, setup);
      LinearRow flow = equal({{make[i].back(), 1.0}, {kept, -1.0}}, 0.0);
      if (stock >= 0) flow.entries.push_back({stock, 1.0});
      if (goes_into[i].empty()) flow.lower = flow.upper = need[i][t];
      for (const auto& [j, each] : goes_into[i]) flow.entries.push_back({make[j][t], -each});
      p.add_row(flow);
      p.add_row(at_most({{make[i].back(), 1.0}, {set, -rest}}, 0.0));
      hours[3 * i / count][t].entries.push_back({make[i].back(), 1.0});
      hours[3 * i / count][t].entries.push_back({set, takes});
      stock = kept;
    }
  }
  for (std::size_t level = 0; level < 3; ++level)
    for (LinearRow& row : hours[level]) {
      row.entries.push_back({p.add_column(0.0, kInf, false, 50.0), -1.0});
      p.add_row(at_most(row.entries, std::ceil(load[level] / static_cast<double>(length))));
    }
  return p;
}

/// Jobs that start at one of many times, after those before them, three resources with room.
/// Pritsker, Watters and Wolfe 1969, "Multiproject scheduling with limited resources", with one row
/// a time for every pair (Christofides, Alvarez-Valdes and Tamarit 1987).
inline mip::Problem project(int jobs, int times, std::uint64_t seed) {
  constexpr std::size_t kResources = 3;
  Random random(seed);
  struct Job {
    int takes = 0, earliest = 0, tail = 0;
    std::array<double, kResources> uses{};
    std::vector<std::size_t> before;
  };
  std::vector<Job> all(at(jobs));
  for (std::size_t j = 0; j < all.size(); ++j) {
    Job& job = all[j];
    job.takes = static_cast<int>(random.between(1, 10));
    for (double& u : job.uses) u = random.chance(0.6) ? whole(random, 1, 10) : 0.0;
    for (std::int64_t k = j < 3 ? 0 : random.between(1, 2); k > 0; --k) {
      const auto far = std::min<std::int64_t>(static_cast<std::int64_t>(j), 15);
      job.before.push_back(j - static_cast<std::size_t>(random.between(1, far)));
    }
    for (const std::size_t b : job.before)
      job.earliest = std::max(job.earliest, all[b].earliest + all[b].takes);
  }
  for (std::size_t j = all.size(); j-- > 0;)
    for (const std::size_t b : all[j].before)
      all[b].tail = std::max(all[b].tail, all[j].tail + all[j].takes);
  mip::Problem p;
  std::array<std::vector<LinearRow>, kResources> room;
  room.fill(std::vector<LinearRow>(at(times)));
  const Index end = p.add_column(0.0, times, true, 1.0);
  std::vector<std::vector<std::pair<int, Index>>> starts(all.size());
  for (std::size_t j = 0; j < all.size(); ++j) {
    const Job& job = all[j];
    LinearRow once, last{{{end, -1.0}}, -kInf, 0.0, true};
    for (int t = job.earliest; t + job.takes + job.tail <= times; ++t) {
      const Index x = binary(p, 0.0);
      starts[j].emplace_back(t, x);
      once.entries.push_back({x, 1.0});
      last.entries.push_back({x, static_cast<double>(t + job.takes + job.tail)});
      for (std::size_t r = 0; r < kResources; ++r)
        for (int k = t; k < t + job.takes && job.uses[r] > 0.0; ++k)
          room[r][at(k)].entries.push_back({x, job.uses[r]});
    }
    p.add_row(equal(once.entries, 1.0));
    p.add_row(last);
    for (const std::size_t b : job.before)
      for (int t = job.earliest; t < times; ++t) {
        LinearRow row;  // j by t only with b by t less what b takes
        for (const auto& [s, x] : starts[j])
          if (s <= t) row.entries.push_back({x, 1.0});
        for (const auto& [s, x] : starts[b])
          if (s + all[b].takes <= t) row.entries.push_back({x, -1.0});
        if (row.entries.size() < starts[j].size() + starts[b].size())
          p.add_row(at_most(row.entries, 0.0));
      }
  }
  for (auto& rows : room)
    for (const LinearRow& row : rows)
      if (!row.entries.empty()) p.add_row(at_most(row.entries, 20.0));
  return stepping(std::move(p));
}

/// Inputs into blends, real amounts; whoever buys of an input pays its charge; what a blend holds
/// lies between limits. After Williams 1978, "Model building in mathematical programming".
inline mip::Problem blends(int inputs, int number, std::uint64_t seed) {
  constexpr std::size_t kContents = 3;
  Random random(seed);
  mip::Problem p;
  std::vector<LinearRow> made(at(number));
  std::vector<std::array<LinearRow, kContents>> holds(at(number));
  std::vector<double> wanted;
  for (int k = 0; k < number; ++k) wanted.push_back(whole(random, 500, 2000));
  for (int i = 0; i < inputs; ++i) {
    const double there = whole(random, 100, 400) * 10.0 * number / inputs;
    std::array<double, kContents> content{};
    for (double& c : content) c = whole(random, 0, 100);
    const Index bought = binary(p, whole(random, 500, 2000));
    LinearRow stock{{{bought, -there}}, -kInf, 0.0, true};
    const double price = whole(random, 10, 40);
    for (std::size_t k = 0; k < at(number); ++k) {
      const Index x = p.add_column(0.0, kInf, false, price + whole(random, 0, 3));
      stock.entries.push_back({x, 1.0});
      made[k].entries.push_back({x, 1.0});
      for (std::size_t c = 0; c < kContents; ++c)
        holds[k][c].entries.push_back({x, content[c] - 50.0});
    }
    p.add_row(stock);
  }
  for (std::size_t k = 0; k < at(number); ++k) {
    p.add_row(equal(made[k].entries, wanted[k]));
    for (const LinearRow& row : holds[k]) {
      const double middle = whole(random, -15, 15) * wanted[k];
      p.add_row({row.entries, middle - 3.0 * wanted[k], middle + 3.0 * wanted[k], false});
    }
  }
  return p;
}

}  // namespace kiteknot::bench
