// Recipes of what is chosen and packed: knapsack, limits, cover, bins.

#include <algorithm>
#include <cmath>
#include <vector>

#include "study/made/recipes.hpp"

namespace kiteknot::made {

void knapsack(Recipe& r) {
  constexpr std::int64_t kRange = 1000;
  const std::int32_t n = r.size[0];
  const bool sums = r.variant == "sums" || r.planted();
  const std::string items = r.table("items", "item,mass,worth");
  std::int64_t all = 0, half = 0;
  for (std::int32_t i = 1; i <= n; ++i) {
    const std::int64_t mass = r.drawn(1, kRange);
    std::int64_t worth = r.drawn(1, kRange);
    if (r.variant == "near")
      worth = std::max<std::int64_t>(1, mass + r.drawn(-kRange / 10, kRange / 10));
    if (r.variant == "tight") worth = mass + kRange / 10;
    if (sums) worth = mass;
    all += mass;
    half += r.random.chance(0.5) ? mass : 0;
    r.row("item {},{},{}", i, mass, worth);
  }
  // Planted: some items fill the bag to the brim, and worth is mass.
  const std::int64_t room =
      r.planted() ? std::max<std::int64_t>(1, half) : std::max<std::int64_t>(1, all / 2);
  if (r.planted()) r.out.optimum = Rational(half);
  r.model(fmt::format(R"(# {} items drawn by seed {}, class {}.
model "Bag of {} items"

table items from "{}" key item

number room = {}

decide take[i in items] binary

maximize worth: total(i.worth * take[i] over i in items)

rule mass: total(i.mass * take[i] over i in items) <= room
)",
                      n, r.asked.seed, r.planted() ? "sums, planted" : r.variant, n, items, room));
}

void limits(Recipe& r) {
  const std::int32_t n = r.size[0], m = r.size[1];
  const double share = r.variant == "quarter" ? 0.25 : r.variant == "half" ? 0.5 : 0.75;
  std::vector<std::int64_t> total(static_cast<std::size_t>(m), 0),
      sums(static_cast<std::size_t>(n), 0);
  const std::string uses = r.table("uses", "item,limit,use");
  for (std::int32_t i = 0; i < n; ++i)
    for (std::int32_t k = 0; k < m; ++k) {
      const std::int64_t use = r.drawn(1, 1000);
      total[static_cast<std::size_t>(k)] += use;
      sums[static_cast<std::size_t>(i)] += use;
      r.row("item {},limit {},{}", i + 1, k + 1, use);
    }
  const std::string rooms = r.table("limits", "limit,room");
  for (std::int32_t k = 0; k < m; ++k)
    r.row(
        "limit {},{}", k + 1,
        static_cast<std::int64_t>(share * static_cast<double>(total[static_cast<std::size_t>(k)])));
  const std::string items = r.table("items", "item,worth");
  for (std::int32_t i = 0; i < n; ++i)
    r.row("item {},{}", i + 1, sums[static_cast<std::size_t>(i)] / m + r.drawn(0, 500));
  r.model(fmt::format(R"(# {0} items under {1} limits drawn by seed {2}, class {3}.
model "{0} items under {1} limits"

table items  from "{4}" key item
table limits from "{5}" key limit
table uses   from "{6}" key item in items, limit in limits

decide take[i in items] binary

maximize worth: total(i.worth * take[i] over i in items)

rule room[k in limits]: total(u.use * take[u.item] over u in uses where u.limit = k) <= k.room
)",
                      n, m, r.asked.seed, r.variant, items, rooms, uses));
}

