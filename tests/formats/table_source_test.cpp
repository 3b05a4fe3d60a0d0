// Tables from elsewhere than CSV: JSON, an SQLite database; and what is none of them.

#include "data/tables/table_source.hpp"

#include <catch2/catch.hpp>
#include <sqlite3.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "support/folder.hpp"

using namespace kiteknot;

namespace {

std::string database(const test::Folder& folder, const std::string& name, const char* sql) {
  sqlite3* db = nullptr;
  REQUIRE(sqlite3_open(folder.at(name).c_str(), &db) == SQLITE_OK);
  REQUIRE(sqlite3_exec(db, sql, nullptr, nullptr, nullptr) == SQLITE_OK);
  sqlite3_close(db);
  return folder.at(name);
}

Table read(const std::string& path, const std::string& query = "") {
  TableOptions options;
  options.key = {"show"};
  options.query = query;
  return Table::read(path, options);
}

std::string complaint(const std::string& path, const std::string& query = "") {
  try {
    (void)read(path, query);
  } catch (const InputError& e) {
    const std::string text = e.diagnostics().items().at(0).text();
    return text.substr(text.find_last_of('/') + 1);
  }
  return "none";
}

}  // namespace

TEST_CASE("a JSON list of objects is a table, digits and all", "[formats][tables]") {
  const test::Folder folder("sources");
  const Table t = read(folder.file("shows.json", R"([
  {"show": "night glow", "crowd": 0.30000000000000000001, "crew": 9, "late": false},
  {"show": "kite \"loop\"", "crew": -12, "late": true, "crowd": 1e3, "word": null},
  {"show": "tail parade", "crowd": false, "crew": "1 250,5", "late": true, "word": "x"}
])"));
  REQUIRE(t.size() == 3);
  CHECK(t.columns() == std::vector<std::string>{"show", "crowd", "crew", "late", "word"});
  CHECK(t["night glow"].number("crowd") == Rational::parse("0.30000000000000000001"));
  CHECK(t["kite \"loop\""].number("crowd") == Rational(1000));
  CHECK(t["kite \"loop\""].number("late") == Rational(1));
  CHECK(t["tail parade"].number("crowd").is_zero());
  CHECK(t["tail parade"].text("word") == "x");
  CHECK(t["kite \"loop\""].text("word").empty());
  CHECK(t["night glow"].text("word").empty());
  CHECK(t["tail parade"].number("crew") == Rational::parse("1250.5"));
}

TEST_CASE("what is wrong in a JSON table is told with its line", "[formats][tables]") {
  const test::Folder folder("sources");
  const auto told = [&](const std::string& text) { return complaint(folder.file("t.json", text)); };
  CHECK(told("[\n{\"show\": \"a\", \"crew\": {\"a\": 1}}]") ==
        "t.json:2: crew: a cell holds a text, a figure or nothing, not an object");
  CHECK(told("[\n{\"show\": \"a\", \"crew\": [1]}]") ==
        "t.json:2: crew: a cell holds a text, a figure or nothing, not a list");
  CHECK(told("[{\"show\": \"a\",\n \"show\": \"b\"}]") == "t.json:2: 'show' is there twice");
  CHECK(told("[{\"show\": \"a\"},\n\n {\"show\": \"a\"}]").find("t.json:3") == 0);
  CHECK(told("[{\"show\": \"a\"}, 7]") ==
        "t.json:1: a table is a list of objects, each a row: [{\"name\": 1}, ...]");
  CHECK(told("[]") == "t.json:1: the list is empty: there are no names of columns");
  CHECK(told("[{\"show\": \"a\"").find("t.json:1: this is no JSON") == 0);
  CHECK(told("[{\"show\": \"a\",\n \"crew\": nine}]").find("t.json:2: this is no JSON at ") == 0);
  CHECK(told("[{\"show\": \"a\"}]\n{}").find("t.json:2: this is no JSON") == 0);
}

TEST_CASE("JSON and CSV of the same random rows are the same table", "[formats][tables][oracle]") {
  Random random(91);
  const test::Folder folder("sources");
  for (int round = 0; round < 50; ++round) {
    std::string csv = "show,a,b\n", json = "[";
    const auto rows = random.between(1, 12);
    for (std::int64_t k = 0; k < rows; ++k) {
      const std::string a = std::to_string(random.between(-1'000'000'000'000, 1'000'000'000'000)),
                        b = std::to_string(random.between(0, 99)) + "." +
                            std::to_string(random.between(1, 999999));
      csv += "\"s, " + std::to_string(k) + "\"," + a + "," + b + "\n";
      json += std::string(k > 0 ? "," : "") + "{\"show\":\"s, " + std::to_string(k) +
              "\",\"a\":" + a + ",\"b\":" + b + "}";
    }
    const Table x = read(folder.file("x.csv", csv)), y = read(folder.file("y.json", json + "]"));
    REQUIRE(x.columns() == y.columns());
    REQUIRE(x.size() == y.size());
    for (const Row r : x)
      for (const char* column : {"a", "b"})
        REQUIRE(y[r.keys()[0]].number(column) == r.number(column));
  }
}

