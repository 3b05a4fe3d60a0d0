// Tour rules of models against all trips that can be listed: directed links with missing ones,
// stops that may be left out, several trips with loads, orders; what check says of any plan, and
// what solve proves.

#include <algorithm>
#include <map>
#include <numeric>
#include <set>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "structures/tours/cuts/trips.hpp"

using namespace kiteknot;

namespace {

using Choice = std::vector<int>;  // legs, then visits

struct Case {
  int stops = 0;
  bool directed = false, twice = false, visiting = false, several = false, loads = false;
  int gate = -1, most = 0, capacity = 0;
  std::vector<std::pair<int, int>> links;  // by legs
  std::vector<int> load;
  std::vector<std::pair<int, int>> ahead;
};

// All choices that the rule allows, listed from trips and never looked at through the library.
class Lister {
 public:
  explicit Lister(const Case& c) : c_(c) {}
  std::set<Choice> run() {
    const int all = (1 << c_.stops) - 1;
    for (int set = 0; set <= all; ++set) {
      if (!c_.visiting && set != all) continue;
      if (c_.gate >= 0 && (set & (1 << c_.gate)) == 0) continue;
      visited_ = set;
      std::vector<int> members;
      for (int s = 0; s < c_.stops; ++s)
        if ((set & (1 << s)) != 0 && (!c_.several || s != c_.gate)) members.push_back(s);
      do {
        if (c_.several)
          split(members, 0, {});
        else
          add({members});
      } while (std::next_permutation(members.begin(), members.end()));
    }
    return std::move(found_);
  }

 private:
  void split(const std::vector<int>& order, std::size_t from, std::vector<std::vector<int>> trips) {
    if (from == order.size()) return add(trips);
    for (std::size_t to = from + 1; to <= order.size(); ++to) {
      std::vector<std::vector<int>> more = trips;
      more.push_back({c_.gate});
      more.back().insert(more.back().end(), order.begin() + static_cast<std::ptrdiff_t>(from),
                         order.begin() + static_cast<std::ptrdiff_t>(to));
      split(order, to, std::move(more));
    }
  }

  void add(const std::vector<std::vector<int>>& trips) {
    Choice choice(c_.links.size() + static_cast<std::size_t>(c_.visiting ? c_.stops : 0), 0);
    if (c_.several && static_cast<int>(trips.size()) > c_.most) return;
    for (const auto& trip : trips) {
      int load = 0;
      for (const int s : trip)
        load += c_.loads && s != c_.gate ? c_.load[static_cast<std::size_t>(s)] : 0;
      if (c_.loads && load > c_.capacity) return;
      if (trip.size() < 2) continue;
      for (std::size_t k = 0; k < trip.size(); ++k) {
        const int a = trip[k], b = trip[k + 1 == trip.size() ? 0 : k + 1];
        const auto it = std::find_if(c_.links.begin(), c_.links.end(), [&](const auto& l) {
          return l == std::pair(a, b) || (!c_.directed && l == std::pair(b, a));
        });
        if (it == c_.links.end()) return;
        if (++choice[static_cast<std::size_t>(it - c_.links.begin())] > (c_.twice ? 2 : 1)) return;
      }
      if (!in_order(trip)) return;
    }
    for (int s = 0; c_.visiting && s < c_.stops; ++s)
      choice[c_.links.size() + static_cast<std::size_t>(s)] = (visited_ >> s) & 1;
    found_.insert(std::move(choice));
  }

  bool in_order(std::vector<int> trip) const {
    if (c_.ahead.empty()) return true;
    std::rotate(trip.begin(), std::find(trip.begin(), trip.end(), std::max(c_.gate, 0)),
                trip.end());
    return std::all_of(c_.ahead.begin(), c_.ahead.end(), [&](const auto& pair) {
      const auto a = std::find(trip.begin(), trip.end(), pair.first);
      const auto b = std::find(trip.begin(), trip.end(), pair.second);
      return a == trip.end() || b == trip.end() || a < b;
    });
  }

