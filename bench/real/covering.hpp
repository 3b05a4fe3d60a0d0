#pragma once
// Needs and sets of real size: covers, partitions, trips and cutting patterns.

#include "../mip_families.hpp"

namespace kiteknot::bench {

/// Every need in exactly one set of 3 to 8; one plan is planted (a random division of the needs),
/// costs grow with the size. After Balas and Padberg 1976, "Set partitioning: a survey".
inline mip::Problem partition(int needs, int sets, std::uint64_t seed) {
  Random random(seed);
  std::vector<std::vector<int>> all;
  std::vector<int> order(at(needs));
  for (int i = 0; i < needs; ++i) order[at(i)] = i;
  const auto shuffle = [&](auto& list) {
    for (std::size_t k = list.size(); k > 1; --k)
      std::swap(
          list[k - 1],
          list[static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(k) - 1))]);
  };
  shuffle(order);
  for (std::size_t i = 0; i < order.size();) {
    const auto end = std::min(order.size(), i + static_cast<std::size_t>(random.between(3, 8)));
    all.emplace_back(order.begin() + static_cast<std::ptrdiff_t>(i),
                     order.begin() + static_cast<std::ptrdiff_t>(end));
    i = end;
  }
  while (all.size() < at(sets)) {
    std::set<int> some;
    const auto size = static_cast<std::size_t>(random.between(3, 8));
    while (some.size() < size) some.insert(static_cast<int>(random.between(0, needs - 1)));
    all.emplace_back(some.begin(), some.end());
  }
  shuffle(all);
  mip::Problem p;
  std::vector<LinearRow> rows(at(needs));
  for (const std::vector<int>& members : all) {
    double cost = 20.0;
    for (std::size_t k = 0; k < members.size(); ++k) cost += whole(random, 10, 30);
    const Index x = binary(p, cost);
    for (const int i : members) rows[at(i)].entries.push_back({x, 1.0});
  }
  for (const LinearRow& row : rows) p.add_row(equal(row.entries, 1.0));
  return stepping(std::move(p));
}

/// Places in a square, each on one trip of a vehicle with room for 20; trips over near places,
/// their length by the nearest neighbour next, and every place alone. After Balinski and Quandt
/// 1964, "On an integer program for a delivery problem".
inline mip::Problem trips(int places, int patterns, std::uint64_t seed) {
  Random random(seed);
  std::vector<std::array<double, 2>> where;
  std::vector<double> load;
  for (int i = 0; i < places; ++i) {
    where.push_back({100.0 * random.fraction(), 100.0 * random.fraction()});
    load.push_back(whole(random, 1, 7));
  }
  const auto apart = [](const std::array<double, 2>& a, const std::array<double, 2>& b) {
    return std::hypot(a[0] - b[0], a[1] - b[1]);
  };
  constexpr std::array<double, 2> kHome = {50.0, 50.0};
  std::set<std::vector<int>> trips;
  for (int i = 0; i < places; ++i) trips.insert({i});
  while (trips.size() < at(patterns)) {
    const int first = static_cast<int>(random.between(0, places - 1));
    std::vector<int> near;
    for (int i = 0; i < places; ++i) near.push_back(i);
    std::sort(near.begin(), near.end(), [&](int a, int b) {
      return apart(where[at(a)], where[at(first)]) < apart(where[at(b)], where[at(first)]);
    });
    std::vector<int> trip = {first};
    double full = load[at(first)];
    for (std::size_t k = 1; k < 20 && full < 20.0; ++k) {
      if (!random.chance(0.4) || full + load[at(near[k])] > 20.0) continue;
      trip.push_back(near[k]);
      full += load[at(near[k])];
    }
    std::sort(trip.begin(), trip.end());
    trips.insert(trip);
  }
  mip::Problem p;
  std::vector<LinearRow> rows(at(places));
  for (const std::vector<int>& trip : trips) {
    std::vector<int> left = trip;
    std::array<double, 2> here = kHome;
    double length = 10.0;  // a vehicle
    while (!left.empty()) {
      const auto next = std::min_element(left.begin(), left.end(), [&](int a, int b) {
        return apart(where[at(a)], here) < apart(where[at(b)], here);
      });
      length += apart(where[at(*next)], here);
      here = where[at(*next)];
      left.erase(next);
    }
    const Index x = binary(p, std::ceil(length + apart(here, kHome)));
    for (const int i : trip) rows[at(i)].entries.push_back({x, 1.0});
  }
  for (const LinearRow& row : rows) p.add_row(equal(row.entries, 1.0));
  return stepping(std::move(p));
}

/// Rolls cut by patterns that leave no room for a further piece; as few rolls as possible. Gilmore
/// and Gomory 1961, "A linear programming approach to the cutting stock problem".
inline mip::Problem cutting(int widths, int patterns, std::uint64_t seed) {
  constexpr double kRoll = 1000.0;
  Random random(seed);
  std::vector<double> width;
  for (int i = 0; i < widths; ++i) width.push_back(whole(random, 60, 450));
  std::set<std::vector<int>> all;
  while (all.size() < at(patterns)) {
    std::vector<int> pieces(at(widths), 0);
    double left = kRoll;
    for (int misses = 0; misses < 30;) {
      const std::size_t i = static_cast<std::size_t>(random.between(0, widths - 1));
      if (width[i] > left) {
        ++misses;
        continue;
      }
      ++pieces[i];
      left -= width[i];
    }
    all.insert(pieces);
  }
  mip::Problem p;
  std::vector<LinearRow> rows(at(widths));
  for (const std::vector<int>& pieces : all) {
    const Index x = p.add_column(0.0, 500.0, true, 1.0);
    for (std::size_t i = 0; i < at(widths); ++i)
      if (pieces[i] > 0) rows[i].entries.push_back({x, static_cast<double>(pieces[i])});
  }
  for (const LinearRow& row : rows) p.add_row(at_least(row.entries, whole(random, 20, 200)));
  return stepping(std::move(p));
}

}  // namespace kiteknot::bench
