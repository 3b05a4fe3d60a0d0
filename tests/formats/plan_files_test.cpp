// Plans in and out: one table, a folder, grids, JSON, a database; what was written is read back.

#include <cstdlib>
#include <filesystem>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "formats/plans/workbook.hpp"
#include "kiteknot/kiteknot.hpp"
#include "model/model_data.hpp"
#include "support/folder.hpp"

using namespace kiteknot;
namespace fs = std::filesystem;

namespace {

// Keys with commas and quotes, two keys of one table, a key that is called value, and decisions
// without keys.
Model roster() {
  return parse_knot(R"(model "Roster"
table shifts key shift rows
  shift,hours
  "early, first",6
  "the ""late"" one",8
table days key day rows
  day,fee
  Sat,2.5
  Sun,4
table marks key value rows
  value,weight
  gold,3
table swaps pairs of shifts
decide staff[s in shifts, d in days] integer 0 .. 9
decide first[s in shifts] real 0 .. 5
decide prize[m in marks] binary
decide trade[p in swaps] binary
decide both[s in shifts, t in shifts] binary
decide spare integer 0 .. 4
decide tent binary
minimize cost: total(d.fee * staff[s, d] over s in shifts, d in days) + spare
rule some: total(staff[s, d] over s in shifts, d in days) >= 3
)",
                    "roster.knot")
      .value();
}

std::string complaint(const std::string& path, const Model& model) {
  const auto read = read_plan(path, model);
  if (read.ok()) return "none";
  const std::string text = read.notes().items().at(0).text();
  return text.substr(text.find_last_of('/') + 1);
}

bool same(const Plan& a, const Plan& b, const Model& m) {
  for (std::int32_t d = 0; d < m.num_decisions(); ++d)
    if (a[d] != b[d]) return false;
  return true;
}

}  // namespace

TEST_CASE("a plan is a table with a column for each key", "[formats][plans]") {
  const test::Folder folder("plans");
  const Model m = roster();
  Plan plan(m);
  plan.set(m.decision("staff[\"early, first\", Sun]"), Rational(3));
  plan.set(m.decision("both[\"early, first\", \"the \"\"late\"\" one\"]"), Rational(1));
  plan.set(m.decision("prize[gold]"), Rational(1));
  plan.set(m.decision("spare"), Rational(2));
  write_plan(folder.at("p.csv"), m, plan);
  CHECK(folder.text("p.csv") ==
        "decision,shift,day,value 2,a,b,shift 2,value\n"
        "staff,\"early, first\",Sun,,,,,3\n"
        "prize,,,gold,,,,1\n"
        "both,\"early, first\",,,,,\"the \"\"late\"\" one\",1\n"
        "spare,,,,,,,2\n");
  write_plan(folder.at("p.json"), m, plan);
  CHECK(folder.text("p.json") ==
        "[\n {\"decision\": \"staff\", \"shift\": \"early, first\", \"day\": \"Sun\", \"value\": "
        "3},\n"
        " {\"decision\": \"prize\", \"value 2\": \"gold\", \"value\": 1},\n"
        " {\"decision\": \"both\", \"shift\": \"early, first\", \"shift 2\": \"the \\\"late\\\" "
        "one\", "
        "\"value\": 1},\n"
        " {\"decision\": \"spare\", \"value\": 2}\n]\n");
  write_plan(folder.at("plain/"), m, plan);
  CHECK(folder.text("plain/staff.csv") == "shift,day,value\n\"early, first\",Sun,3\n");
  CHECK(folder.text("plain/single decisions.csv") == "decision,value\nspare,2\ntent,0\n");
  CHECK(folder.text("plain/first.csv") == "shift,value\n");
  write_plan(folder.at("rich/"), m, plan, {.grids = true, .with_data = true});
  CHECK(folder.text("rich/staff.csv") ==
        "shift / day,Sat,Sun\n\"early, first\",0,3\n\"the \"\"late\"\" one\",0,0\n");
  CHECK(folder.text("rich/prize.csv") == "value 2,value,marks.weight\ngold,1,3\n");
  for (const char* name : {"p.csv", "p.json", "plain/", "rich/"}) {
    CAPTURE(name);
    CHECK(same(read_plan(folder.at(name), m).value(), plan, m));
  }
}

TEST_CASE("random plans come back from every form", "[formats][plans][oracle]") {
  const test::Folder folder("plans");
  const Model m = roster();
  Random random(17);
  folder.file("plan.sqlite", "");
  for (int round = 0; round < 40; ++round) {
    Plan plan(m);
    for (std::int32_t d = 0; d < m.num_decisions(); ++d)
      if (random.chance(0.5))
        plan.set(m.decision(m.data().decision_name(d)),
                 Rational(random.between(-900, 900)) / Rational(round % 2 == 0 ? 1 : 8));
    for (const char* name : {"p.csv", "p.json", "plain/", "grids/", "plan.db", "plan.sqlite"}) {
      CAPTURE(round, name);
      const bool grids = std::string(name) == "grids/";
      const bool data = std::string(name) == "plain/" || std::string(name) == "plan.db";
      write_plan(folder.at(name), m, plan, {.grids = grids, .with_data = data});
      const auto again = read_plan(folder.at(name), m);
      REQUIRE(again.ok());
      REQUIRE(same(again.value(), plan, m));
    }
  }
}

