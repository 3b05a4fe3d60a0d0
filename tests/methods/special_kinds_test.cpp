// Kinds are found exactly: what is one has its ways, what nearly is one has not; their plans are
// plans, and the search takes them for a start.
#include <set>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "support/folder.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

namespace {

std::string cover(const std::string& limit = ">= 1", const std::string& kind = "binary",
                  const std::string& more = "") {
  return R"(model "Cover"
table sets key set rows
  set, cost
  a, 3
  b, 2
  c, 4
table needs key need rows
  need
  x
  y
table members key set in sets, need in needs rows
  set, need
  a, x
  b, y
  c, x
  c, y
decide take[s in sets] )" +
         kind + R"(
minimize cost: total(s.cost * take[s] over s in sets)
rule met[n in needs]: total(take[m.set] over m in members where m.need = n) )" +
         limit + "\n" + more;
}

std::string boxes(const std::string& first_size = "4", const std::string& more = "") {
  return R"(model "Boxes"
table items key item rows
  item, size
  a, )" + first_size +
         R"(
  b, 6
  c, 5
table boxes key box rows
  box
  1
  2
  3
table ways product of items, boxes
decide put[w in ways] binary
decide used[b in boxes] binary
minimize n: total(used[b] over b in boxes)
rule once[i in items]: total(put[w] over w in ways where w.item = i) = 1
rule fits[b in boxes]: total(w.item.size * put[w] over w in ways where w.box = b) <= 10 * used[b]
)" + more;
}

std::string places(const std::string& link = "ship[l] <= l.field.need * open[l.depot]",
                   const std::string& more = "") {
  return R"(model "Places"
table depots key depot rows
  depot, rent
  n, 8
  s, 5
table fields key field rows
  field, need
  1, 3
  2, 2
table lanes key depot in depots, field in fields rows
  depot, field, rate
  n, 1, 1
  n, 2, 4
  s, 1, 5
  s, 2, 1
decide open[d in depots] binary
decide ship[l in lanes] real 0 .. 10
minimize cost: total(d.rent * open[d] over d in depots) + total(l.rate * ship[l] over l in lanes)
rule need[f in fields]: total(ship[l] over l in lanes where l.field = f) = f.need
rule link[l in lanes]: )" +
         link + "\n" + more;
}

std::string rooms(const std::string& once = "= 1", const std::string& more = "") {
  return R"(model "Jobs"
table people key person rows
  person, room
  p, 5
  q, 6
table jobs key job rows
  job
  1
  2
  3
table pairs key person in people, job in jobs rows
  person, job, cost, use
  p, 1, 4, 3
  p, 2, 2, 4
  p, 3, 5, 2
  q, 1, 3, 2
  q, 2, 6, 3
  q, 3, 1, 4
decide does[b in pairs] binary
minimize cost: total(b.cost * does[b] over b in pairs)
rule once[j in jobs]: total(does[b] over b in pairs where b.job = j) )" +
         once + R"(
rule room[p in people]: total(b.use * does[b] over b in pairs where b.person = p) <= p.room
)" + more;
}

std::string sacks(const std::string& once = "<= 1", const std::string& more = "") {
  return R"(model "Sacks"
table things key thing rows
  thing, worth, weight
  a, 6, 4
  b, 5, 3
  c, 4, 3
  d, 3, 2
table vans key van rows
  van, room
  1, 5
  2, 6
table ways product of things, vans
decide put[w in ways] binary
maximize worth: total(w.thing.worth * put[w] over w in ways)
rule once[t in things]: total(put[w] over w in ways where w.thing = t) )" +
         once + R"(
rule fits[v in vans]: total(w.thing.weight * put[w] over w in ways where w.van = v) <= v.room
)" + more;
}

