// What the Knot language says, held against the same model stated in C++ or worked out by hand.
#include <catch2/catch.hpp>

#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

Model knot(const std::string& text) {
  return parse_knot(text, "m.knot").value();
}

const std::string kDepots = R"(
model "Rope and repair depots"
table depots key depot rows
  depot,      rent, capacity
  North Mole,   40,       60
  Gull Bank,    35,       45   
table fields key field rows
  field,       demand
  Long Strand, 30
  Dune Top,    25

table lanes key depot in depots, field in fields rows
  depot, field, rate
  North Mole, Long Strand, 2
  North Mole, Dune Top, 3
  Gull Bank, Long Strand, 4
  Gull Bank, Dune Top, 1.5
number open_limit = 2
decide open[d in depots] binary
decide ship[l in lanes]  real 0 .. l.field.demand
let load[d in depots] = total(ship[l] over l in lanes where l.depot = d)
minimize cost: total(d.rent * open[d] over d in depots)
             + total(l.rate * ship[l] over l in lanes)   # goes on with the line before
rule need[f in fields]:      total(ship[l] over l in lanes where l.field = f) = f.demand
rule capacity[d in depots]:  load[d] <= d.capacity * open[d]
rule few:                    total(open[d] over d in depots) <= open_limit
)";

}  // namespace

TEST_CASE("the depots model reads and solves, and its number can be set again", "[formats][knot]") {
  Model m = knot(kDepots);
  CHECK(m.title() == "Rope and repair depots");
  // Both: 75 + 60 + 37.5 = 172.5; North Mole alone: 40 + 60 + 75 = 175; Gull Bank alone is too
  // small.
  CHECK(solve(m).goal() == Rational::ratio(345, 2));
  m.set("open_limit", 1);
  const Result one = solve(m);
  CHECK(one.goal() == Rational(175));
  CHECK(one[m.decision("open[North Mole]")] == Rational(1));
  m.set("open_limit", 0);
  CHECK(solve(m).outcome == Outcome::infeasible);
}

TEST_CASE("statements may stand in any order", "[formats][knot]") {
  const Model m = knot(R"(
rule r: twice <= limit
maximize gain: 3 * x + goal_bonus
let twice = 2 * x + from_above
let from_above = x - x
number limit = base * 2 + 1
number base = 3
number goal_bonus = 10
decide x integer 0 .. 9
model "Upside down"
)");
  CHECK(solve(m).goal() == Rational(19));  // 2x <= 7
}

TEST_CASE("totals over several rows, with lookups and plain conditions", "[formats][knot]") {
  const Model m = knot(R"(
table shifts key shift rows
  shift,start,length
  early,6,4
  late,14,6
table people key name rows
  name,from,until,role
  Mira,5,12,judge
  Oren,12,24,judge
  Tomas,0,24,steward
decide on[p in people, s in shifts where p.from <= s.start and s.start + s.length <= p.until] binary
rule judged[s in shifts]: total(on[p, s] over p in people where p.role = "judge" and p.from <= s.start and p.until >= s.start + s.length) >= 1
minimize hours: total(s.length * on[p, s] over s in shifts, p in people where p.from <= s.start and not p.until < s.start + s.length)
)");
  CHECK(m.num_decisions() == 4);
  const Result r = solve(m);
  CHECK(r.goal() == Rational(10));
  CHECK(r[m.decision("on[Mira, early]")] == Rational(1));
  CHECK(r[m.decision("on[Oren, late]")] == Rational(1));
}

TEST_CASE("computed columns read their own row, through references and other computed columns",
          "[formats][knot]") {
  const Model m = knot(R"(
column lanes.dear = rate_with_toll * 2
column lanes.rate_with_toll = rate + lanes.depot.toll
table depots key depot rows
  depot,toll
  A,1
  B,2.5
table lanes key lane refers depot in depots rows
  lane,depot,rate
  one,A,10
  two,B,20
decide x[l in lanes] binary
maximize all: total(l.dear * x[l] over l in lanes)
)");
  CHECK(solve(m).goal() == Rational(67));
}

TEST_CASE("ranges, equations and both directions of a comparison", "[formats][knot]") {
  const Model m = knot(R"(
decide x integer -5 .. 5
decide y integer -inf .. inf
rule span: 1 <= x + y <= 4
rule fix: y = 2
rule floor_x: -1 <= x
minimize low: x - y/2
)");
  CHECK(solve(m).goal() == Rational(-2));  // x = -1, y = 2
}

TEST_CASE("keys are texts, quoted columns are read, a key in quotes names a decision",
          "[formats][knot]") {
  const Model m = knot(R"(
table days key day rows
  day,daily rent
  007,5
  7,3
decide stay[d in days] binary
rule bond: stay["007"] = 1
minimize rent: total(d."daily rent" * stay[d] over d in days)
)");
  CHECK(solve(m).goal() == Rational(5));
}

TEST_CASE("where compares references with rows, texts with texts and figures with figures",
          "[formats][knot]") {
  const Model m = knot(R"(
table places key place rows
  place,kind,size
  A,sea,3
  B,dune,10
  C,sea,9
table pairs_of key a in places, b in places rows
  a,b
  A,B
  A,C
  B,C
decide link[p in pairs_of where p.a.kind = p.b.kind or p.a.size < p.b.size] binary
maximize links: total(link[p] over p in pairs_of where p.a.kind = p.b.kind or p.a.size < p.b.size)
)");
  CHECK(m.num_decisions() == 2);  // A-B by size 3 < 10, A-C by kind; B-C neither
  CHECK(solve(m).goal() == Rational(2));
}

TEST_CASE("a goal can be spoken of in a rule", "[formats][knot]") {
  const Model m = knot(R"(
decide x integer 0 .. 9
maximize gain: 2 * x
rule cap: gain <= 11
)");
  CHECK(solve(m).goal() == Rational(10));
}

TEST_CASE("decimals mean themselves from the file to the answer", "[formats][knot]") {
  const Model m = knot(R"(
decide x integer 0 .. 100
maximize n: x
rule tenths: 0.1 * x <= 0.3
rule precise: 1.0000000000001 * x <= 3
)");
  CHECK(solve(m).goal() == Rational(2));
}