  const Case& c_;
  int visited_ = 0;
  std::set<Choice> found_;
};

Case random_case(Random& random) {
  Case c;
  c.directed = random.chance(0.5);
  c.several = random.chance(0.4);
  c.visiting = random.chance(0.5);
  c.stops = static_cast<int>(random.between(c.several ? 1 : 0, c.several ? 5 : 6));
  if (c.stops == 0) c.stops = 1;
  // A few of seven and eight: all orders of these take their time.
  if (!c.several && !c.visiting && random.chance(0.02))
    c.stops = static_cast<int>(random.between(7, 8));
  c.twice = !c.directed && random.chance(0.7);
  if (c.several || random.chance(0.5)) c.gate = static_cast<int>(random.between(0, c.stops - 1));
  if (c.several) {
    c.most = static_cast<int>(random.between(0, 3));
    c.loads = random.chance(0.8);
    c.capacity = static_cast<int>(random.between(3, 14));
  }
  for (int s = 0; s < c.stops; ++s) c.load.push_back(static_cast<int>(random.between(0, 7)));
  const double there = random.chance(0.5) ? 1.0 : 0.75;
  for (int a = 0; a < c.stops; ++a)
    for (int b = 0; b < c.stops; ++b)
      if (c.directed ? a != b : a < b)
        if (random.chance(there)) c.links.emplace_back(a, b);
  const bool orders = !c.several && c.stops > 2 && (c.directed || c.gate >= 0) &&
                      (c.gate >= 0 || !c.visiting) && random.chance(0.5);
  for (auto k = orders ? random.between(1, 3) : 0; k > 0; --k) {
    const auto pick = [&] { return static_cast<int>(random.between(0, c.stops - 1)); };
    const std::pair pair(pick(), pick());
    if (pair.first != pair.second && pair.second != std::max(c.gate, 0)) c.ahead.push_back(pair);
  }
  return c;
}

struct Stated {
  Model model{"round"};
  Table stops, legs;
  std::vector<Decision> decisions;  // legs, then visits
};

Stated state(const Case& c) {
  std::string stops = "stop,load\n", legs = c.directed ? "from,to\n" : "";
  for (int s = 0; s < c.stops; ++s)
    stops += fmt::format("S{},{}\n", s, c.load[static_cast<std::size_t>(s)]);
  TableOptions key;
  key.key = {{"stop"}};
  Table table = Table::parse("stops", stops, key);
  const auto has = [&](int a, int b) {
    return std::find(c.links.begin(), c.links.end(), std::pair(a, b)) != c.links.end();
  };
  for (const auto& [a, b] : c.links) legs += fmt::format("S{},S{}\n", a, b);
  TableOptions two;
  two.key = {{"from", table}, {"to", table}};
  Table pairs = c.directed ? Table::parse("links", legs, two)
                           : Table::pairs("legs", table,
                                          [&](Row a, Row b) { return has(a.index(), b.index()); });
  Stated s{Model{"round"}, table, pairs, {}};
  const Decisions go =
      c.twice ? s.model.integer("go", pairs, between(0, 2)) : s.model.binary("go", pairs);
  for (std::int32_t i = 0; i < go.size(); ++i) s.decisions.push_back(go.member(i));
  TourTerms terms;
  const auto row = [&](int stop) { return table[fmt::format("S{}", stop)]; };
  if (c.visiting) {
    const Decisions visit = s.model.binary("visit", table);
    for (std::int32_t i = 0; i < visit.size(); ++i) s.decisions.push_back(visit.member(i));
    terms.visiting = visit;
  }
  if (c.gate >= 0) terms.from = row(c.gate);
  if (c.several) terms.at_most = Expression(c.most);
  if (c.loads) {
    terms.carrying = table.numbers("load");
    terms.capacity = Expression(c.capacity);
  }
  for (const auto& [a, b] : c.ahead) terms.ahead.emplace_back(row(a), row(b));
  s.model.tour("loop", go, table, terms);
  return s;
}

Plan plan_of(const Stated& s, const Choice& choice) {
  Plan plan(s.model);
  for (std::size_t k = 0; k < choice.size(); ++k) plan.set(s.decisions[k], choice[k]);
  return plan;
}

}  // namespace

