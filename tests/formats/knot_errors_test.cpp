// Every message as a new user meets it: place, what was found, what was expected, what may be
// meant.
#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

std::string told(const std::string& text) {
  const Reading<Model> reading = parse_knot(text, "m.knot");
  return reading.ok() ? "no error" : reading.notes().text();
}

const std::string kHead =
    "table shows key show rows\n  show,crew\n  a,1\n  b,2\ndecide run[s in shows] binary\n";  // lines
                                                                                              // 1
                                                                                              // to
                                                                                              // 5

}  // namespace

TEST_CASE("each mistake is one line with its place and a hint", "[formats][knot][errors]") {
  const std::pair<std::string, std::string> cases[] = {
      {"rule r: total(s.crw * run[s] over s in shows) <= 3",
       "m.knot:6:17: no column 'crw' in table shows; nearest is 'crew'"},
      {"rule r: total(run[s] over s in showz) <= 3",
       "m.knot:6:32: there is no table 'showz'; nearest is 'shows'"},
      {"rule r: total(rin[s] over s in shows) <= 3",
       "m.knot:6:15: no decision or expression has the name 'rin'; nearest is 'run'"},
      {"rule r: run[\"c\"] <= 1", "m.knot:6:13: there is no run[c]: no show 'c'"},
      {"rule r: run <= 1", "m.knot:6:9: run is indexed by shows (show); no key was given"},
      {"rule r: run[\"a\", \"b\"] <= 1",
       "m.knot:6:9: run is indexed by shows (show); 2 keys were given"},
      {"rule r: run[a] <= 1",
       "m.knot:6:13: 'a' is no row name here; a key in quotes was perhaps meant: \"a\""},
      {"rule r: total(s over s in shows) <= 1",
       "m.knot:6:15: 's' is a row; name one of its columns, such as s.crew"},
      {"rule r: total(s.show over s in shows) <= 1",
       "m.knot:3:3: 'a' in column show is not a finite figure"},
      {"decide n integer 0 .. 3\nrule r: 2 ^ n <= 1",
       "m.knot:7:13: an exponent holds no decisions"},
      {"rule r: 2 ** 2 <= run[\"a\"]", "m.knot:6:11: '**' is written here as ^"},
      {"rule r: log(2 - 3) <= run[\"a\"]", "m.knot:6:9: the log of -1 has no value"},
      {"rule r: 0 ^ (0 - 1) <= run[\"a\"]", "m.knot:6:11: 0 to the power -1 has no value"},
      {"rule r: 2 * run[\"a\"]", "m.knot:6:11: rule r compares nothing"},
      {"rule r: run[\"a\"] < 1", "m.knot:6:18: a rule compares with <=, >= or =, not with <"},
      {"rule r: 1 >= run[\"a\"] >= 0",
       "m.knot:6:23: two comparisons in one rule are read only as LOW <= expression <= HIGH"},
      {"rule r: run[\"a\"] + 1 and run[\"b\"]",
       "m.knot:6:18: a comparison or a yes-or-no decision was expected here"},
      {"decide n integer 0 .. 3\nrule r: n implies run[\"b\"]",
       "m.knot:7:9: n is not a yes-or-no decision; compare it with something"},
      {"rule r: run[\"a\"] implies", "an expression was expected, not the end of the statement"},
      {"rule r: run[\"a\"] iff run[\"b\"] iff run[\"a\"]", "m.knot:6:31: 'iff' is not chained"},
      {"rule r: at most 1.5 of (run[s] over s in shows)", "is a whole number from 0 up"},
      {"rule r: at most 1 of run[\"a\"]", "m.knot:6:22: '(' was expected, not 'run'"},
      {"rule r: run[\"a\"] <= 1 or pay 5", "'each' was expected, not the end of the statement"},
      {"rule r: run[\"a\"] <= 0 or pay 5 each", "a charge needs a goal"},
      {"rule r[s in shows]: run[before(s)] <= 1", "m.knot:6:25: table shows is not ordered"},
      {"rule r: squareroot(3) <= run[\"a\"]", "no curve and no function 'squareroot'"},
      {"rule r: floor(run[\"a\"]) <= 1", "floor is taken of data only, not of decisions"},
      {"rule r: sqrt(-4) <= run[\"a\"]", "m.knot:6:9: -4 to the power 0.5 has no value"},
      {"rule r: shows has (\"a\", \"b\")", "shows is indexed by shows (show); 2 keys were given"},
      {"rule r: largest(run[s] over s in shows where s = \"none\") <= 1",
       "the largest of no row at all"},
      {"curve f tiers: 3 each for next 4", "'first' and the width of the tier was expected"},
      {"curve f all units: 5 below 10, 4 from 11", "the first rate ends where the second begins"},
      {"curve f through (0, 0), (0, 4)", "two points with different x"},
      {"curve f through (0, 0), (-1, 4)", "rising order; -1 comes after 0"},
      {"curve f from shows at size value crew", "no column 'size' in table shows"},
      {"curve f bent", "'tiers', 'all units', 'through' or 'from' was expected"},
      {"decide x real 0 .. 1\ncurve f tiers: x each", "a curve is computed from data"},
      {"decide x integer 0 ..", "the greatest value of x is missing; inf stands for none"},
      {"decide x one of", "an expression was expected, not the end"},
      {"decide x integer 1 or 3 .. 5", "m.knot:6:18: only 0 can stand before 'or'"},
      {"minimize g yielding 2: run[\"a\"]", "'%' was expected, not ':'"},
      {"table p pairs of shows, shows", "pairs are made of one table"},
      {"table p product of shows", "a product is made of two tables or more"},
      {"rule r: run[\"a\"] / 0 <= 1", "m.knot:6:18: a division by 0"},
      {"rule r: run[\"a\"] <= \"one\"",
       "m.knot:6:21: the text \"one\" stands where a figure belongs"},
      {"rule r: run[\"a\"] <= inf", "m.knot:6:21: 'inf' is allowed only as a bound of a decision"},
      {"decide x integer",
       "m.knot:6:17: the bounds of x are missing: integer LO .. HI (inf is allowed)"},
      {"decide x integer 3 .. 1", "the bounds of x leave nothing: 3 .. 1"},
      {"decide x integer inf .. 3", "m.knot:6:18: a lower bound of inf leaves nothing"},
      {"decide x whole 0 .. 3",
       "m.knot:6:10: 'binary', 'integer LO .. HI', 'real LO .. HI' or 'one of V1, V2'"},
      {"decide run binary",
       "m.knot:6:8: there is something with the name 'run' already, on line 5"},
      {"decide where binary", "'where' is a word of the language"},
      {"number k = run[\"a\"]", "m.knot:6:12: a number is computed from data, not from decisions"},
      {"number a = b\nnumber b = a", "a circle of definitions"},
      {"let u = v\nlet v = u", "a circle of definitions"},
      {"column shows.x = y\ncolumn shows.y = x", "a circle of computed columns"},
      {"maximize g: run[\"a\"]\nminimize g: run[\"a\"]",
       "m.knot:7:10: there is something with the name 'g' already"},
      {"maximise g: run[\"a\"]",
       "m.knot:6:1: no statement starts with 'maximise'; here that is maximize NAME: expression"},
      {"subject to: run[\"a\"] <= 1", "here that is rule NAME[row in TABLE]: left <= right"},
      {"var x >= 0", "no statement starts with 'var'; here that is decide NAME[row in TABLE]"},
      {"tabel t key k", "no statement starts with 'tabel'; nearest is 'table'"},
      {"rule r: sum(run[s] over s in shows) <= 1",
       "m.knot:6:9: sum is not taken over rows; here that is total(expression over row in TABLE)"},
      {"rule r: sum(run[\"a\"], 3) <= 1", "no curve and no function 'sum'; here that is total("},
      {"rule r: run[\"a\"] == 1", "m.knot:6:18: '==' is written here as ="},
      {"rule r: run[\"a\"] && run[\"b\"]", "m.knot:6:18: '&&' is written here as and"},
      {"  rule r: run[\"a\"] <= 1",
       "m.knot:6:3: the end of the statement was expected, not 'rule'"},
      {"rule r: 12abc <= 1", "m.knot:6:9: '12abc' is not a figure"},
      {"rule r: run[\"a] <= 1", "m.knot:6:13: a quote is opened and not closed on its line"},
      {"rule r: run[\"a\"] <= 1 ;", "m.knot:6:23: ';' has no meaning here"},
      {"table t key k rows\n  k,v\n  a,1\n  a,2",
       "m.knot:9:3: the key 'a' is there twice; first on line 8"},
      {"table t from \"nowhere.csv\" key k", "m.knot:6:14: nowhere.csv: cannot be read"},
      {"table t key k in shows rows\n  k\n  zz", "m.knot:8:3: 'zz' names no row of table shows"},
      {"table t key kk rows\n  k\n  zz", "m.knot:6:13: no column 'kk' in table t; nearest is 'k'"},
      {"scenario \"x\": set k = 1", "m.knot:6:15: there is no number 'k'"},
      {"rule r[s in shows]: total(run[s] over s in shows) <= 1",
       "the row name 's' hides another one"},
      {"rule r: total(run[s] over s in shows where run[s] = 1) <= 1",
       "m.knot:6:51: 'where' takes conditions on data"},
  };
  for (const auto& [statement, expected] : cases) {
    CAPTURE(statement);
    const std::string complaint = told(kHead + statement + "\n");
    INFO(complaint);
    CHECK(complaint.find(expected) != std::string::npos);
  }
}

