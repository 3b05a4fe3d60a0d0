#pragma once
// Places and links of real size: location without capacity, and networks.

#include "../mip_families.hpp"

namespace kiteknot::bench {

/// Sites and customers in a square; a customer is served from one of the `near` nearest sites.
/// `all_near`: from any. Opening costs about what serving ten customers costs. After Kuehn and
/// Hamburger 1963, "A heuristic program for locating warehouses".
inline mip::Problem location(int sites, int customers, int near, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<std::array<double, 2>> where;
  for (int i = 0; i < sites; ++i) {
    where.push_back({1000.0 * random.fraction(), 1000.0 * random.fraction()});
    binary(p, whole(random, 1500, 2500));
  }
  for (int j = 0; j < customers; ++j) {
    const std::array<double, 2> home = {1000.0 * random.fraction(), 1000.0 * random.fraction()};
    std::vector<std::pair<double, Index>> by_way;
    for (Index i = 0; i < sites; ++i)
      by_way.emplace_back(std::hypot(where[at(i)][0] - home[0], where[at(i)][1] - home[1]), i);
    std::sort(by_way.begin(), by_way.end());
    by_way.resize(std::min(by_way.size(), at(near)));
    LinearRow served;
    for (const auto& [way, i] : by_way) {
      const Index x = p.add_column(0.0, 1.0, false, std::ceil(way));
      served.entries.push_back({x, 1.0});
      p.add_row(at_most({{x, 1.0}, {i, -1.0}}, 0.0));
    }
    p.add_row(equal(served.entries, 1.0));
  }
  return p;
}

/// Several goods over one network: opening an arc costs, its room is shared. Rows link every good
/// to the opening of its arcs. Crainic, Frangioni and Gendron 2001, "Bundle-based relaxation
/// methods for multicommodity capacitated fixed charge network design".
inline mip::Problem design(int points, int arcs, int goods, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  struct Arc {
    int from, to;
    double way;
  };
  std::vector<Arc> all;
  const auto any = [&] { return static_cast<int>(random.between(0, points - 1)); };
  for (int v = 0; v < points; ++v) all.push_back({v, (v + 1) % points, whole(random, 1, 10)});
  while (all.size() < at(arcs)) {
    const int a = any(), b = any();
    if (a != b) all.push_back({a, b, whole(random, 1, 10)});
  }
  std::vector<double> amount;
  double wanted = 0.0;
  for (int k = 0; k < goods; ++k) wanted += amount.emplace_back(whole(random, 5, 30));
  std::vector<LinearRow> balance(at(goods) * at(points));
  for (std::size_t k = 0; k < at(goods); ++k) {
    const std::size_t from = static_cast<std::size_t>(any());
    std::size_t to = from;
    while (to == from) to = static_cast<std::size_t>(any());
    for (std::size_t v = 0; v < at(points); ++v) {
      LinearRow& row = balance[k * at(points) + v];
      row.lower = row.upper = v == from ? -amount[k] : (v == to ? amount[k] : 0.0);
    }
  }
  for (std::size_t a = 0; a < all.size(); ++a) {
    const double room =
        a < at(points) ? wanted : std::floor(wanted * (0.05 + 0.2 * random.fraction()));
    const Index open = binary(p, std::floor(all[a].way * whole(random, 40, 80)));
    LinearRow shared{{{open, -room}}, -kInf, 0.0, true};
    for (std::size_t k = 0; k < at(goods); ++k) {
      const double most = std::min(amount[k], room);
      const Index flow = p.add_column(0.0, most, false, all[a].way);
      shared.entries.push_back({flow, 1.0});
      balance[k * at(points) + at(all[a].from)].entries.push_back({flow, -1.0});
      balance[k * at(points) + at(all[a].to)].entries.push_back({flow, 1.0});
      p.add_row(at_most({{flow, 1.0}, {open, -most}}, 0.0));
    }
    p.add_row(shared);
  }
  for (const LinearRow& row : balance) p.add_row(row);
  return p;
}

/// Real amounts from sources to sinks, any to any, without a limit of their own.
inline mip::Problem shipping(int sources, int sinks, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<LinearRow> out(at(sources)), in(at(sinks));
  std::vector<double> wanted;
  double sum = 0.0;
  for (int j = 0; j < sinks; ++j) sum += wanted.emplace_back(whole(random, 10, 50));
  for (int i = 0; i < sources; ++i)
    for (int j = 0; j < sinks; ++j) {
      const Index x = p.add_column(0.0, kInf, false, whole(random, 10, 100));
      out[at(i)].entries.push_back({x, 1.0});
      in[at(j)].entries.push_back({x, 1.0});
    }
  for (const LinearRow& row : out) p.add_row(at_most(row.entries, std::ceil(1.3 * sum / sources)));
  for (int j = 0; j < sinks; ++j) p.add_row(at_least(in[at(j)].entries, wanted[at(j)]));
  return p;
}

}  // namespace kiteknot::bench