TEST_CASE("a tour rule allows the plans that can be listed, and no others", "[tours]") {
  Random random(14);
  int allowed = 0, refused = 0;
  for (int round = 0; round < 1500; ++round) {
    const Case c = random_case(random);
    const std::set<Choice> all = Lister(c).run();
    const Stated s = state(c);
    for (int look = 0; look < 12; ++look) {
      Choice choice(s.decisions.size(), 0);
      if (!all.empty() && random.chance(0.8)) {  // one of them, perhaps with something changed
        auto it = all.begin();
        std::advance(it, random.between(0, static_cast<std::int64_t>(all.size()) - 1));
        choice = *it;
      }
      for (auto k = random.between(0, 2); k > 0 && !choice.empty(); --k) {
        const auto at = static_cast<std::size_t>(
            random.between(0, static_cast<std::int64_t>(choice.size()) - 1));
        choice[at] = static_cast<int>(random.between(0, c.twice && at < c.links.size() ? 2 : 1));
      }
      const bool good = all.contains(choice);
      ++(good ? allowed : refused);
      CAPTURE(round, look, choice);
      CHECK(check(s.model, plan_of(s, choice)).feasible == good);
    }
  }
  CHECK(allowed > 3000);
  CHECK(refused > 3000);
}

TEST_CASE("the best plan under a tour rule is the best of all that can be listed", "[tours]") {
  Random random(41);
  int solved = 0, without = 0;
  for (int round = 0; round < 2500; ++round) {
    const Case c = random_case(random);
    std::set<Choice> all = Lister(c).run();
    Stated s = state(c);
    std::vector<int> cost;
    Expression goal, weight;
    std::vector<int> heavy;
    for (std::size_t k = 0; k < s.decisions.size(); ++k) {
      const bool leg = k < c.links.size();
      cost.push_back(static_cast<int>(leg ? random.between(1, 30) : random.between(-40, 5)));
      heavy.push_back(static_cast<int>(random.between(0, 5)));
      goal += cost.back() * Expression(s.decisions[k]);
      weight += heavy.back() * Expression(s.decisions[k]);
    }
    s.model.minimize("cost", goal);
    const bool limited = random.chance(0.4);
    const int most = static_cast<int>(random.between(2, 20));
    if (limited) s.model.rule("weight", weight <= most);
    std::optional<int> best;
    for (const Choice& choice : all) {
      const int total = std::inner_product(choice.begin(), choice.end(), heavy.begin(), 0);
      if (limited && total > most) continue;
      const int value = std::inner_product(choice.begin(), choice.end(), cost.begin(), 0);
      if (!best || value < *best) best = value;
    }
    const Result r = solve(s.model);
    CAPTURE(round, c.stops, c.directed, c.twice, c.visiting, c.several, c.loads, c.gate,
            c.ahead.size());
    if (!best) {
      CHECK(r.outcome == Outcome::infeasible);
      ++without;
      continue;
    }
    ++solved;
    CHECK(r.outcome == Outcome::optimal);
    REQUIRE(r.goals[0].value);
    CHECK(*r.goals[0].value == Rational(*best));
    CHECK(r.report->exact);
    const Result relaxed = solve_relaxed(s.model);
    REQUIRE(relaxed.goals[0].bound);
    CHECK(*relaxed.goals[0].bound <= *best + 1e-6);
    Model off = s.model;  // nothing but the weight is left
    off.without("loop");
    const Result loose = solve(off);
    CHECK(*loose.goals[0].value <= Rational(*best));
    off.with("loop");
    CHECK(*solve(off).goals[0].value == Rational(*best));
  }
  CHECK(solved > 1000);
  CHECK(without > 200);
}

