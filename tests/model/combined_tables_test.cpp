// Tables made of tables, and tables whose order counts, as a program uses them.
#include <catch2/catch.hpp>

#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

Table fields() {
  return Table::parse("fields", "field,km\ncove,1\ndune,3\nreef,9\n", {.key = {"field"}});
}
Table crews() {
  return Table::parse("crews", "crew\nred\n\"blue, late\"\n", {.key = {"crew"}});
}

}  // namespace

TEST_CASE("pairs stand once, in the order of their table, and refer to it", "[model][table]") {
  const Table all = Table::pairs("all", fields());
  REQUIRE(all.size() == 3);
  CHECK(all.row({"cove", "dune"}).row("b").number("km") == Rational(3));
  CHECK_THROWS_AS(all.row({"dune", "cove"}), UsageError);
  const Table f = fields();
  const Table near = Table::pairs("near", f, [](Row a, Row b) {
    return (a.number("km") - b.number("km")).abs() <= Rational(6);
  });
  REQUIRE(near.size() == 2);
  CHECK(near.where("b", f["reef"]).size() == 1);
  CHECK(Table::pairs("none", fields(), [](Row, Row) { return false; }).size() == 0);
}

TEST_CASE("products keep the keys of their tables, with quotes where need be", "[model][table]") {
  const Table f = fields(), c = crews();
  const Table shifts = Table::product("shifts", {c, f}, [](std::span<const Row> rows) {
    return rows[1].number("km") < Rational(5);
  });
  REQUIRE(shifts.size() == 4);
  CHECK(shifts.columns() == std::vector<std::string>{"crew", "field"});
  CHECK(shifts.row({"blue, late", "dune"}).row("field") == f["dune"]);
  const Table twice = Table::product("twice", {f, f});
  CHECK(twice.size() == 9);
  CHECK(twice.columns() == std::vector<std::string>{"field", "fields"});
}

TEST_CASE("what cannot be combined is refused by name", "[model][table]") {
  const Table two = Table::parse("two", "a,b\nx,y\n", {.key = {"a", "b"}});
  CHECK_THROWS_WITH(Table::pairs("p", two),
                    Catch::Contains("table two has a key of several columns"));
  std::string csv = "k\n";
  for (int i = 0; i < 3000; ++i) csv += "i" + std::to_string(i) + "\n";
  const Table big = Table::parse("big", csv, {.key = {"k"}});
  CHECK_THROWS_WITH(Table::product("p", {big, big}), Catch::Contains("more than 5000000"));
}

TEST_CASE("an ordered table knows its neighbours, any other refuses to say", "[model][table]") {
  const Table weeks =
      Table::parse("weeks", "week\nw1\nw2\nw3\n", {.key = {"week"}, .ordered = true});
  CHECK_FALSE(weeks.before(weeks["w1"]));
  CHECK(weeks.before(weeks["w2"])->text("week") == "w1");
  CHECK(weeks.after(weeks["w2"])->text("week") == "w3");
  CHECK_FALSE(weeks.after(weeks["w3"]));
  const Table f = fields();
  CHECK_THROWS_WITH(fields().before(f["dune"]), Catch::Contains("a row of fields"));
  CHECK_THROWS_WITH(f.before(f["dune"]), Catch::Contains("table fields is not ordered"));
  CHECK_THROWS_WITH(weeks.after(f["dune"]),
                    Catch::Contains("a row of fields was given to table weeks"));
}

TEST_CASE("columns in very different units are solved as the plain model is", "[model][scaling]") {
  // The same mix in tonnes and in milligrams.
  const auto mix = [](const Rational& unit) {
    Model m{"Mix"};
    const auto a = m.real("a", {}, between(0, Rational(4) * unit));
    const auto b = m.real("b", {}, between(0, Rational(6) * unit));
    const auto use = m.binary("use");
    m.minimize("cost", Expression(3) * a / unit + Expression(2) * b / unit + 5 * use.only());
    m.rule("enough", a + Expression(b) >= Rational(7) * unit);
    m.rule("needs", implies(b.only() >= unit, use));
    m.rule("rich", a * Expression(2) >= b - Rational(3) * unit);
    const Result r = solve(m);
    REQUIRE(r.outcome == Outcome::optimal);
    CHECK(r.report->feasible);
    return r.goal().to_double();
  };
  const double plain = mix(1);
  CHECK(mix(1000000000) == Approx(plain).epsilon(1e-7));
  CHECK(mix(Rational::ratio(1, 1000000)) == Approx(plain).epsilon(1e-7));
}