TEST_CASE("the wrong order of subscripts is refused by name", "[formats][knot][errors]") {
  const std::string text = R"(
table a key k rows
  k
  x
table b key k rows
  k
  x
table ab key one in a, two in b rows
  one,two
  x,x
decide z[p in ab] binary
rule right[i in a, j in b]: z[i, j] <= 1
rule wrong[i in a, j in b]: z[j, i] <= 1
)";
  CHECK(told(text) ==
        "m.knot:13:31: z is indexed by ab (one, two); 'j' is a row of b, where one belongs");
}

TEST_CASE("several errors come in one run, up to 20, and one mistake is told once",
          "[formats][knot][errors]") {
  std::string many = kHead;
  for (int k = 0; k < 40; ++k)
    many += "rule r" + std::to_string(k) + ": nothing" + std::to_string(k) + " <= 1\n";
  const Reading<Model> reading = parse_knot(many, "m.knot");
  CHECK(reading.notes().items().size() == 20);
  CHECK(told("decide x integer\nrule a: x <= 1\nrule b: x >= 0\nmaximize g: x\n") ==
        "m.knot:1:17: the bounds of x are missing: integer LO .. HI (inf is allowed)");
  CHECK(told("table t from \"no.csv\" key k\ndecide x[r in t] binary\nmaximize g: total(x[r] over "
             "r in t)\n")
            .find('\n') == std::string::npos);
}

