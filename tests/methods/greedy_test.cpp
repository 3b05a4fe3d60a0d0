// Greedy builds plans wherever steps of its kind do: serving opens depots, using spins cord, what
// is needed later is kept until then; or it says in one line what stopped it.
#include <algorithm>
#include <cmath>
#include <map>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

namespace {

MethodAnswer greedy(const Model& m) {
  return method("greedy").run(m, {}, nullptr)[0];
}

// What every answer of greedy promises: its picks are its plan, and its note tells why not.
void keeps_its_word(const Model& m, const MethodAnswer& a) {
  CHECK(a.report->feasible == check(m, *a.plan).feasible);
  CHECK((a.report->feasible || !a.note.empty()));
  std::map<std::int32_t, Rational> added;
  for (const GreedyPick& p : a.picks) {
    CHECK(p.amount.sign() > 0);
    CHECK(std::isnan(p.ratio) == (p.needed_by >= 0));
    added[p.decision] += p.amount;
  }
  for (const auto& [d, amount] : added) CHECK((*a.plan)[d] >= amount);  // they begin at limits
  if (!a.report->feasible) return;
  const Result best = solve(m);
  REQUIRE(best.outcome == Outcome::optimal);
  const Rational gain = *a.report->goal - *best.report->goal;
  CHECK((m.goal_sense() == Sense::maximize ? gain.sign() <= 0 : gain.sign() >= 0));
}

// Depots with rooms, fields with needs; with `logic`, what ties them is a condition.
std::string depots(Random& random, bool logic, bool profit) {
  const auto places = random.between(2, 4), fields = random.between(3, 6);
  std::string text = "model \"Depots\"\ntable depots key depot rows\n depot, rent, room\n";
  for (std::int64_t d = 0; d < places; ++d)
    text += fmt::format(" d{}, {}, {}\n", d, random.between(40, 90), random.between(30, 50));
  text += "table fields key field rows\n field, need, gain\n";
  for (std::int64_t f = 0; f < fields; ++f)
    text += fmt::format(" f{}, {}, {}\n", f, random.between(3, 10), random.between(4, 12));
  text += "table lanes key depot in depots, field in fields rows\n depot, field, rate\n";
  for (std::int64_t d = 0; d < places; ++d)
    for (std::int64_t f = 0; f < fields; ++f)
      text += fmt::format(" d{}, f{}, {}\n", d, f, random.between(1, 6));
  text += R"(
decide open[d in depots] binary
decide ship[l in lanes] real 0 .. l.field.need
let sent[d in depots] = total(ship[l] over l in lanes where l.depot = d)
)";
  text += logic ? "rule tied[l in lanes]: ship[l] >= 0.5 implies open[l.depot]\n"
                  "rule room[d in depots]: sent[d] <= d.room\n"
                : "rule room[d in depots]: sent[d] <= d.room * open[d]\n";
  text += profit ? "rule need[f in fields]: total(ship[l] over l in lanes where l.field = f) <= "
                   "f.need\nmaximize profit: total((l.field.gain - l.rate) * ship[l] over l in "
                   "lanes) - total(d.rent * open[d] over d in depots)\n"
                 : "rule need[f in fields]: total(ship[l] over l in lanes where l.field = f) = "
                   "f.need\nminimize cost: total(l.rate * ship[l] over l in lanes) + "
                   "total(d.rent * open[d] over d in depots)\n";
  return text;
}

std::string lots(Random& random) {
  std::string text = "model \"Lots\"\ntable weeks key week ordered rows\n week, need, setup\n";
  const auto weeks = random.between(4, 8);
  for (std::int64_t w = 0; w < weeks; ++w)
    text += fmt::format(" w{}, {}, {}\n", w, random.between(5, w == 0 ? 20 : 30),
                        random.between(20, 60));
  return text + R"(
decide spun[w in weeks] integer 0 .. 25
decide kept[w in weeks] integer 0 .. 60
decide runs[w in weeks] binary
minimize cost: total(w.setup * runs[w] + kept[w] over w in weeks)
rule balance[w in weeks]: (if first(w) then 0 else kept[before(w)]) + spun[w] = w.need + kept[w]
rule link[w in weeks]: spun[w] <= 25 * runs[w]
)";
}

}  // namespace

