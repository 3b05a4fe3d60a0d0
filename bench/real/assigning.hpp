#pragma once
// Who does what, of real size: machines, sacks, rosters, timetables.

#include "../mip_families.hpp"

namespace kiteknot::bench {

/// Generalised assignment, class E: loads and costs turned against each other, widely spread
/// (Laguna, Kelly, Gonzalez-Velarde and Glover 1995, "Tabu search for the multilevel generalized
/// assignment problem").
inline mip::Problem assign_e(int machines, int jobs, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<LinearRow> room(at(machines)), once(at(jobs));
  for (LinearRow& row : room) {
    double sum = 0.0, largest = 0.0;
    for (int j = 0; j < jobs; ++j) {
      const double load = std::ceil(1.0 - 10.0 * std::log(1.0 - random.fraction()));
      const Index x = binary(p, std::ceil(1000.0 / load - 10.0 * random.fraction()));
      row.entries.push_back({x, load});
      once[at(j)].entries.push_back({x, 1.0});
      sum += load;
      largest = std::max(largest, load);
    }
    p.add_row(at_most(row.entries, std::max(std::floor(0.8 * sum / machines), largest)));
  }
  for (const LinearRow& row : once) p.add_row(equal(row.entries, 1.0));
  return stepping(std::move(p));
}

/// Items into several sacks, each at most once; all sacks together hold half. Martello and Toth
/// 1990, chapter 6 (weakly correlated, dissimilar rooms).
inline mip::Problem sacks(int number, int items, std::uint64_t seed) {
  Random random(seed);
  mip::Problem p;
  std::vector<double> weight, worth;
  double sum = 0.0;
  for (int j = 0; j < items; ++j) {
    weight.push_back(whole(random, 10, 1000));
    worth.push_back(std::max(1.0, weight.back() + whole(random, -100, 100)));
    sum += weight.back();
  }
  std::vector<LinearRow> once(at(items));
  double left = std::floor(sum / 2.0);
  for (int i = 0; i < number; ++i) {
    LinearRow row;
    for (int j = 0; j < items; ++j) {
      const Index x = binary(p, -worth[at(j)]);
      row.entries.push_back({x, weight[at(j)]});
      once[at(j)].entries.push_back({x, 1.0});
    }
    const double share = left / (number - i);
    const double room =
        i + 1 == number ? left : std::floor(share * (0.6 + 0.8 * random.fraction()));
    left -= room;
    p.add_row(at_most(row.entries, room));
  }
  for (const LinearRow& row : once) p.add_row(at_most(row.entries, 1.0));
  return stepping(std::move(p));
}

/// People, days, three shifts: needs by day and shift, no early shift after a late or night one, at
/// most five days in a row, every other weekend off, days in all within limits, wishes. After
/// Warner 1976, "Scheduling nursing personnel according to nursing preference".
inline mip::Problem roster(int people, int days, std::uint64_t seed) {
  constexpr std::size_t kShifts = 3;
  Random random(seed);
  mip::Problem p;
  std::vector<std::array<LinearRow, kShifts>> needs(at(days));
  for (int who = 0; who < people; ++who) {
    std::vector<std::array<Index, kShifts>> x(at(days));
    LinearRow all;
    for (int d = 0; d < days; ++d) {
      LinearRow one;
      for (std::size_t s = 0; s < kShifts; ++s) {
        x[at(d)][s] = binary(p, random.chance(0.2) ? whole(random, 5, 20) : whole(random, 0, 3));
        one.entries.push_back({x[at(d)][s], 1.0});
        all.entries.push_back({x[at(d)][s], 1.0});
        needs[at(d)][s].entries.push_back({x[at(d)][s], 1.0});
      }
      p.add_row(at_most(one.entries, 1.0));
      if (d == 0) continue;
      p.add_row(at_most({{x[at(d - 1)][1], 1.0}, {x[at(d)][0], 1.0}}, 1.0));
      p.add_row(at_most({{x[at(d - 1)][2], 1.0}, {x[at(d)][0], 1.0}, {x[at(d)][1], 1.0}}, 1.0));
    }
    for (int d = 0; d + 6 <= days; ++d) {
      LinearRow window;
      for (int k = d; k < d + 6; ++k)
        for (const Index c : x[at(k)]) window.entries.push_back({c, 1.0});
      p.add_row(at_most(window.entries, 5.0));
    }
    for (int d = 5; d + 8 < days; d += 7)  // a day of this weekend or of the next one
      for (int k = 0; k < 2; ++k) {
        LinearRow rest;
        for (const int day : {d + k, d + 7 + k})
          for (const Index c : x[at(day)]) rest.entries.push_back({c, 1.0});
        p.add_row(at_most(rest.entries, 1.0));
      }
    all.lower = std::floor(0.6 * days);
    all.upper = std::ceil(0.7 * days);
    p.add_row(all);
  }
  for (int d = 0; d < days; ++d)
    for (std::size_t s = 0; s < kShifts; ++s) {
      const double share = (d % 7 >= 5 ? 0.11 : 0.17) + (s == 0 ? 0.05 : 0.0);
      p.add_row(at_least(needs[at(d)][s].entries, std::floor(share * people)));
    }
  return stepping(std::move(p));
}

/// Lessons in slots and rooms that are large enough; a teacher and a group once a slot. After
/// de Werra 1985, "An introduction to timetabling". A timetable is planted: one lesson after the
/// other takes the first slot and room that are free.
inline mip::Problem timetable(int lessons, int slots, int rooms, std::uint64_t seed) {
  Random random(seed);
  struct Lesson {
    int teacher, group, size, slot, room;
  };
  std::vector<Lesson> all;
  std::set<std::pair<int, int>> teaches, learns, used;
  for (int l = 0; l < lessons; ++l) {
    const int teacher = static_cast<int>(random.between(0, lessons / 12));
    const int group = static_cast<int>(random.between(0, lessons / 15));
    bool placed = false;
    for (int k = 0; k < slots * rooms && !placed; ++k) {
      const int slot = static_cast<int>(random.between(0, slots - 1));
      const int room = static_cast<int>(random.between(0, rooms - 1));
      if (teaches.contains({teacher, slot}) || learns.contains({group, slot}) ||
          used.contains({room, slot}))
        continue;
      teaches.insert({teacher, slot});
      learns.insert({group, slot});
      used.insert({room, slot});
      all.push_back({teacher, group, static_cast<int>(random.between(room / 2, room)), slot, room});
      placed = true;
    }
  }
  mip::Problem p;
  std::map<std::pair<int, int>, LinearRow> by_teacher, by_group, by_room;
  for (const Lesson& lesson : all) {
    LinearRow once;
    for (int s = 0; s < slots; ++s)
      for (int r = lesson.size; r < rooms; ++r) {
        const Index x = binary(p, whole(random, 0, 9) + r - lesson.size);
        once.entries.push_back({x, 1.0});
        by_teacher[{lesson.teacher, s}].entries.push_back({x, 1.0});
        by_group[{lesson.group, s}].entries.push_back({x, 1.0});
        by_room[{r, s}].entries.push_back({x, 1.0});
      }
    p.add_row(equal(once.entries, 1.0));
  }
  for (const auto* rows : {&by_teacher, &by_group, &by_room})
    for (const auto& [key, row] : *rows)
      if (row.entries.size() > 1) p.add_row(at_most(row.entries, 1.0));
  return stepping(std::move(p));
}

}  // namespace kiteknot::bench