TEST_CASE("empty files, models that decide nothing and tables without rows are told",
          "[formats][knot][errors]") {
  CHECK(told("") == "m.knot: the file is empty; a model starts with: model \"title\"");
  CHECK(told("# only a comment\n").find("empty") != std::string::npos);
  CHECK(told("model \"x\"\nnumber k = 1\n").find("decides nothing") != std::string::npos);
  CHECK(told("table t key k rows\n  k\ndecide x[r in t] binary\n").find("table t has no rows") !=
        std::string::npos);
}

TEST_CASE("deep nesting and endless sums end in a message", "[formats][knot][errors]") {
  CHECK(told(kHead + "rule r: " + std::string(5000, '(') + "1" + std::string(5000, ')') + " <= 2\n")
            .find("nested more than") != std::string::npos);
  std::string sum = "rule r: 1";
  for (int k = 0; k < 6000; ++k) sum += " + 1";
  CHECK(told(kHead + sum + " <= 2\n").find("more than 5000 written terms") != std::string::npos);
  CHECK(told(kHead + "rule r: " + std::string(3000, '-') + "1 <= 2\n").find("nested more than") !=
        std::string::npos);
}

TEST_CASE("scrambled models never do anything but read or complain", "[formats][knot][errors]") {
  Random random(81);
  const std::string base = kHead +
                           "number k = 2\nlet u[s in shows] = s.crew * run[s]\nmaximize g: "
                           "total(u[s] over s in shows)\nrule r: g <= k\n";
  int errors = 0;
  for (int round = 0; round < 3000; ++round) {
    std::string text = base;
    for (auto edits = random.between(1, 4); edits > 0; --edits) {
      const auto at =
          static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(text.size()) - 1));
      switch (random.between(0, 2)) {
        case 0:
          text.erase(at, static_cast<std::size_t>(random.between(1, 6)));
          break;
        case 1:
          text.insert(at, 1, "[]().,:*+-=<\"# \n9x"[random.between(0, 17)]);
          break;
        default:
          text[at] = static_cast<char>(random.bits());
      }
    }
    errors += parse_knot(text, "m.knot").ok() ? 0 : 1;
  }
  CHECK(errors > 1000);
}