TEST_CASE("greedy opens what it serves from, whatever ties them", "[greedy][oracle]") {
  Random random(811);
  for (const bool logic : {false, true}) {
    int met = 0;
    double worse = 0.0;
    for (int round = 0; round < 30; ++round) {
      CAPTURE(logic, round);
      const Model m = test::model_of(depots(random, logic, false));
      const MethodAnswer a = greedy(m);
      keeps_its_word(m, a);
      if (!a.report->feasible) continue;
      ++met;
      worse += (*a.report->goal / *solve(m).report->goal).to_double() - 1.0;
      CHECK(std::any_of(a.picks.begin(), a.picks.end(),
                        [](const GreedyPick& p) { return p.needed_by >= 0; }));
    }
    // Rooms are large enough for nearly all; what it costs more stays within reason.
    if (!logic) {
      CHECK(met >= 28);
      CHECK(worse / met < 0.35);
    }
  }
}

TEST_CASE("greedy opens for what it gains, and only where that pays", "[greedy][oracle]") {
  Random random(812);
  double share = 0.0, all = 0.0;
  for (int round = 0; round < 30; ++round) {
    CAPTURE(round);
    const Model m = test::model_of(depots(random, false, true));
    const MethodAnswer a = greedy(m);
    keeps_its_word(m, a);
    REQUIRE(a.report->feasible);
    CHECK(a.report->goal->sign() >= 0);
    share += a.report->goal->to_double();
    all += solve(m).report->goal->to_double();
  }
  CHECK(all > 0.0);
  CHECK(share / all > 0.8);
}

TEST_CASE("greedy makes early what does not fit later", "[greedy][oracle]") {
  Random random(813);
  int met = 0, solvable = 0;
  for (int round = 0; round < 40; ++round) {
    CAPTURE(round);
    const Model m = test::model_of(lots(random));
    const MethodAnswer a = greedy(m);
    keeps_its_word(m, a);
    solvable += solve(m).outcome == Outcome::optimal ? 1 : 0;
    met += a.report->feasible ? 1 : 0;
  }
  CHECK(solvable >= 20);
  CHECK(met >= solvable - 2);
}

