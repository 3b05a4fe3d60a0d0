// Figures, tables and curves.

#include <cmath>
#include <limits>
#include <map>
#include <sstream>
#include <unordered_set>

#include "misuse.hpp"

using namespace misuse;

REFUSED(figure_not_a_number, "NaN is not a figure") {
  (void)Rational(std::nan(""));
}
REFUSED(figure_over_nothing, "by 0") {
  (void)Rational::ratio(1, 0);
}
REFUSED(figure_divided_by_nothing, "by 0") {
  Rational r = 3;
  r /= Rational(0);
}
REFUSED(figure_infinite_in_a_sum, "infinite limit was calculated with") {
  (void)(Rational::infinity() + Rational(1));
}
REFUSED(figure_infinite_exactly, "has no exact fraction") {
  (void)Rational::exactly(std::numeric_limits<double>::infinity());
}
HARMLESS(figure_with_two_signs) {
  need(!Rational::parse("1e+-5") && !Rational::parse("1e-+5") && !Rational::parse("+-1"));
  need(!Rational::parse("1e+") && !Rational::parse("") && !Rational::parse("."));
  need(*Rational::parse("1e+5") == Rational(100'000));
  need(!Rational::parse("1e99999999999"));
}
HARMLESS(figure_with_itself) {
  Rational r = Rational::ratio(3, 7);
  const Rational& same = r;
  r += same;
  need(r == Rational::ratio(6, 7));
  r *= same;
  need(r == Rational::ratio(36, 49));
  r -= same;
  need(r.is_zero());
  Rational big = Rational(1e300) * Rational(1e300);
  const Rational& same_big = big;
  const Rational twice = big + big;
  big += same_big;
  need(big == twice);
  big /= same_big;
  need(big == Rational(1));
  big = same_big;
  need(big == Rational(1));
}
HARMLESS(figure_unsigned) {
  const std::size_t many = std::numeric_limits<std::size_t>::max();
  need(Rational(many).text() == "18446744073709551615");
  need(Rational(3U) * 2U == Rational(6));
  Model m{"Unsigned"};
  const Decision x = m.integer("x", {}, between(0U, std::size_t{9}));
  m.maximize("g", 2U * x);
  m.rule("r", x <= std::size_t{4});
  need(solve(m).goal() == Rational(8));
}
HARMLESS(figure_told_and_hashed) {
  std::ostringstream out;
  out << Rational::ratio(1, 4) << " " << Rational::infinity();
  need(out.str() == "0.25 inf");
  std::unordered_set<Rational> set = {Rational(1), Rational::ratio(2, 2), Rational(1e300) * 1e300};
  need(set.size() == 2 && set.contains(Rational(1e300) * Rational(1e300)));
}
HARMLESS(figure_moved_from) {
  Rational big = Rational(1e300) * Rational(1e300);
  const Rational taken = std::move(big);
  big += 1;  // NOLINT(bugprone-use-after-move)
  need(big == Rational(1) && taken > Rational(1e300));
}

REFUSED(table_row_made_up, "not one at place 99") {
  (void)Row(&shows().data(), 99).number("crew");
}
REFUSED(table_row_before_the_first, "not one at place -1") {
  (void)Row(&shows().data(), -1).keys();
}
REFUSED(table_row_of_none, "a row of no table") {
  (void)Row(nullptr, 0).text("show");
}
REFUSED(table_row_made_up_of_figures, "not one at place 7") {
  (void)shows().numbers("crew")[Row(&shows().data(), 7)];
}
REFUSED(table_row_of_no_table_of_figures, "of no table") {
  (void)shows().numbers("crew")[Row(nullptr, 0)];
}
REFUSED(table_numbers_of_none, "figures of no table") {
  (void)Numbers()[shows()["drums"]];
}
REFUSED(table_numbers_of_another, "was read with a row of table") {
  const Table others = Table::of_keys("others", "k", {"a"});
  (void)shows().numbers("crew")[others["a"]];
}
REFUSED(table_column_missing, "nearest is 'crowd'") {
  (void)shows()["drums"].number("crowdd");
}
REFUSED(table_key_missing, "nearest is 'drums'") {
  (void)shows()["drum"];
}
REFUSED(table_too_many_keys, "has 1 key column, not 2") {
  (void)shows().row({"drums", "lamps"});
}
REFUSED(table_no_keys, "has 1 key column, not 0") {
  (void)shows().row({});
}
REFUSED(table_not_ordered, "is not ordered") {
  (void)shows().before(shows()["drums"]);
}
REFUSED(table_where_of_another, "does not refer to") {
  (void)shows().where("show", shows()["drums"]);
}
REFUSED(table_column_twice, "has a column 'crew' already") {
  Table t = Table::parse("t", "k,crew\na,1\n", {.key = {"k"}});
  t.add_numbers("crew", [](Row) { return Rational(1); });
}
REFUSED(table_too_few_figures, "2 figures for 3 rows") {
  Table t = Table::of_keys("t", "k", {"a", "b", "c"});
  t.add_numbers("crew", std::vector<Rational>{1, 2});
}
REFUSED(table_figure_of_no_row, "no row 'd'") {
  Table t = Table::of_keys("t", "k", {"a", "b"});
  t.add_numbers("crew", {{"a", 1}, {"d", 2}});
}
REFUSED(table_row_without_figure, "has no figure for 'b'") {
  Table t = Table::of_keys("t", "k", {"a", "b"});
  t.add_numbers("crew", std::map<std::string, Rational>{{"a", 1}});
}
REFUSED(table_two_figures_for_a_row, "two figures for 'a'") {
  Table t = Table::of_keys("t", "k", {"a", "b"});
  t.add_numbers("crew", {{"a", 1}, {"b", 2}, {"a", 3}});
}
REFUSED(table_infinite_figure, "an infinite figure") {
  Table t = Table::of_keys("t", "k", {"a"});
  t.add_numbers("crew", std::vector<Rational>{Rational::infinity()});
}
REFUSED(table_ragged, "row 2 of table t has 1 cell for 2 columns") {
  (void)Table::of("t", {"k", "v"}, {{"a", "1"}, {"b"}}, {.key = {"k"}});
}
REFUSED(table_cells_across, "neither wide nor a query") {
  (void)Table::of("t", {"k"}, {{"a"}}, {.key = {"k"}, .query = "select"});
}
HARMLESS(table_key_twice) {
  try {
    (void)Table::of_keys("t", "k", {"a", "a"});
    need(false);
  } catch (const InputError& e) {
    need(std::string(e.what()).find("a") != std::string::npos);
  }
}
HARMLESS(table_without_key) {
  try {
    (void)Table::parse("t", "k\na\n", {});
    need(false);
  } catch (const InputError&) {
  }
}
HARMLESS(table_moved_from) {
  Table t = Table::of_figures("t", "k", "v", {{"b", 2}, {"a", 1}});
  const Table u = std::move(t);
  need(t.size() == 2 && u["a"].number("v") == Rational(1));  // NOLINT(bugprone-use-after-move)
  Numbers v = u.numbers("v");
  const Numbers w = std::move(v);
  need(v[u["b"]] == w[u["b"]]);  // NOLINT(bugprone-use-after-move)
}
// Rows look at their table: of one that ends with the statement none can be had.
template <class T>
concept GivesRows = requires(T&& t) {
  std::forward<T>(t).rows();
};
template <class T>
concept GivesOneRow = requires(T&& t) {
  std::forward<T>(t)["a"];
};
HARMLESS(table_rows_of_a_temporary) {
  need(GivesRows<const Table&> && GivesOneRow<Table&>);
  need(!GivesRows<Table> && !GivesOneRow<Table> && !std::is_constructible_v<Rows, Table>);
  int rows = 0;
  for (const Row r : Table::of_keys("t", "k", {"a", "b"})) rows += r.index() >= 0 ? 1 : 0;
  need(rows == 2);
}
REFUSED(table_of_nothing, "made of nothing") {
  (void)Table(nullptr).size();
}

REFUSED(curve_without_pieces, " ") {
  (void)Curve::tiers({});
}
REFUSED(curve_falls_back, " ") {
  (void)Curve::through({{0, 0}, {2, 1}, {1, 3}});
}
REFUSED(curve_one_point_off, " ") {
  (void)Curve::through({{0, 0}, {2, 1}}).at(5);
}
REFUSED(curve_of_nothing, "made of nothing") {
  (void)Curve(nullptr).at(0);
}
REFUSED(curve_with_decisions, " ") {
  Programme p;
  (void)p.model.curve("c", Curve::through({{0, 0}, {p.run["drums"], 1}}));
}
REFUSED(curve_of_another_model, " ") {
  Programme p;
  Model m{"Other"};
  (void)m.curve("c", Curve::through({{0, 0}, {Expression(p.hours), 1}}));
}
HARMLESS(curve_moved_from) {
  Curve c = Curve::through({{0, 0}, {2, 4}});
  const Curve d = std::move(c);
  need(c.at(1) == d.at(1));  // NOLINT(bugprone-use-after-move)
}