namespace {

namespace tours = structures::tours;

tours::Trips trips_of(const Case& c) {
  tours::Trips t;
  t.stops = c.stops;
  t.directed = c.directed;
  for (const auto& [a, b] : c.links) t.legs.push_back({a, b});
  if (c.visiting) t.optional.assign(static_cast<std::size_t>(c.stops), 1);
  t.gate = c.gate < 0 && !c.ahead.empty() ? 0 : c.gate;
  t.several = c.several;
  if (c.loads) {
    for (int s = 0; s < c.stops; ++s)
      t.load.push_back(s == c.gate ? 0 : std::min(c.load[static_cast<std::size_t>(s)], c.capacity));
    t.capacity = c.capacity;
  }
  for (const auto& [a, b] : c.ahead)
    if (a != t.gate) t.ahead.emplace_back(a, b);  // nothing to ask
  return t;
}

// As many legs at every stop as its visits ask for.
bool has_degrees(const Case& c, const Choice& choice) {
  std::vector<int> out(static_cast<std::size_t>(c.stops), 0), in(out);
  for (std::size_t k = 0; k < c.links.size(); ++k) {
    out[static_cast<std::size_t>(c.links[k].first)] += choice[k];
    (c.directed ? in : out)[static_cast<std::size_t>(c.links[k].second)] += choice[k];
  }
  for (int s = 0; s < c.stops; ++s) {
    const auto at = static_cast<std::size_t>(s);
    const int visits = c.visiting && s != c.gate ? choice[c.links.size() + at] : 1;
    if (c.visiting && s == c.gate && choice[c.links.size() + at] == 0) return false;
    if (c.several && s == c.gate) {
      if (c.directed ? out[at] != in[at] || out[at] > c.most : out[at] > 2 * c.most) return false;
    } else if (out[at] != (c.directed ? visits : 2 * visits) || (c.directed && in[at] != visits)) {
      return false;
    }
  }
  return true;
}

}  // namespace

TEST_CASE("rows by sets of stops hold for all trips, and some row for no others", "[tours]") {
  Random random(7);
  int cut_off = 0, rows_seen = 0;
  for (int round = 0; round < 4000; ++round) {
    Case c = random_case(random);
    if (!c.directed) c.ahead.clear();  // told of links only
    const std::set<Choice> all = Lister(c).run();
    const bool too_heavy =
        c.loads && std::any_of(c.load.begin(), c.load.end(), [&](int l) { return l > c.capacity; });
    if (c.stops < 2 || too_heavy) continue;
    tours::TripSeparation separation(trips_of(c));
    std::vector<double> x(c.links.size()), y(static_cast<std::size_t>(c.stops), 1.0);
    const auto fill = [&](const Choice& choice) {
      for (std::size_t k = 0; k < x.size(); ++k) x[k] = choice[k];
      for (std::size_t s = 0; c.visiting && s < y.size(); ++s) y[s] = choice[x.size() + s];
    };
    const auto value = [&](const tours::TripRow& row, const Choice& choice) {
      std::int64_t sum = 0;
      for (const auto& [k, times] : row.legs) sum += times * choice[static_cast<std::size_t>(k)];
      for (const auto& [s, times] : row.visits)
        sum += times * choice[x.size() + static_cast<std::size_t>(s)];
      return sum;
    };
    const auto broken_by_a_trip = [&](const std::vector<tours::TripRow>& rows) {
      rows_seen += static_cast<int>(rows.size());
      return std::any_of(rows.begin(), rows.end(), [&](const tours::TripRow& row) {
        return std::any_of(all.begin(), all.end(),
                           [&](const Choice& choice) { return value(row, choice) < row.at_least; });
      });
    };
    for (int look = 0; look < 6; ++look) {  // whatever the point is
      for (double& v : x) v = random.chance(0.5) ? 0.0 : random.fraction();
      for (double& v : y) v = c.visiting ? random.fraction() : 1.0;
      if (c.gate >= 0) y[static_cast<std::size_t>(c.gate)] = 1.0;
      CHECK_FALSE(broken_by_a_trip(separation.look(x, y, false, 100)));
    }
    const std::size_t size = x.size() + (c.visiting ? y.size() : 0);
    if (size > 10) continue;
    int left = 20;
    for (int bits = 0; bits < (1 << size) && left > 0; ++bits) {
      Choice choice;
      for (std::size_t k = 0; k < size; ++k) choice.push_back((bits >> k) & 1);
      if (all.contains(choice) || !has_degrees(c, choice)) continue;
      fill(choice);
      const std::vector<tours::TripRow> rows = separation.look(x, y, true, 100);
      CAPTURE(round, choice, c.directed, c.several, c.loads, c.gate);
      REQUIRE(std::any_of(rows.begin(), rows.end(),
                          [&](const auto& row) { return value(row, choice) < row.at_least; }));
      CHECK_FALSE(broken_by_a_trip(rows));
      ++cut_off;
      --left;
    }
  }
  CHECK(cut_off > 300);
  CHECK(rows_seen > 5000);
}
