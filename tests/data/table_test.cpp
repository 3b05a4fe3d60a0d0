#include "kiteknot/table.hpp"

#include <catch2/catch.hpp>

using namespace kiteknot;

namespace {

std::string complaint(const std::string& csv, const TableOptions& options) {
  try {
    (void)Table::parse("t", csv, options);
  } catch (const InputError& e) {
    return e.what();
  }
  return "";
}

const Table& depots() {
  static const Table kDepots = Table::parse(
      "depots", "depot,rent,room\nNorth Mole,40,12\nGull Bank,35.5,9\n", {{"depot"}, {}});
  return kDepots;
}

Table lanes() {
  return Table::parse(
      "lanes",
      "depot,field,rate\nNorth Mole,Long Strand,2\nNorth Mole,Dune Top,3\nGull Bank,Dune Top,1.5\n",
      {{{"depot", depots()}, "field"}, {}});
}

}  // namespace

TEST_CASE("rows are found by key and cells by column name", "[model][table]") {
  const Table t = lanes();
  CHECK(t.size() == 3);
  CHECK(t.columns() == std::vector<std::string>{"depot", "field", "rate"});
  const Row row = t.row({"Gull Bank", "Dune Top"});
  CHECK(row.number("rate") == Rational::ratio(3, 2));
  CHECK(row.keys() == std::vector<std::string>{"Gull Bank", "Dune Top"});
  CHECK(row.row("depot").number("rent") == Rational::ratio(71, 2));  // through the reference
  CHECK(t.numbers("rate")[row] == Rational::ratio(3, 2));
}

TEST_CASE("where follows references and texts", "[model][table]") {
  const Table t = lanes();
  std::vector<std::string> fields;
  for (const Row r : t.where("depot", depots()["North Mole"])) fields.emplace_back(r.text("field"));
  CHECK(fields == std::vector<std::string>{"Long Strand", "Dune Top"});
  CHECK(t.where("field", "Dune Top").size() == 2);
  CHECK(t.where("field", "Nowhere").size() == 0);
  CHECK(t.where("depot", "Gull Bank").size() == 1);
}

TEST_CASE("misuse of a table is told with both names", "[model][table]") {
  const Table t = lanes();
  CHECK_THROWS_WITH(depots().numbers("rnet"), Catch::Contains("nearest is 'rent'"));
  CHECK_THROWS_WITH(depots()["North Mol"], Catch::Contains("nearest is 'North Mole'"));
  CHECK_THROWS_WITH(depots().numbers("rent")[t.row({"Gull Bank", "Dune Top"})],
                    Catch::Contains("depots.rent") && Catch::Contains("lanes"));
  CHECK_THROWS_WITH(t.where("field", depots()["Gull Bank"]),
                    Catch::Contains("does not refer to table depots"));
  CHECK_THROWS_WITH(t["Gull Bank"], Catch::Contains("2 key columns"));
}

TEST_CASE("what is wrong in a table is told with its line", "[model][table]") {
  CHECK(complaint("a,b\n1,2\n1,3\n", {{"a"}, {}}) ==
        "t:3:1: the key '1' is there twice; first on line 2");
  CHECK(complaint("a,b\n,3\n", {{"a"}, {}}) == "t:2:1: an empty key in column a");
  CHECK(complaint("a,b\n1,2,3\n", {{"a"}, {}}) == "t:2: 3 cells where the header has 2");
  CHECK(complaint("a,a\n1,2\n", {{"a"}, {}}) == "t:1: there are two columns with the name 'a'");
  CHECK(complaint("a,b\n1,2\n", {{"c"}, {}}).find("no column 'c'") != std::string::npos);
  CHECK(complaint("", {{"a"}, {}}).find("empty") != std::string::npos);
  CHECK(complaint("depot,x\nGull Bnk,1\n", {{{"depot", depots()}}, {}}) ==
        "t:2:1: 'Gull Bnk' names no row of table depots; nearest is 'Gull Bank'");
}

TEST_CASE("a column is checked as figures once, every wrong cell told", "[model][table]") {
  const Table t = Table::parse("t", "a,b\nx,1\ny,one\nz,\nw,inf\nv,NaN\n", {{"a"}, {}});
  try {
    (void)t.numbers("b");
    FAIL("text passed as figures");
  } catch (const InputError& e) {
    CHECK(e.diagnostics().items().size() == 4);
    CHECK(std::string(e.what()).find("t:3:3: 'one' in column b is not a finite figure") !=
          std::string::npos);
    CHECK(std::string(e.what()).find("t:4:3: an empty cell in column b") != std::string::npos);
  }
}

TEST_CASE("computed columns are read like others and never overwrite one", "[model][table]") {
  Table t = Table::parse("t", "a,b\nx,2\ny,3\n", {{"a"}, {}});
  t.add_numbers("double", [](Row r) { return r.number("b") * 2; });
  CHECK(t["y"].number("double") == Rational(6));
  CHECK(t.numbers("double")[t["x"]] == Rational(4));
  CHECK_THROWS_AS(t.add_numbers("b", [](Row) { return Rational(0); }), UsageError);
}