std::string choices(const std::string& once = "= 1", const std::string& limit = "<= 9",
                    const std::string& more = "") {
  return R"(model "Kits"
table parts key part rows
  part
  sail
  line
  tail
table offers key part in parts, offer rows
  part, offer, worth, price
  sail, plain, 3, 2
  sail, silk, 7, 5
  line, thin, 2, 1
  line, strong, 5, 4
  tail, short, 1, 1
  tail, long, 4, 3
decide buy[o in offers] binary
maximize worth: total(o.worth * buy[o] over o in offers)
rule one[p in parts]: total(buy[o] over o in offers where o.part = p) )" +
         once + R"(
rule money: total(o.price * buy[o] over o in offers) )" +
         limit + "\n" + more;
}

std::string pairs(const std::string& once = "= 1", const std::string& last = "c, d, 6",
                  const std::string& more = "") {
  return R"(model "Doubles"
table pilots key pilot rows
  pilot
  a
  b
  c
  d
table teams key one in pilots, two in pilots rows
  one, two, strain
  a, b, 2
  a, c, 5
  b, c, 3
  a, d, 4
  )" + last +
         R"(
decide fly[t in teams] binary
minimize strain: total(t.strain * fly[t] over t in teams)
rule each[p in pilots]: total(fly[t] over t in teams where t.one = p or t.two = p) )" +
         once + "\n" + more;
}

std::string tree(const std::string& most = "3", const std::string& flows = "real 0 .. 3",
                 const std::string& more = "") {
  return R"(model "Cables"
table posts key post rows
  post, needs
  n, 1
  e, 1
  s, 1
table cables key cable rows
  cable, cost
  hn, 4
  he, 7
  ne, 2
  es, 3
  ns, 6
table runs key run rows
  run, cable, from, to
  1, hn, h, n
  2, he, h, e
  3, ne, n, e
  4, ne, e, n
  5, es, e, s
  6, es, s, e
  7, ns, n, s
  8, ns, s, n
decide lay[c in cables] binary
decide flow[r in runs] )" +
         flows + R"(
minimize cost: total(c.cost * lay[c] over c in cables)
rule stays[p in posts]: total(flow[r] over r in runs where r.to = p.post) - total(flow[r] over r in runs where r.from = p.post) = p.needs
rule paid[c in cables]: total(flow[r] over r in runs where r.cable = c.cable) <= )" +
         most + " * lay[c]\n" + more;
}

std::string cut(const std::string& tie = ">= side[t.one] - side[t.two]",
                const std::string& more = "") {
  return R"(model "Fields"
table spots key spot rows
  spot, gain
  a, 5
  b, -3
  c, 2
  d, -4
table ties key one in spots, two in spots rows
  one, two, cost
  a, b, 2
  b, c, 3
  c, d, 1
  d, a, 2
decide side[s in spots] binary
decide fence[t in ties] binary
minimize cost: total(t.cost * fence[t] over t in ties) - total(s.gain * side[s] over s in spots)
rule parted[t in ties]: fence[t] )" +
         tie + "\n" + more;
}

std::string closure(const std::string& more = "") {
  return R"(model "Shows"
table acts key act rows
  act, gain
  night, 9
  noon, 4
  race, -6
  light, -5
  stage, -2
table needs key act in acts, first in acts rows
  act, first
  night, light
  night, stage
  noon, stage
  race, stage
decide do[a in acts] binary
maximize gain: total(a.gain * do[a] over a in acts)
rule before[n in needs]: do[n.act] <= do[n.first]
)" + more;
}

std::string kind(const std::string& text) {
  return known_kind(test::model_of(text));
}

}  // namespace