TEST_CASE("plans that do not fit are told with their place", "[formats][plans]") {
  const test::Folder folder("plans");
  const Model m = roster();
  const auto told = [&](const std::string& csv) { return complaint(folder.file("p.csv", csv), m); };
  CHECK(told("decision,shift,day,value\nstaff,\"early, first\",Mon,1\n")
            .find("p.csv:2:1: there is no staff[\"early, first\", Mon]: no day 'Mon'") == 0);
  CHECK(told("decision,shift,day,value\nstaff,Sat,\"early, first\",1\n") ==
        "p.csv:2:1: there is no staff[Sat, \"early, first\"]: its keys are in the wrong order; "
        "they are shift and day");
  CHECK(told("decision,shift,value\nstaff,\"early, first\",1\n") ==
        "p.csv:2:1: decisions staff need columns for their keys: shift, day");
  CHECK(told("decision,value\nstaf,1\n").find("p.csv:2:1: ") == 0);
  CHECK(told("decision,value\nspare,1\nspare,2\n") ==
        "p.csv:3:1: spare is there twice; first on line 2");
  CHECK(told("decision,value\nspare,many\n") == "p.csv:2:7: 'many' is not a finite figure");
  CHECK(told("spare,2\n").find("p.csv:1: a plan has the columns decision and value") == 0);
  // Full names do as well, and so does a plan with decimal commas.
  CHECK(told("decision;value\nspare;2,5\n\"staff[\"\"early, first\"\", Sun]\";1\n") == "none");
  fs::create_directories(folder.at("f"));
  CHECK(complaint(folder.at("f"), m) == "f: the folder has no CSV files, where a plan would be");
  folder.file("f/stuff.csv", "shift,day,value\n");
  CHECK(complaint(folder.at("f"), m).find("stuff.csv: there are no such decisions: stuff") == 0);
  fs::remove(folder.at("f/stuff.csv"));
  folder.file("f/staff.csv", "shift / day,Sat,Mon\n\"early, first\",2,1\n");
  // A day that is gone is left out, and that is said.
  const auto given = read_partial_plan(folder.at("f"), m);
  REQUIRE(given.ok());
  CHECK(given.value().size() == 1);
  CHECK(given.notes().text().find("staff.csv:2:") != std::string::npos);
  CHECK(given.notes().text().find("its value, 1, is left out") != std::string::npos);
  folder.file("f/staff.csv", "shift,value\n\"early, first\",2\n");
  CHECK(complaint(folder.at("f"), m).find("staff.csv") == 0);
}

TEST_CASE("what is there is not written over by mistake", "[formats][plans]") {
  const test::Folder folder("plans");
  const Model m = roster();
  const Plan plan(m);
  CHECK_THROWS_AS(write_plan(folder.at("p.csv"), m, plan, {.grids = true, .with_data = false}),
                  UsageError);
  CHECK_THROWS_AS(write_plan(folder.at("p.json"), m, plan, {.grids = false, .with_data = true}),
                  UsageError);
  CHECK_THROWS_AS(write_plan(folder.at("p.db"), m, plan, {.grids = true, .with_data = false}),
                  UsageError);
  CHECK_THROWS_AS(write_plan(folder.at("not/there/"), m, plan), OutputError);
  CHECK_FALSE(fs::exists(folder.at("not")));
  const std::string text = folder.file("notes.db", "not a database, but notes of someone");
  CHECK_THROWS_AS(write_plan(text, m, plan), OutputError);
  CHECK(folder.text("notes.db") == "not a database, but notes of someone");
  CHECK(complaint(folder.file("other.db", ""), m) != "none");
}

TEST_CASE("a plan becomes a workbook with a sheet for each family", "[plan][workbook]") {
  const test::Folder folder("workbook");
  const Model m = roster();
  Plan plan(m);
  plan.set(m.decision("staff[\"early, first\", Sun]"), 3);
  plan.set(m.decision("first[\"the \"\"late\"\" one\"]"), Rational::ratio(1, 3));
  plan.set(m.decision("prize[gold]"), 1);
  const std::string book = folder.at("book.xlsx");
  write_plan(book, m, plan, {.with_data = true});
  REQUIRE(folder.text("book.xlsx").starts_with("PK"));
  const auto part = [&](const std::string& name) {
    REQUIRE(std::system(
                ("unzip -p '" + book + "' " + name + " > '" + folder.at("part") + "'").c_str()) ==
            0);
    return folder.text("part");
  };
  const std::string names = part("xl/workbook.xml");
  for (const char* sheet : {"staff", "first", "prize", "trade", "both", "single decisions"})
    CHECK(names.find(std::string("<sheet name=\"") + sheet + "\"") != std::string::npos);
  // Keys are texts, values and data figures.
  CHECK(part("xl/worksheets/sheet1.xml").find("<c r=\"C2\"><v>3</v></c>") != std::string::npos);
  CHECK(part("xl/worksheets/sheet1.xml").find("<v>6</v>") != std::string::npos);
  CHECK(part("xl/sharedStrings.xml").find("<t>early, first</t>") != std::string::npos);
  CHECK(part("xl/worksheets/sheet2.xml").find("<v>0.333333333333333") != std::string::npos);
  CHECK(complaint(book, m).find("is packed, as workbooks are") != std::string::npos);
  write_plan(folder.at("grids.xlsx"), m, plan, {.grids = true});
  CHECK(folder.text("grids.xlsx").starts_with("PK"));
  CHECK_THROWS_AS(write_plan("/nowhere/book.xlsx", m, plan), OutputError);
}

TEST_CASE("names of sheets are such as workbooks take", "[workbook]") {
  CHECK(formats::sheet_name("staff", {}) == "staff");
  CHECK(formats::sheet_name("a/b:c", {}) == "a b c");
  const std::string lengthy = "a family of decisions with a lengthy name";
  const std::string first = formats::sheet_name(lengthy, {});
  CHECK(first == lengthy.substr(0, 31));
  CHECK(formats::sheet_name(lengthy, {first}) == lengthy.substr(0, 29) + " 2");
  CHECK(formats::sheet_name("Staff", {"staff"}) == "Staff 2");
}
