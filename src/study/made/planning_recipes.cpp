// Recipes of who does what, where and when: assignment, facilities, staffing, lots, rosters, shops,
// tours and routes.

#include <algorithm>
#include <cmath>
#include <vector>

#include "study/made/recipes.hpp"

namespace kiteknot::made {

void assignment(Recipe& r) {
  const std::int32_t people = r.size[0], jobs = r.size[1];
  const std::string& c = r.variant;
  const auto n = static_cast<std::size_t>(people) * static_cast<std::size_t>(jobs);
  std::vector<std::int64_t> use(n), cost(n);
  const auto place = [&](std::int32_t p, std::int32_t j) {
    return static_cast<std::size_t>(p) * static_cast<std::size_t>(jobs) +
           static_cast<std::size_t>(j);
  };
  for (std::size_t k = 0; k < n; ++k) {
    if (c == "D") {
      use[k] = r.drawn(1, 100);
      cost[k] = std::max<std::int64_t>(1, 111 - use[k] + r.drawn(-10, 10));
    } else if (c == "E") {
      use[k] = static_cast<std::int64_t>(1.0 - 10.0 * std::log(1.0 - r.random.fraction()));
      cost[k] =
          std::max<std::int64_t>(1, static_cast<std::int64_t>(1000.0 / static_cast<double>(use[k]) -
                                                              10.0 * r.random.fraction()));
    } else {
      use[k] = r.drawn(5, 25);
      cost[k] = r.drawn(10, 50);
    }
  }
  // A: generous, from everybody's load where each job goes to its cheapest; B: 70 % of that; else
  // 80 % of what all jobs would take of each, shared out.
  double widest = 0.0;
  std::vector<double> load(static_cast<std::size_t>(people), 0.0);
  for (std::int32_t j = 0; j < jobs; ++j) {
    std::int32_t best = 0;
    for (std::int32_t p = 1; p < people; ++p)
      if (cost[place(p, j)] < cost[place(best, j)]) best = p;
    load[static_cast<std::size_t>(best)] += static_cast<double>(use[place(best, j)]);
  }
  for (const double l : load) widest = std::max(widest, l);
  const std::string list = r.table("people", "person,room");
  for (std::int32_t p = 0; p < people; ++p) {
    double room = 0.0;
    for (std::int32_t j = 0; j < jobs; ++j) room += static_cast<double>(use[place(p, j)]);
    room *= 0.8 / people;
    if (c == "A" || c == "B") room = 0.6 * 15.0 * jobs / people + 0.4 * widest;
    if (c == "B") room *= 0.7;
    r.row("person {},{}", p + 1, static_cast<std::int64_t>(room));
  }
  const std::string work = r.table("jobs", "job");
  for (std::int32_t j = 1; j <= jobs; ++j) r.row("job {}", j);
  const std::string pairs = r.table("pairs", "person,job,cost,use");
  for (std::int32_t p = 0; p < people; ++p)
    for (std::int32_t j = 0; j < jobs; ++j)
      r.row("person {},job {},{},{}", p + 1, j + 1, cost[place(p, j)], use[place(p, j)]);
  r.model(fmt::format(R"(# {0} jobs for {1} people drawn by seed {2}, class {3}.
model "{0} jobs for {1} people"

table people from "{4}" key person
table jobs   from "{5}" key job
table pairs  from "{6}" key person in people, job in jobs

decide does[b in pairs] binary

minimize cost: total(b.cost * does[b] over b in pairs)

rule once[j in jobs]:   total(does[b] over b in pairs where b.job = j) = 1
rule room[p in people]: total(b.use * does[b] over b in pairs where b.person = p) <= p.room
)",
                      jobs, people, r.asked.seed, c, list, work, pairs));
}