TEST_CASE("kinds are found, and near misses are none", "[methods][kinds]") {
  CHECK(kind(cover()) == "a cover of 2 needs by 3 sets");
  CHECK(kind(cover(">= 2")).empty());
  CHECK(kind(cover("= 1")).empty());
  CHECK(kind(cover("<= 1")).empty());
  CHECK(kind(cover(">= 1", "integer 0 .. 2")).empty());
  CHECK(kind(cover(">= 1", "binary", "rule few: total(take[s] over s in sets) <= 2\n")).empty());
  CHECK(kind(cover(">= 1", "binary", "rule not_a: not take[\"a\"]\n")).empty());
  CHECK(kind(cover(">= 1", "binary", "decide other binary\n")) == "a cover of 2 needs by 4 sets");
  // A halved rule is the same rule.
  CHECK(
      kind(cover(">= 1", "binary", "rule half: 0.5 * take[\"a\"] + 0.5 * take[\"b\"] >= 0.5\n")) ==
      "a cover of 3 needs by 3 sets");

  CHECK(kind(boxes()) == "packing of 3 items into boxes of 10");
  CHECK(kind(boxes("11")).empty());                                    // it fits nowhere
  CHECK(kind(boxes("4.5")) == "packing of 3 items into boxes of 20");  // in halves
  CHECK(kind(boxes("4", "rule two: used[\"1\"] + used[\"2\"] <= 1\n")).empty());
  CHECK(kind(boxes("4", "rule tie: put[\"a\", \"1\"] <= put[\"b\", \"1\"]\n")).empty());

  CHECK(kind(places()) == "a choice of 2 places that serve 2 customers without limits");
  CHECK(kind(places("ship[l] <= 2 * open[l.depot]")).empty());  // a limit of its own
  CHECK(kind(places("ship[l] <= 9 * open[l.depot]")) ==
        "a choice of 2 places that serve 2 customers without limits");
  CHECK(kind(places("ship[l] >= 0 * open[l.depot]")).empty());
  CHECK(kind(places("ship[l] <= l.field.need * open[l.depot]",
                    "rule few: open[\"n\"] + open[\"s\"] <= 1\n"))
            .empty());

  CHECK(kind(rooms()) == "an assignment of 3 jobs to 2 agents with room");
  CHECK(kind(rooms("<= 1")).empty());
  CHECK(kind(rooms("= 1", "rule apart: does[\"p\", \"1\"] + does[\"p\", \"2\"] <= 1\n")).empty());
  CHECK(kind("model \"Bag\"\ndecide x binary\ndecide y binary\nmaximize g: 3 * x + 2 * y\n"
             "rule r: 2 * x + 2 * y <= 3\n")
            .empty());
}

TEST_CASE("packings, pairs, trees and cuts are found, and near misses are none",
          "[methods][kinds]") {
  CHECK(kind(sacks()) == "a packing of 4 items into 2 sacks, as much as fits");
  CHECK(kind(sacks("= 1")) == "an assignment of 4 jobs to 2 agents with room");
  CHECK(kind(sacks("<= 2")).empty());
  CHECK(kind(sacks("<= 1", "rule a_first: put[\"a\", \"1\"] >= put[\"b\", \"1\"]\n")).empty());
  CHECK(kind(sacks("<= 1", "rule few: total(put[w] over w in ways) <= 3\n")).empty());

  CHECK(kind(choices()) == "a choice from 3 groups of 6 items altogether within one limit");
  CHECK(kind(choices("<= 1")) == "a choice from 3 groups of 6 items altogether within one limit");
  CHECK(kind(choices("= 1", ">= 9")) ==
        "a choice from 3 groups of 6 items altogether within one limit");
  CHECK(kind(choices("= 1", "= 9")).empty());
  CHECK(kind(choices(">= 1")).empty());
  CHECK(
      kind(choices("= 1", "<= 9", "rule two: total(2 * buy[o] over o in offers) <= 7\n")).empty());

  CHECK(kind(pairs()) == "pairs among 4 points, 5 pairs that may be");
  CHECK(kind(pairs("<= 1")) == "pairs among 4 points, 5 pairs that may be");
  CHECK(kind(pairs("<= 2")).empty());
  CHECK(kind(pairs("= 1", "c, d, 6", "rule not_both: fly[\"a\", \"b\"] + fly[\"c\", \"d\"] <= 1\n"))
            .empty());
  CHECK(kind(pairs("= 1", "c, d, 6", "decide rest binary\n")).empty());

  const std::string told = "a tree that reaches 3 points from one point, over 5 lanes that may be";
  CHECK(kind(tree()) == told);
  CHECK(kind(tree("9", "real 0 .. inf")) == told);
  CHECK(kind(tree("3", "real 0 .. 3", "rule count: total(lay[c] over c in cables) = 3\n")) == told);
  CHECK(kind(tree("2")).empty());                 // a cable that cannot carry all
  CHECK(kind(tree("3", "real 0 .. 2")).empty());  // the same
  CHECK(
      kind(tree("3", "real 0 .. 3", "rule count: total(lay[c] over c in cables) <= 2\n")).empty());
  CHECK(kind(tree("3", "real 0 .. 3", "rule own: lay[\"hn\"] + lay[\"he\"] <= 1\n")).empty());

  CHECK(kind(cut()) == "a choice of sides for 4 points with 4 ties between them: a least cut");
  CHECK(kind(cut(">= side[t.one] - side[t.two]", "rule here: side[\"a\"] = 1\n")) ==
        "a choice of sides for 4 points with 4 ties between them: a least cut");
  CHECK(kind(cut(">= side[t.one] + side[t.two] - 1")).empty());  // both, not parted
  CHECK(kind(cut(">= 2 * side[t.one] - side[t.two]")).empty());
  CHECK(kind(cut(">= side[t.one] - side[t.two]", "rule two: total(side[s] over s in spots) = 2\n"))
            .empty());
  CHECK(kind(closure()) == "a choice of sides for 5 points with 4 ties between them: a least cut");
  CHECK(kind(closure("rule one: do[\"race\"] + do[\"noon\"] <= 1\n")).empty());
}

