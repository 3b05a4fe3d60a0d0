// Cells of tables as models ask for them: empty ones, bounds without end, rows by key, wide tables.

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

Reading<Model> parsed(const std::string& text) {
  return parse_knot("model \"Cells\"\n" + text, "m.knot");
}

std::string complaints(const std::string& text) {
  const auto reading = parsed(text);
  std::string all;
  for (const auto& note : reading.notes().items()) all += note.text() + "\n";
  return all;
}

const std::string kStalls = R"(table stalls key stall rows
  stall,least,most,rent
  tea,2,inf,5
  kites,,6,4
  lamps,1,,
)";

}  // namespace

TEST_CASE("an empty cell is asked for, and told where it is read as a figure", "[formats][knot]") {
  const auto model = parsed(kStalls + R"(
decide open[s in stalls] integer 0 .. 9
minimize cost: total((if s.rent is given then s.rent else 1) * open[s] over s in stalls)
rule least[s in stalls where s.least is given]: open[s] >= s.least
rule most[s in stalls]: open[s] <= (if s.stall = "tea" or s.most is empty then 7 else s.most)
rule some: total(open[s] over s in stalls where not s.least is given) >= 3
)");
  REQUIRE(model.ok());
  const Result r = solve(model.value());
  CHECK(r.goals.at(0).value == Rational(2 * 5 + 3 * 4 + 1));
  CHECK(show_page(model.value()).find("least: figures from 1 to 2, 1 empty") != std::string::npos);

  CHECK(complaints(kStalls + "decide x[s in stalls] integer 0 .. 9\n"
                             "rule r[s in stalls]: x[s] >= s.least\n") ==
        "m.knot:5:9: an empty cell in column least, where a figure belongs\n");
  CHECK(complaints(kStalls + "decide x[s in stalls] integer 0 .. 9\n"
                             "rule r[s in stalls where s.stall is full]: x[s] >= 1\n")
            .find("m.knot:8:") == 0);
  // Nothing is warned of where no cell happens to be empty.
  CHECK(complaints(kStalls + "decide x[s in stalls] integer 0 .. 9\n"
                             "rule r[s in stalls where s.stall is given]: x[s] >= 1\n")
            .empty());
}

TEST_CASE("inf in a cell is a bound without end, and nothing else", "[formats][knot]") {
  const std::string table = R"(table stalls key stall rows
  stall,low,most
  tea,2,inf
  kites,-inf,6
)";
  const auto model = parsed(table + R"(
decide x[s in stalls] integer s.low .. s.most
maximize sum: total(x[s] over s in stalls)
rule r: total(x[s] over s in stalls) <= 40
)");
  REQUIRE(model.ok());
  CHECK(solve(model.value()).goals.at(0).value == Rational(40));
  CHECK(complaints(table + "decide x[s in stalls] integer 0 .. 9\n"
                           "rule r[s in stalls]: x[s] <= s.most\n")
            .find("m.knot:4:9: 'inf' is allowed only as a bound of a decision") == 0);
  CHECK(complaints(table + "decide x[s in stalls] integer s.most .. 9\n")
            .find("a lower bound of inf leaves nothing") != std::string::npos);
  CHECK(complaints(table + "decide x[s in stalls] integer 0 .. s.low\n")
            .find("an upper bound of -inf leaves nothing") != std::string::npos);
}

TEST_CASE("a cell is looked up by keys, by rows, and through references", "[formats][knot]") {
  const std::string tables = R"(table dishes key dish rows
  dish
  soup
  bread
table parts key part, from in dishes rows
  part,from,amount
  salt,soup,3
  salt,bread,5
  flour,bread,40
table wants key want refers dish in dishes rows
  want,dish
  first,bread
)";
  const auto model = parsed(tables + R"(
decide x[d in dishes] integer 0 .. 9
minimize cost: total(parts["salt", d].amount * x[d] over d in dishes) + parts["flour", "bread"].amount
rule r[w in wants]: x["soup"] + x["bread"] >= parts["salt", w.dish].amount
rule s: x["bread"] >= parts["salt", "bread"].from.amount_of
column dishes.amount_of = if dishes = "bread" then 2 else 0
)");
  REQUIRE(model.ok());
  CHECK(solve(model.value()).goals.at(0).value == Rational(3 * 3 + 2 * 5 + 40));
  const auto told = [&](const std::string& bound) {
    return complaints(tables + "decide y integer 0 .. " + bound + "\n");
  };
  CHECK(told("parts[\"salt\"].amount").find("parts") != std::string::npos);
  CHECK(told("parts[\"flour\", \"soup\"].amount") ==
        "m.knot:14:23: there is no parts[flour, soup]: table parts has no such row\n");
  CHECK(told("part[\"flour\", \"soup\"].amount").find("m.knot:14:23: ") == 0);
  CHECK(told("parts[\"flour\", \"bread\"].amout").find("nearest is 'amount'") != std::string::npos);
}