void facilities(Recipe& r) {
  const std::int32_t depots = r.size[0], fields = r.size[1];
  const double times = r.variant == "3 times" ? 3.0 : r.variant == "5 times" ? 5.0 : 10.0;
  struct Place {
    double x, y, amount;
  };
  std::vector<Place> d, f;
  double needs = 0.0, rooms = 0.0;
  for (std::int32_t k = 0; k < fields; ++k) {
    f.push_back({r.random.fraction(), r.random.fraction(), static_cast<double>(r.drawn(5, 35))});
    needs += f.back().amount;
  }
  for (std::int32_t k = 0; k < depots; ++k) {
    d.push_back({r.random.fraction(), r.random.fraction(), static_cast<double>(r.drawn(10, 160))});
    rooms += d.back().amount;
  }
  const std::string list = r.table("depots", "depot,x,y,rent,room");
  for (std::int32_t k = 0; k < depots; ++k) {
    Place& p = d[static_cast<std::size_t>(k)];
    const double rent = static_cast<double>(r.drawn(0, 90)) +
                        static_cast<double>(r.drawn(100, 110)) * std::sqrt(p.amount);
    p.amount = std::max(1.0, std::round(p.amount * times * needs / rooms));
    r.row("depot {},{:.3f},{:.3f},{:.0f},{:.0f}", k + 1, p.x, p.y, rent, p.amount);
  }
  const std::string where = r.table("fields", "field,x,y,need");
  for (std::int32_t k = 0; k < fields; ++k) {
    const Place& p = f[static_cast<std::size_t>(k)];
    r.row("field {},{:.3f},{:.3f},{:.0f}", k + 1, p.x, p.y, p.amount);
  }
  const std::string lanes = r.table("lanes", "depot,field,rate");
  for (std::int32_t k = 0; k < depots; ++k)
    for (std::int32_t l = 0; l < fields; ++l) {
      const Place &a = d[static_cast<std::size_t>(k)], &b = f[static_cast<std::size_t>(l)];
      r.row("depot {},field {},{:.2f}", k + 1, l + 1, 10.0 * std::hypot(a.x - b.x, a.y - b.y));
    }
  r.model(fmt::format(
      R"(# {0} depots and {1} fields drawn by seed {2}; together depots have {3} what is needed.
model "{0} depots for {1} fields"

table depots from "{4}" key depot
table fields from "{5}" key field
table lanes  from "{6}" key depot in depots, field in fields

decide open[d in depots] binary
decide ship[l in lanes]  real 0 .. l.field.need

minimize cost: total(d.rent * open[d] over d in depots) + total(l.rate * ship[l] over l in lanes)

rule need[f in fields]:      total(ship[l] over l in lanes where l.field = f) = f.need
rule capacity[d in depots]:  total(ship[l] over l in lanes where l.depot = d) <= d.room * open[d]
rule link[l in lanes]:       ship[l] <= l.field.need * open[l.depot]
)",
      depots, fields, r.asked.seed, r.variant, list, where, lanes));
}

void staffing(Recipe& r) {
  const std::int32_t hours = r.size[0], patterns = r.size[1];
  const std::string day = r.table("hours", "hour,need");
  for (std::int32_t h = 0; h < hours; ++h) {
    // Two tides in a day, and chance.
    const double tide = 7.0 + 4.0 * std::sin(4.0 * 3.14159265 * h / hours);
    r.row("hour {},{:.0f}", h + 1, std::max(1.0, tide + static_cast<double>(r.drawn(-2, 2))));
  }
  const auto length = [&] { return std::min<std::int64_t>(hours, r.drawn(4, 9)); };
  struct Pattern {
    std::int64_t from, length, pause;
  };
  std::vector<Pattern> all;
  for (std::int32_t p = 0; p < patterns; ++p) {
    const std::int64_t l = length();
    // The first ones go round the day, so that every hour is covered by some.
    all.push_back({p < hours ? p : r.drawn(0, hours - 1), l, l >= 6 ? r.drawn(2, l - 3) : -1});
  }
  const std::string list = r.table("patterns", "pattern,pay");
  for (std::size_t p = 0; p < all.size(); ++p)
    r.row("pattern {},{}", p + 1,
          12 * (all[p].length - (all[p].pause >= 0 ? 1 : 0)) + r.drawn(8, 30));
  const std::string covers = r.table("covers", "pattern,hour");
  for (std::size_t p = 0; p < all.size(); ++p)
    for (std::int64_t k = 0; k < all[p].length; ++k)
      if (k != all[p].pause) r.row("pattern {},hour {}", p + 1, (all[p].from + k) % hours + 1);
  r.model(fmt::format(R"(# {0} patterns over {1} hours drawn by seed {2}.
model "Staff for {1} hours"

table hours    from "{3}" key hour
table patterns from "{4}" key pattern
table covers   from "{5}" key pattern in patterns, hour in hours

decide hire[p in patterns] integer 0 .. 20

minimize pay: total(p.pay * hire[p] over p in patterns)

rule watched[h in hours]: total(hire[c.pattern] over c in covers where c.hour = h) >= h.need
)",
                      patterns, hours, r.asked.seed, day, list, covers));
}