TEST_CASE("ways of kinds are offered for theirs only, and end at plans", "[methods][kinds]") {
  const std::vector<std::pair<std::string, std::vector<std::string>>> kinds = {
      {cover(), {"cover greedy", "cover prices"}},
      {boxes(), {"first fit", "best fit"}},
      {places(), {"add places", "drop places", "swap places", "dual ascent"}},
      {rooms(), {"job regret", "job exchange"}},
      {sacks(), {"sack worth", "sack refill"}},
      {choices(), {"choice slopes", "choice program"}},
      {choices("<= 1"), {"choice program"}},
      {choices("= 1", ">= 9"), {"choice program"}},
      {pairs(), {"pair rings"}},
      {pairs("<= 1"), {"pair greedy", "pair rings"}},
      {tree(), {"least tree"}},
      {cut(), {"least cut"}},
      {cut(">= side[t.one] - side[t.two]", "rule here: side[\"b\"] = 1\n"), {"least cut"}},
      {closure(), {"least cut"}}};
  const std::set<std::string> kExact = {"choice program", "pair rings", "least tree", "least cut"};
  for (const auto& [text, ways] : kinds) {
    const Model m = test::model_of(text);
    const Result best = solve(m);
    const std::vector<std::string> offered = method_names(m);
    for (const std::string& way : ways) {
      INFO(way);
      CHECK(std::ranges::find(offered, way) != offered.end());
      CHECK(method(way).takes(m));
      const MethodAnswer a = method(way).run(m, {.seconds = 0.5}, nullptr)[0];
      if (way == "job regret" && !a.plan) continue;  // it may end without room
      REQUIRE(a.report);
      CHECK(a.report->feasible);
      const bool most = text.find("maximize") != std::string::npos;
      const Rational sign = most ? -1 : 1;
      CHECK(sign * *a.report->goal >= sign * *best.report->goal);
      if (a.bound) CHECK(sign.to_double() * *a.bound <= (sign * *best.report->goal).to_double());
      if (kExact.contains(way)) {
        CHECK(a.bound == best.report->goal->to_double());
        CHECK(*a.report->goal == *best.report->goal);
      }
      CHECK_FALSE(method(way).takes(test::model_of(text == kinds[0].first ? boxes() : cover())));
    }
  }
  CHECK_THROWS_WITH(method("first fit").run(test::model_of(cover()), {}, nullptr),
                    Catch::Contains("'first fit' does not take this model: it is no packing"));
}