// Planted: every need has a price; the planted sets part the needs and cost what their needs do,
// all others cost as much or more: the prices prove the planted plan best.
void cover(Recipe& r) {
  const std::int32_t needs = r.size[0], sets = r.size[1];
  const double share = r.variant == "10 %" ? 0.1 : r.variant == "5 %" ? 0.05 : 0.02;
  std::vector<std::int64_t> price(static_cast<std::size_t>(needs));
  for (auto& p : price) p = r.drawn(1, 20);
  const std::int32_t planted = r.planted() ? std::clamp(needs / 10, 1, sets) : 0;
  std::vector<std::vector<std::int32_t>> met(static_cast<std::size_t>(sets));
  for (std::int32_t i = 0; i < needs && planted > 0; ++i)
    met[static_cast<std::size_t>(r.drawn(0, planted - 1))].push_back(i);
  for (std::int32_t s = planted; s < sets; ++s) {
    auto& own = met[static_cast<std::size_t>(s)];
    for (std::int32_t i = 0; i < needs; ++i)
      if (r.random.chance(share)) own.push_back(i);
    if (own.empty()) own.push_back(static_cast<std::int32_t>(r.drawn(0, needs - 1)));
  }
  if (planted == 0)  // every need stands in two sets at least
    for (std::int32_t i = 0; i < needs; ++i)
      for (int twice = 0; twice < 2; ++twice) {
        auto& own = met[static_cast<std::size_t>(r.drawn(0, sets - 1))];
        if (std::ranges::find(own, i) == own.end()) own.push_back(i);
      }
  // Sets in an order that tells nothing.
  std::vector<std::int32_t> order(static_cast<std::size_t>(sets));
  for (std::int32_t s = 0; s < sets; ++s) order[static_cast<std::size_t>(s)] = s;
  r.shuffle(order);
  const std::string list = r.table("sets", "set,cost");
  std::int64_t optimum = 0;
  for (std::size_t k = 0; k < order.size(); ++k) {
    const std::int32_t s = order[k];
    std::int64_t cost = r.drawn(1, 100);
    if (planted > 0) {
      cost = s < planted ? 0 : r.drawn(0, 10);
      for (const std::int32_t i : met[static_cast<std::size_t>(s)])
        cost += price[static_cast<std::size_t>(i)];
      if (s < planted) optimum += cost;
    }
    r.row("set {},{}", k + 1, cost);
  }
  const std::string wants = r.table("needs", "need");
  for (std::int32_t i = 1; i <= needs; ++i) r.row("need {}", i);
  const std::string members = r.table("members", "set,need");
  for (std::size_t k = 0; k < order.size(); ++k) {
    auto own = met[static_cast<std::size_t>(order[k])];
    std::ranges::sort(own);
    for (const std::int32_t i : own) r.row("set {},need {}", k + 1, i + 1);
  }
  if (planted > 0) r.out.optimum = Rational(optimum);
  r.model(
      fmt::format(R"(# {0} needs and {1} sets drawn by seed {2}, {3}.
model "Cover of {0} needs"

table needs   from "{4}" key need
table sets    from "{5}" key set
table members from "{6}" key set in sets, need in needs

decide take[s in sets] binary

minimize cost: total(s.cost * take[s] over s in sets)

rule met[n in needs]: total(take[m.set] over m in members where m.need = n) >= 1
)",
                  needs, sets, r.asked.seed,
                  planted > 0 ? "planted" : "each set meets a need with a chance of " + r.variant,
                  wants, list, members));
}

// Planted: boxes of 1,000 filled by three items each, none of which fits with three others.
void bins(Recipe& r) {
  std::int32_t n = r.size[0];
  std::vector<std::int64_t> sizes;
  std::int64_t room = 150;
  if (r.planted()) {
    room = 1000;
    n = std::max(3, n / 3 * 3);
    for (std::int32_t k = 0; k < n / 3; ++k) {
      const std::int64_t large = r.drawn(380, 490), rest = room - large;
      const std::int64_t second = r.drawn(250, rest - 250);
      sizes.insert(sizes.end(), {large, second, rest - second});
    }
    r.shuffle(sizes);
    r.out.optimum = Rational(n / 3);
  } else {
    for (std::int32_t i = 0; i < n; ++i) sizes.push_back(r.drawn(20, 100));
  }
  const std::string items = r.table("items", "item,size");
  for (std::size_t i = 0; i < sizes.size(); ++i) r.row("item {},{}", i + 1, sizes[i]);
  // As many boxes as putting each item into the first one with room needs, largest first.
  std::vector<std::int64_t> sorted = sizes, left;
  std::ranges::sort(sorted, std::greater<>());
  for (const std::int64_t s : sorted) {
    const auto fits = std::ranges::find_if(left, [s](std::int64_t l) { return l >= s; });
    if (fits == left.end())
      left.push_back(room - s);
    else
      *fits -= s;
  }
  const std::string boxes = r.table("boxes", "box");
  for (std::size_t b = 1; b <= left.size(); ++b) r.row("box {}", b);
  r.model(fmt::format(R"(# {0} items drawn by seed {1}{2}.
model "Boxes for {0} items"

table items from "{3}" key item
table boxes from "{4}" key box
table ways  product of items, boxes

number room = {5}

decide put[w in ways] binary
decide used[b in boxes] binary

minimize boxes_used: total(used[b] over b in boxes)

rule once[i in items]: total(put[w] over w in ways where w.item = i) = 1
rule fits[b in boxes]: total(w.item.size * put[w] over w in ways where w.box = b) <= room * used[b]
)",
                      sizes.size(), r.asked.seed, r.planted() ? ", in threes that fill a box" : "",
                      items, boxes, room));
}

}  // namespace kiteknot::made