void lots(Recipe& r) {
  const std::int32_t items = r.size[0], weeks = r.size[1];
  const std::string list = r.table("items", "item,set_up_cost,set_up_time,hold");
  double set_ups = 0.0;
  for (std::int32_t i = 1; i <= items; ++i) {
    const std::int64_t time = r.drawn(10, 50);
    set_ups += static_cast<double>(time);
    r.row("item {},{},{},{}", i, r.drawn(200, 800), time, r.drawn(1, 5));
  }
  const std::string when = r.table("weeks", "week");
  for (std::int32_t w = 1; w <= weeks; ++w) r.row("week {}", w);
  const std::string needs = r.table("needs", "item,week,need");
  double all = 0.0;
  for (std::int32_t i = 1; i <= items; ++i)
    for (std::int32_t w = 1; w <= weeks; ++w) {
      // In the first weeks some need nothing: else stock could not be built.
      const std::int64_t need = w <= 2 && r.random.chance(0.5) ? 0 : r.drawn(50, 150);
      all += static_cast<double>(need);
      r.row("item {},week {},{}", i, w, need);
    }
  const double share = r.variant == "short" ? 0.95 : 0.75;
  const double room = (all / weeks + 0.5 * set_ups) / share + set_ups * 0.5;
  r.model(fmt::format(R"(# {0} items over {1} weeks drawn by seed {2}, capacity {3}.
model "Lots of {0} items"

table items from "{4}" key item
table weeks from "{5}" key week ordered
table needs from "{6}" key item in items, week in weeks

number hours = {7:.0f}      # of the machine in a week
number extra = 50           # what an hour more costs

decide make[n in needs]  real 0 .. 100000
decide keep[n in needs]  real 0 .. 100000
decide setup[n in needs] binary
decide more[w in weeks]  real 0 .. 100000

minimize cost: total(n.item.set_up_cost * setup[n] + n.item.hold * keep[n] over n in needs)
             + total(extra * more[w] over w in weeks)

rule stock[n in needs]:
     (if first(n.week) then 0 else keep[n.item, before(n.week)]) + make[n] = n.need + keep[n]
rule link[n in needs]:     make[n] <= hours * setup[n]
rule machine[w in weeks]:
     total(make[n] + n.item.set_up_time * setup[n] over n in needs where n.week = w) <= hours + more[w]
)",
                      items, weeks, r.asked.seed, r.variant, list, when, needs, room));
}

void roster(Recipe& r) {
  const std::int32_t people = r.size[0], days = r.size[1];
  const std::string list = r.table("people", "person,least,most");
  const std::int32_t week = std::max(1, days * 5 / 7);
  for (std::int32_t p = 1; p <= people; ++p) r.row("person {},{},{}", p, week * 6 / 10, week);
  const std::string when = r.table("days", "day");
  for (std::int32_t d = 1; d <= days; ++d) r.row("day {}", d);
  const std::string shifts = r.table("shifts", "shift,need");
  const std::int32_t in_all = std::max(1, people * 6 / 10);
  const std::int32_t early = std::max(1, in_all / 2), night = std::max(0, in_all / 5);
  r.row("early,{}", early);
  r.row("late,{}", std::max(0, in_all - early - night));
  r.row("night,{}", night);
  const std::string turns = r.table("turns", "person,day,shift,dislike");
  for (std::int32_t p = 1; p <= people; ++p)
    for (std::int32_t d = 1; d <= days; ++d)
      for (const char* s : {"early", "late", "night"})
        r.row("person {},day {},{},{}", p, d, s,
              r.random.chance(0.2) ? r.drawn(5, 15) : r.drawn(0, 3));
  r.model(fmt::format(R"(# {0} people over {1} days drawn by seed {2}.
model "Roster of {0} people"

table people from "{3}" key person
table days   from "{4}" key day ordered
table shifts from "{5}" key shift
table turns  from "{6}" key person in people, day in days, shift in shifts

table spells product of people, days
table posts  product of days, shifts

decide works[t in turns] binary

minimize dislike: total(t.dislike * works[t] over t in turns)

rule staffed[q in posts]: total(works[t] over t in turns where t.day = q.day and t.shift = q.shift) >= q.shift.need
rule one[q in spells]:    total(works[t] over t in turns where t.person = q.person and t.day = q.day) <= 1
rule share[p in people]:  p.least <= total(works[t] over t in turns where t.person = p) <= p.most
# After a night no early shift.
rule rest[q in spells where not last(q.day)]:
     works[q.person, q.day, "night"] + works[q.person, after(q.day), "early"] <= 1
)",
                      people, days, r.asked.seed, list, when, shifts, turns));
}