namespace {

// Random ones of the kinds that are solved whole, as text.
std::string random_groups(Random& random, std::int64_t groups, std::int64_t most) {
  std::string rows;
  std::int64_t room = 0;
  for (std::int64_t g = 0; g < groups; ++g) {
    room += random.between(1, most);
    for (std::int64_t k = random.between(1, most); k > 0; --k)
      rows += fmt::format("  {}, {}, {}, {}\n", g, k, random.between(-3, 20), random.between(0, 9));
  }
  std::string keys;
  for (std::int64_t g = 0; g < groups; ++g) keys += fmt::format("  {}\n", g);
  return fmt::format(
      "model \"R\"\ntable groups key g rows\n  g\n{}table offers key g in groups, n rows\n"
      "  g, n, worth, price\n{}decide buy[o in offers] binary\n"
      "maximize w: total(o.worth * buy[o] over o in offers)\n"
      "rule one[k in groups]: total(buy[o] over o in offers where o.g = k) {} 1\n"
      "rule money: total(o.price * buy[o] over o in offers) <= {}\n",
      keys, rows, random.chance(0.5) ? "=" : "<=", room);
}

std::string random_pairs(Random& random, std::int64_t points, double share) {
  std::string rows, keys;
  for (std::int64_t a = 0; a < points; ++a) {
    keys += fmt::format("  {}\n", a);
    for (std::int64_t b = a + 1; b < points; ++b)
      if (b == a + 1 || random.chance(share))
        rows += fmt::format("  {}, {}, {}\n", a, b, random.between(-5, 30));
  }
  const bool all = points % 2 == 0 && random.chance(0.5);
  return fmt::format(
      "model \"R\"\ntable points key p rows\n  p\n{}table pairs key a in points, b in points rows\n"
      "  a, b, worth\n{}decide fly[t in pairs] binary\n"
      "maximize w: total(t.worth * fly[t] over t in pairs)\n"
      "rule each[p in points]: total(fly[t] over t in pairs where t.a = p or t.b = p) {} 1\n",
      keys, rows, all ? "=" : "<=");
}

std::string random_sides(Random& random, std::int64_t points, double share) {
  std::string rows, keys;
  for (std::int64_t a = 0; a < points; ++a) {
    keys += fmt::format("  {}, {}\n", a, random.between(-9, 9));
    for (std::int64_t b = 0; b < points; ++b)
      if (a != b && random.chance(share))
        rows += fmt::format("  {}, {}, {}\n", a, b, random.between(1, 6));
  }
  if (rows.empty()) rows = "  0, 1, 1\n";
  return fmt::format(
      "model \"R\"\ntable points key p rows\n  p, gain\n{}table ties key a in points, b in points "
      "rows\n"
      "  a, b, cost\n{}decide side[p in points] binary\ndecide cut[t in ties] {}\n"
      "minimize w: total(t.cost * cut[t] over t in ties) - total(p.gain * side[p] over p in "
      "points)\n"
      "rule parted[t in ties]: side[t.a] <= side[t.b] + cut[t]\n{}",
      keys, rows, random.chance(0.5) ? "binary" : "real 0 .. 4",
      random.chance(0.5) ? "rule first: side[\"0\"] = 1\nrule last: side[\"1\"] <= 0\n" : "");
}

std::string random_tree(Random& random, std::int64_t points, double share) {
  std::string lanes, runs, keys;
  std::int64_t n = 0, total = 0;
  for (std::int64_t a = 1; a < points; ++a) {
    const std::int64_t need = random.between(1, 3);
    total += need;
    keys += fmt::format("  {}, {}\n", a, need);
  }
  for (std::int64_t a = 0; a < points; ++a)
    for (std::int64_t b = a + 1; b < points; ++b) {
      if (b != a + 1 && !random.chance(share)) continue;
      lanes += fmt::format("  {}, {}\n", n, random.between(0, 20));
      runs += fmt::format("  {}, {}, {}, {}\n", 2 * n, n, a, b);
      if (a > 0 && random.chance(0.8))
        runs += fmt::format("  {}, {}, {}, {}\n", 2 * n + 1, n, b, a);
      ++n;
    }
  return fmt::format(
      "model \"R\"\ntable posts key post rows\n  post, need\n{}table cables key cable rows\n"
      "  cable, cost\n{}table runs key run rows\n  run, cable, from, to\n{}"
      "decide lay[c in cables] binary\ndecide flow[r in runs] real 0 .. inf\n"
      "minimize w: total(c.cost * lay[c] over c in cables)\n"
      "rule stays[p in posts]: total(flow[r] over r in runs where r.to = p.post) - "
      "total(flow[r] over r in runs where r.from = p.post) = p.need\n"
      "rule paid[c in cables]: total(flow[r] over r in runs where r.cable = c.cable) <= {} * "
      "lay[c]\n",
      keys, lanes, runs, total);
}

}  // namespace