TEST_CASE("rows are selected from a database, which is only read", "[formats][tables]") {
  const test::Folder folder("sources");
  const std::string path = database(
      folder, "festival.db",
      "create table shows (show text, crowd real, crew int, note blob);"
      "insert into shows values ('night glow', 72.5, 9, null), ('drum line', 0.1, 12, null),"
      " ('sled race', 1e21, null, x'00ff');");
  const Table t = read(path, "select show, crowd, crew from shows where crew is not null");
  REQUIRE(t.size() == 2);
  CHECK(t["night glow"].number("crowd") == Rational::parse("72.5"));
  CHECK(t["drum line"].number("crowd") == Rational::parse("0.1"));
  CHECK(t["drum line"].number("crew") == Rational(12));
  const Table crowds = read(path, "select show, crowd from shows");
  CHECK(crowds["sled race"].number("crowd") == Rational::parse("1000000000000000000000"));
  const Table crews = read(path, "select show, crew from shows");
  CHECK(crews["sled race"].text("crew").empty());
  const auto told = [&](const std::string& query) { return complaint(path, query); };
  CHECK(told("") ==
        "festival.db: is a database; say which rows are meant: query \"select ... from ...\"");
  CHECK(told("select * from stalls") ==
        "festival.db: the query does not work: no such table: stalls");
  CHECK(told("delete from shows") ==
        "festival.db: a table's query selects rows and changes nothing");
  CHECK(told("select show from shows; select 1") == "festival.db: a table has one query");
  CHECK(told("select show, show from shows") ==
        "festival.db: the query has two columns with the name 'show'");
  CHECK(told("select show, note from shows") ==
        "festival.db:3: column note holds bytes, not a text or a figure");
  CHECK(told("select show from shows union all select show from shows").find("festival.db:4") == 0);
  CHECK(told("-- nothing") == "festival.db: the query is empty");
  CHECK(read(path, "select show from shows").size() == 3);
}

TEST_CASE("files that are no tables are told as what they are", "[formats][tables]") {
  const test::Folder folder("sources");
  CHECK(complaint(folder.file("book.xlsx", "PK\3\4 and more")) ==
        "book.xlsx: is packed, as workbooks are; save the sheet that is meant as CSV (UTF-8)");
  CHECK(complaint(folder.file("t.csv", "show\na\n"), "select 1") ==
        "t.csv: is no SQLite database, and only of those rows are selected by a query");
  CHECK(complaint(folder.file("wide.csv", std::string("\xff\xfe s\0h\0", 7))) ==
        "wide.csv:1:1: the file is UTF-16; save it as UTF-8");
  CHECK_THROWS_AS(read(folder.at("gone.csv")), IoError);
}

TEST_CASE("tables of a model come from a database and from JSON", "[formats][tables][knot]") {
  const test::Folder folder("sources");
  (void)database(folder, "f.db",
                 "create table shows (show text, crowd int, crew int);"
                 "insert into shows values ('glow', 72, 9), ('drum', 40, 12);");
  (void)folder.file("other.csv", "show,crowd,crew\nglow,10,9\ndrum,40,12\n");
  (void)folder.file("stalls.json", "[{\"stall\": \"tea\", \"rent\": 4}]");
  const std::string path = folder.file("m.knot", R"(model "M"
table shows from "f.db" query "select show, crowd, crew from shows" key show
table stalls from "stalls.json" key stall
decide run[s in shows] binary
decide rented[t in stalls] binary
maximize joy: total(s.crowd * run[s] over s in shows) + total(t.rent * rented[t] over t in stalls)
rule crew: total(s.crew * run[s] over s in shows) <= 15
scenario "rain": table shows from "stalls.json"
)");
  const auto model = read_model(path);
  INFO((model.ok() ? std::string() : model.notes().items().at(0).text()));
  REQUIRE(model.ok());
  CHECK(solve(model.value()).goals.at(0).value == Rational(76));
  const auto broken = read_model(path, "rain");
  REQUIRE_FALSE(broken.ok());
  const auto wrong = read_model(
      folder.file("w.knot", "model \"W\"\ntable shows from \"f.db\" query 7 key show\n"));
  REQUIRE_FALSE(wrong.ok());
  CHECK(wrong.notes().items().at(0).text().find("w.knot:2:31: ") != std::string::npos);
}

TEST_CASE("titles, merged cells and lines of totals are told as what they are", "[table]") {
  const test::Folder folder("exports");
  const auto complaints = [&](const std::string& csv) {
    folder.file("h.csv", csv);
    const std::string knot = folder.file(
        "h.knot",
        "model \"m\"\ntable a from \"h.csv\" key item\ndecide x[i in a] binary\n"
        "maximize g: total(i.w * x[i] over i in a)\nrule r: total(x[i] over i in a) <= 1\n");
    const auto read = read_model(knot);
    std::string all;
    for (const auto& note : read.notes().items()) all += note.text() + "\n";
    if (!read.ok()) return all.substr(all.find("h.csv"));
    for (const Remark& r : worth_a_look(read.value())) all += r.text + "\n";
    return all;
  };
  CHECK(complaints("Report of June\nMade by hand\n\nitem,w\na,1\nb,2\n") ==
        "h.csv:4: 2 cells where the first line, 'Report of June', has 1: if that is a title, take "
        "the lines above the names of the columns away\n");
  CHECK(complaints("item,w\na,1\n,2\nb,3\n") ==
        "h.csv:3:1: an empty key in column item; of cells that were merged only the first has the "
        "text: fill it down\n");
  const std::string totals = complaints("item,w\na,1\nb,2\nTotal,3\n");
  CHECK(totals.find("the last row of a, 'Total', has the sums of the others") != std::string::npos);
  CHECK(complaints("item,w\na,1\nb,2\nc,3\n").find("totals") == std::string::npos);
  CHECK(complaints("item,w,v\na,1,4\nb,2,5\nc,3,9\n").find("totals") != std::string::npos);
  CHECK(complaints("item,w\na,1\nb,2\nTotal,4\n").find("totals") == std::string::npos);
}