void shop(Recipe& r) {
  const std::int32_t jobs = r.size[0], machines = r.size[1];
  const std::string steps = r.table("steps", "step,job,machine,minutes");
  std::int64_t all = 0;
  for (std::int32_t j = 1; j <= jobs; ++j) {
    std::vector<std::int32_t> order(static_cast<std::size_t>(machines));
    for (std::int32_t m = 0; m < machines; ++m) order[static_cast<std::size_t>(m)] = m + 1;
    r.shuffle(order);
    for (std::size_t k = 0; k < order.size(); ++k) {
      const std::int64_t minutes = r.drawn(1, 99);
      all += minutes;
      r.row("job {} step {},job {},machine {},{}", j, k + 1, j, order[k], minutes);
    }
  }
  r.model(fmt::format(R"(# {0} jobs over {1} machines drawn by seed {2}.
model "{0} jobs over {1} machines"

table steps from "{3}" key step

table along pairs of steps where a.job = b.job             # in the order of the table
table apart pairs of steps where a.machine = b.machine

decide start[s in steps] integer 0 .. {4}
decide ready integer 0 .. {4}

minimize ready_at: ready

rule ends[s in steps]:  ready >= start[s] + s.minutes
rule order[p in along]: start[p.b] >= start[p.a] + p.a.minutes
rule one[p in apart]:   start[p.a] + p.a.minutes <= start[p.b] or start[p.b] + p.b.minutes <= start[p.a]
)",
                      jobs, machines, r.asked.seed, steps, all));
}

namespace {

// In a square of 10,000, even or in heaps.
std::vector<std::pair<std::int64_t, std::int64_t>> spots(Recipe& r, std::int32_t n) {
  constexpr std::int64_t kWide = 10'000;
  std::vector<std::pair<std::int64_t, std::int64_t>> all, heaps;
  for (std::int32_t k = 0; k < std::max(1, n / 20); ++k)
    heaps.emplace_back(r.drawn(0, kWide), r.drawn(0, kWide));
  for (std::int32_t k = 0; k < n; ++k) {
    if (r.variant != "in heaps") {
      all.emplace_back(r.drawn(0, kWide), r.drawn(0, kWide));
      continue;
    }
    const auto& [x, y] =
        heaps[static_cast<std::size_t>(r.drawn(0, static_cast<std::int64_t>(heaps.size()) - 1))];
    const auto near = [&](std::int64_t at) {
      std::int64_t off = 0;  // the sum of some even draws is nearly normal
      for (int t = 0; t < 4; ++t) off += r.drawn(-250, 250);
      return std::clamp<std::int64_t>(at + off, 0, kWide);
    };
    all.emplace_back(near(x), near(y));
  }
  return all;
}

}  // namespace

void tour(Recipe& r) {
  r.out.files.emplace_back(r.name + ".csv", "name,x,y\n");
  std::int32_t k = 0;
  for (const auto& [x, y] : spots(r, r.size[0])) r.row("stop {},{},{}", ++k, x, y);
}

void routes(Recipe& r) {
  r.out.files.emplace_back(r.name + ".csv", "name,x,y,load\n");
  std::int32_t k = 0;
  for (const auto& [x, y] : spots(r, r.size[0])) {
    r.row("stop {},{},{},{}", k + 1, x, y, k == 0 ? 0 : r.drawn(3, 36));
    ++k;
  }
}

}  // namespace kiteknot::made