TEST_CASE("kinds that are solved whole end where the search does", "[methods][kinds]") {
  Random random(41);
  for (int k = 0; k < 40; ++k) {
    const std::vector<std::pair<std::string, std::string>> cases = {
        {"choice program", random_groups(random, random.between(2, 6), 5)},
        {"pair rings", random_pairs(random, random.between(5, 9), 0.5)},
        {"least cut", random_sides(random, random.between(3, 8), 0.3)},
        {"least tree", random_tree(random, random.between(4, 7), 0.5)}};
    for (const auto& [way, text] : cases) {
      const Model m = test::model_of(text);
      INFO(text);
      if (!method(way).takes(m)) {  // a ring of even length alone, say
        CHECK((way == "pair rings" || way == "choice program"));
        continue;
      }
      const Result best = solve(m, {.plain = true});
      const MethodAnswer a = method(way).run(m, {}, nullptr)[0];
      REQUIRE(a.plan.has_value() == best.has_plan());
      if (!best.has_plan()) {
        CHECK(best.outcome == Outcome::infeasible);
        CHECK_FALSE(a.note.empty());
        continue;
      }
      CHECK(a.report->feasible);
      CHECK(*a.report->goal == best.goal());
      CHECK(a.bound == best.goal().to_double());
    }
  }
}

TEST_CASE("the search is told what a kind's own way has proven", "[methods][kinds]") {
  Random random(8);
  for (const std::string& text : {random_groups(random, 80, 9), random_pairs(random, 40, 0.6),
                                  random_tree(random, 25, 0.7)}) {
    const Model m = test::model_of(text);
    REQUIRE_FALSE(known_kind(m).empty());
    const Result helped = solve(m, {.nodes = 1});
    CHECK(helped.outcome == Outcome::optimal);
    const Result plain = solve(m, {.nodes = 3'000, .plain = true});
    if (plain.has_plan() && plain.outcome == Outcome::optimal) CHECK(helped.goal() == plain.goal());
  }
}

TEST_CASE("planted cases of a kind: their ways never beat the optimum, the search starts from them",
          "[methods][kinds]") {
  const test::Folder folder("kinds");
  for (std::uint64_t seed = 1; seed <= 3; ++seed) {
    const MadeCase made =
        make_case({.kind = "cover", .sizes = {60, 400}, .seed = seed, .planted = true}, "c");
    for (const auto& [file, text] : made.files) folder.file(file, text);
    const Model m = read_model(folder.at("c.knot")).value();
    const MethodAnswer priced = method("cover prices").run(m, {}, nullptr)[0];
    CHECK(*priced.report->goal >= *made.optimum);
    const Result r = solve(m);
    REQUIRE(r.outcome == Outcome::optimal);
    CHECK(r.goal() == *made.optimum);
    // Told as what it is.
    const Result brief = solve(m, {.nodes = 1});
    CHECK(brief.has_plan());
  }
  const MadeCase hard = make_case({.kind = "cover", .sizes = {100, 600}, .seed = 2}, "h");
  for (const auto& [file, text] : hard.files) folder.file(file, text);
  const Model m = read_model(folder.at("h.knot")).value();
  const Result plain = solve(m, {.nodes = 1, .plain = true});
  const Result helped = solve(m, {.nodes = 1});
  REQUIRE(helped.has_plan());
  if (plain.has_plan()) CHECK(helped.goal() <= plain.goal());
}