TEST_CASE("greedy takes permitted values only, and says what stopped it", "[greedy]") {
  const Model m = test::model_of(R"(model "Vans"
decide van one of 0, 12, 20, 30
decide helper integer 0 or 3 .. 6
decide lamps integer 0 .. 40
minimize cost: 4 * van + 12 * helper + lamps
rule lit: lamps >= 14
rule fits: lamps <= van
rule lift: lamps <= 10 + 5 * helper
)");
  const MethodAnswer a = greedy(m);
  REQUIRE(a.report->feasible);
  CHECK(*a.report->goal == Rational(4 * 20 + 12 * 3 + 14));

  const MethodAnswer stuck = greedy(test::model_of(R"(model "Stuck"
table gates key gate rows
 gate, need
 east, 3
 west, 2
decide guards[g in gates] integer 0 .. 9
minimize pay: total(guards[g] over g in gates)
rule need[g in gates]: guards[g] >= g.need
rule all: total(guards[g] over g in gates) <= 4
)"));
  CHECK_FALSE(stuck.report->feasible);
  CHECK(stuck.note == "stuck: need[east] is short of 1, and what could give it is held by all");
  CHECK(stuck.picks.size() == 2);

  const Model odd = test::model_of(R"(model "Odd"
decide x integer 0 .. 9
decide y integer 0 .. 9
minimize cost: x + y
rule need: x >= 2
rule odd: x >= 1 implies y >= 3
)");
  CHECK(greedy(odd).note == "stuck: odd is no plain sum, and no step looks at it");
}

TEST_CASE("the ends of curves are limits for greedy too", "[greedy][curve]") {
  const Model m = test::model_of(R"(model "Leaflets"
curve print tiers: 30 once, 3 each for first 50, 2 each for next 100
decide leaflets integer 0 .. 300
decide posters integer 0 .. 9
maximize gain: 4 * leaflets - print(leaflets) + posters
rule some: posters >= 2
)");
  const MethodAnswer a = greedy(m);
  REQUIRE(a.report->feasible);
  CHECK(*a.report->goal == Rational(4 * 150 - 380 + 9));
  const MethodAnswer short_of = greedy(test::model_of(R"(model "Leaflets"
curve print tiers: 3 each for first 50, 2 each for next 100
decide leaflets integer 0 .. 300
minimize cost: print(leaflets)
rule some: leaflets >= 170
)"));
  CHECK(short_of.note ==
        "stuck: some is short of 20, and what could give it is held by the end of print");
}

TEST_CASE("a depot is opened with the fields that make the most of its rent", "[greedy][page]") {
  const Model m = test::model_of(R"(model "One depot"
table fields key field rows
 field, need, rate
 near, 10, 1
 far, 10, 2
decide open binary
decide ship[f in fields] integer 0 .. 10
minimize cost: 100 * open + total(f.rate * ship[f] over f in fields)
rule need[f in fields]: ship[f] >= f.need
rule first: ship["near"] <= 10 * open
rule second: ship["far"] <= 10 * open
)");
  const Comparison c = compare(m, {"exact", "greedy"});
  const std::string page = comparison_page(m, c);
  INFO(page);
  CHECK(page.find("needed by ship[near]") != std::string::npos);
  for (const GreedyPick& p : c.answers[1].picks)
    CHECK((p.needed_by >= 0 || p.ratio == Approx(2.0 / 130)));
  CHECK(*c.answers[1].report->goal == Rational(130));
}

TEST_CASE("rows of one rule are one kind of resource for greedy", "[greedy]") {
  const Model m = test::model_of(R"(table jobs key j rows
  j,h,v
  a,8,16
  b,5,40
  c,5,35
  d,4,30
table sacks key s rows
  s,cap
  X,10
  Y,9
table js product of jobs, sacks
decide x[p in js] binary
maximize worth: total(p.j.v * x[p] over p in js)
rule once[q in jobs]: total(x[p] over p in js where p.j = q) <= 1
rule hours[c in sacks]: total(p.j.h * x[p] over p in js where p.s = c) <= c.cap
)");
  const MethodAnswer a = greedy(m);
  keeps_its_word(m, a);
  CHECK(*a.report->goal == Rational(105));
  CHECK(a.scarce == "hours");
  CHECK(a.scarce_limit == Rational(19));
  REQUIRE(!a.picks.empty());
  CHECK(a.picks[0].ratio == 8.0);  // worth an hour, as the data have it
  CHECK(a.no_room.size() == 2);    // job a, in either sack
  Comparison c;
  c.answers = {a};
  const std::string page = comparison_page(m, c);
  CHECK(page.find("by worth for each 1 of hours") != std::string::npos);
  CHECK(page.find("Did not fit into hours any more: x[a, X] and x[a, Y].") != std::string::npos);
}

TEST_CASE("amounts without an end of their own are measured by what their rules let in",
          "[greedy]") {
  const Model m = test::model_of(
      "table t key k rows\n  k,w,v\n  a,3,10\n  b,5,12\ndecide x[r in t] integer 0 .. inf\n"
      "maximize g: total(r.v * x[r] over r in t)\nrule cap: total(r.w * x[r] over r in t) <= 20\n");
  const MethodAnswer a = greedy(m);
  CHECK(a.scarce == "cap");
  REQUIRE(!a.picks.empty());
  CHECK(a.picks[0].ratio == Approx(10.0 / 3.0));
}