TEST_CASE("a wide table is read as a long one", "[formats][knot][tables]") {
  const std::string tables = R"(table days key day rows
  day
  Fri
  Sat
  Sun
table works key shift across day in days as works rows
  shift,Fri,Sat,Sun
  early,1,,1
  late,,1,0
)";
  const auto model = parsed(tables + R"(
decide staff[w in works] integer 0 .. 9
minimize cost: total(staff[w] over w in works)
rule need[d in days]: total(w.works * staff[w] over w in works where w.day = d) >= 2
rule pair: staff["early", "Fri"] <= works["late", "Sat"].works + 1
)");
  REQUIRE(model.ok());
  CHECK(model.value().num_decisions() == 4);
  CHECK(solve(model.value()).goals.at(0).value == Rational(6));
  CHECK(complaints(
            "table days key day rows\n  day\n  Fri\n  Sat\n"
            "table works key shift across day in days as works rows\n  shift,Fri,Sta\n  a,1,1\n") ==
        "m.knot:7: column 'Sta' names no row of days; nearest is 'Sat'\n");
  CHECK(complaints("table works key shift across day as shift rows\n  shift,Fri\n  a,1\n") ==
        "m.knot:3: there is a column 'shift' already\n");
  CHECK(complaints("table works key shift across day as works rows\n  shift\n  a\n") ==
        "m.knot:3: no column is left to be read across: all of them are keys\n");
  CHECK(complaints("table works key shift across day works rows\n  shift\n  a\n")
            .find("m.knot:2:34: ") == 0);
}

TEST_CASE("wide and long tables of the same random figures are the same",
          "[formats][tables][oracle]") {
  Random random(5);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const auto rows = random.between(1, 6), columns = random.between(1, 6);
    std::string wide = "k", lines = "k,day,v\n";
    for (std::int64_t c = 0; c < columns; ++c) wide += ",d" + std::to_string(c);
    std::size_t given = 0;
    for (std::int64_t r = 0; r < rows; ++r) {
      wide += "\nr" + std::to_string(r);
      for (std::int64_t c = 0; c < columns; ++c) {
        wide += ",";
        if (random.chance(0.3)) continue;
        const std::string v = std::to_string(random.between(-99, 99)) + ".5";
        wide += v;
        lines += "r" + std::to_string(r) + ",d" + std::to_string(c) + "," + v + "\n";
        ++given;
      }
    }
    TableOptions across, plain;
    across.key = {"k"};
    across.across = KeyColumn("day");
    across.across_as = "v";
    plain.key = {"k", "day"};
    const Table a = Table::parse("t", wide + "\n", across), b = Table::parse("t", lines, plain);
    REQUIRE(static_cast<std::size_t>(a.size()) == given);
    REQUIRE(a.columns() == b.columns());
    for (const Row row : b) REQUIRE(a.row(row.keys()).number("v") == row.number("v"));
  }
}

TEST_CASE("before and after start from a row that a column refers to", "[knot]") {
  const std::string text = R"(table days key day ordered rows
 day
 mon
 tue
 wed
table jobs key job, start in days rows
 job, start
 tent, mon
 rope, tue
decide busy[d in days] binary
minimize n: total(busy[d] over d in days)
rule next[j in jobs where not last(j.start)]: busy[after(j.start)] >= 1
)";
  const Result r = solve(parsed(text).value());
  REQUIRE(r.has_plan());
  CHECK(r[r.model().decision("busy[tue]")] == Rational(1));
  CHECK(r[r.model().decision("busy[wed]")] == Rational(1));
  CHECK(r[r.model().decision("busy[mon]")] == Rational(0));
  // The last day has none after it, and a column that refers to nothing leads nowhere.
  std::string unguarded = text, plain = text;
  unguarded.replace(unguarded.find("tent, mon"), 9, "tent, wed");
  unguarded.erase(unguarded.find(" where not last(j.start)"), 24);
  CHECK(complaints(unguarded).find("nothing comes after wed") != std::string::npos);
  plain.replace(plain.find("after(j.start)"), 14, "after(j.job)");
  CHECK_FALSE(complaints(plain).empty());
}

TEST_CASE("an unknown key is told at its own place, with the nearest one", "[knot][errors]") {
  const std::string tables =
      "table a key k rows\n k, v\n salt, 3\n soup, 4\n"
      "table b key k in a, day rows\n k, day, w\n salt, mon, 1\n soup, tue, 2\n";
  CHECK(
      complaints(tables + "decide x integer 0 .. a[\"sout\"].v\nminimize g: x\n")
          .find("m.knot:10:25: there is no a[sout]: table a has no such row; nearest is 'soup'") !=
      std::string::npos);
  const std::string two = tables + "decide x[r in b] binary\nminimize g: total(x[r] over r in b)\n";
  CHECK(complaints(two + "rule r: x[\"salt\", \"mom\"] = 1\n").find("m.knot:12:19: ") !=
        std::string::npos);
  // Both are there, and not together: the whole is meant.
  CHECK(complaints(two + "rule r: x[\"salt\", \"tue\"] = 1\n").find("m.knot:12:9: ") !=
        std::string::npos);
}
