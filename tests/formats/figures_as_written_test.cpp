// Figures and tables as spreadsheets write them: read where they can mean one thing, refused with
// the cell where they can mean two.

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "data/figure_text.hpp"
#include "data/tables/csv.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

constexpr DecimalMark kFound = DecimalMark::as_found, kPoint = DecimalMark::point,
                      kComma = DecimalMark::comma;

std::string read(std::string_view text, DecimalMark mark) {
  const std::optional<Rational> value = figure_of(text, mark);
  return value ? value->text() : "none";
}

std::vector<std::string> column_b(const std::string& csv, DecimalMark mark = kFound) {
  TableOptions options;
  options.key = {KeyColumn("a")};
  options.decimal = mark;
  const Table t = Table::parse("t", csv, options);
  std::vector<std::string> values;
  for (const Row r : Rows(t)) values.push_back(r.number("b").text());
  return values;
}

std::string complaint(const std::string& csv, DecimalMark mark = kFound) {
  try {
    (void)column_b(csv, mark);
  } catch (const InputError& e) {
    return e.diagnostics().items().at(0).text();
  }
  return "none";
}

// Digits of a whole number, thousands set apart.
std::string apart(std::int64_t whole, const std::string& sign) {
  std::string digits = std::to_string(whole), out;
  for (std::size_t k = 0; k < digits.size(); ++k) {
    if (k > 0 && (digits.size() - k) % 3 == 0) out += sign;
    out += digits[k];
  }
  return out;
}

using Values = std::vector<std::string>;

}  // namespace

TEST_CASE("figures with signs, percent and thousands", "[formats][figures]") {
  CHECK(read("1.5", kFound) == "1.5");
  CHECK(read("1.500", kFound) == "1.5");  // as programs write it
  CHECK(read("1,5", kFound) == "1.5");
  CHECK(read("1,500", kFound) == "none");
  CHECK(read("1,500", kPoint) == "1500");
  CHECK(read("1,500", kComma) == "1.5");
  CHECK(read("1.500", kComma) == "1500");
  CHECK(read("0.125", kComma) == "none");
  CHECK(read("1,234,567", kFound) == "1234567");
  CHECK(read("1.234.567", kFound) == "1234567");
  CHECK(read("1.234,5", kFound) == "1234.5");
  CHECK(read("1,234.5", kFound) == "1234.5");
  CHECK(read("1,234.5", kComma) == "none");
  CHECK(read("1'234.5", kFound) == "1234.5");
  CHECK(read("12\xc2\xa0"
             "000",
             kFound) == "12000");
  CHECK(read("1 234 56", kFound) == "none");
  CHECK(read("1,23,456", kFound) == "none");
  CHECK(read("30%", kFound) == "0.3");
  CHECK(read("2,5 %", kFound) == "0.025");
  CHECK(read("\xe2\x82\xac 12.50", kFound) == "12.5");
  CHECK(read("12,50 \xe2\x82\xac", kFound) == "12.5");
  CHECK(read("-$3", kFound) == "-3");
  CHECK(read("\xe2\x88\x92"
             "4",
             kFound) == "-4");
  CHECK(read("$1.500", kFound) == "none");
  for (const char* wrong :
       {"", "-", "--1", "$", "%", "1,", ",5,", "1..5", "$1$", "5%%", "abc", "1 2", "12a"})
    CHECK(read(wrong, kFound) == "none");
}

TEST_CASE("what is written with either mark is read back", "[formats][figures][oracle]") {
  Random random(1501);
  const std::vector<std::string> signs = {"", " ", "'", "\xc2\xa0", "\xe2\x80\xaf", "other"};
  int told = 0;
  for (int round = 0; round < 3000; ++round) {
    const bool comma = random.chance(0.5);
    const std::string mark = comma ? "," : ".", other = comma ? "." : ",";
    std::string sign = signs[static_cast<std::size_t>(random.between(0, 5))];
    if (sign == "other") sign = other;
    const std::int64_t whole = random.between(0, 5'000'000), places = random.between(0, 4);
    std::string fraction;
    std::int64_t scale = 1, parts = 0;
    for (std::int64_t k = 0; k < places; ++k) {
      const std::int64_t digit = random.between(0, 9);
      fraction += static_cast<char>('0' + digit);
      parts = parts * 10 + digit;
      scale *= 10;
    }
    const std::string text =
        (random.chance(0.3) ? "-" : "") + apart(whole, sign) + (places > 0 ? mark + fraction : "");
    const Rational value =
        (Rational(whole) + Rational(parts) / Rational(scale)) * Rational(text[0] == '-' ? -1 : 1);
    CAPTURE(text);
    REQUIRE(figure_of(text, comma ? kComma : kPoint) == value);
    // Never another value without being told the mark, but for a point alone.
    const std::optional<Rational> found = figure_of(text, kFound);
    if (found && text.find('.') != text.rfind('.')) CHECK(*found == value);
    if (found && text.find(',') != std::string::npos) CHECK(*found == value);
    const DecimalMark says = mark_told_by(text);
    if (says != kFound) {
      CHECK(says == (comma ? kComma : kPoint));
      ++told;
    }
  }
  CHECK(told > 1000);
}

TEST_CASE("columns are separated as the heading is", "[formats][csv]") {
  CHECK(column_b("a,b\nx,1\n") == Values{"1"});
  CHECK(column_b("a;b\nx;1,5\n") == Values{"1.5"});
  CHECK(column_b("a\tb\nx\t1\ny\t\"2\"\n") == Values{"1", "2"});
  CHECK(column_b("sep=;\r\na;b\r\nx;1\r\n") == Values{"1"});
  CHECK(column_b("\"a\";b;\"width, cm\"\nx;1;2\n") == Values{"1"});
  CHECK(column_b("a;b;width, cm\nx;1;2\ny;1;2\n") == Values{"1", "1"});
  CHECK(column_b("a;b;;\nx;1;;\n;;;\n;;;\n") == Values{"1"});
  CHECK(complaint("a|b\nx|1\n") ==
        "t:1: columns are separated by a comma, a semicolon or a tab; this heading has '|'");
  CHECK(complaint("sep=|\na|b\n") ==
        "t:1:5: columns are separated by a comma, a semicolon or a tab, not by '|'");
  CHECK(complaint("a;b,c\nx;1,5\n") ==
        "t:1: columns may be separated by more than one sign here; say which in a line before, as "
        "in 'sep=;'");
  CHECK(complaint("a,b,\nx,1,2\n") == "t:2: 3 cells where the header has 2");
}

TEST_CASE("one decimal mark holds for a file, or is asked for", "[formats][figures]") {
  // With semicolons all of the file speaks; with commas each column for itself.
  CHECK(column_b("a;b;c\nx;1.500;2,5\n") == Values{"1500"});
  CHECK(column_b("a,b,c\nx,1.500,\"2,5\"\n") == Values{"1.5"});
  CHECK(column_b("a,b\nx,1.500\ny,\"2,5\"\n") == Values{"1500", "2.5"});
  CHECK(column_b("a;b\nx;1,250\n", kComma) == Values{"1.25"});
  CHECK(column_b("a;b\nx;1,250\n", kPoint) == Values{"1250"});
  CHECK(complaint("a;b\nx;1,250\n") ==
        "t:2:3: '1,250' in column b may be 1.25 or 1250; say 'decimal comma' or 'decimal point' "
        "behind the table's keys");
  CHECK(complaint("a;b\nx;1,5\ny;2.5\nz;1,250\n") ==
        "t:4:3: '1,250' in column b may be 1.25 or 1250, and the file has figures of both kinds; "
        "say 'decimal comma' or 'decimal point' behind the table's keys");
  CHECK(complaint("a;b;c\nx;1.25;2\n", kComma) ==
        "t:2:3: '1.25' in column b is no figure with a decimal comma");
  CHECK(complaint("a;b\nx;\n") == "t:2:3: an empty cell in column b, where a figure belongs");
  CHECK(complaint("a;b\nx;many\n") == "t:2:3: 'many' in column b is not a finite figure");
}

TEST_CASE("a model says the mark, scales such figures and shows how they were read",
          "[formats][figures]") {
  const std::string text =
      "model \"Stalls\"\n"
      "table stalls key stall decimal comma rows\n"
      "  stall;take;crew\n"
      "  Tea;1.250;2,5\n"
      "  Cake;900;1,5\n"
      "decide open[s in stalls] binary\n"
      "maximize take: total(s.take * open[s] over s in stalls)\n"
      "rule crew: total(s.crew * open[s] over s in stalls) <= 4\n"
      "scenario \"rush\": scale stalls.crew by 2\n";
  const auto model = parse_knot(text, "stalls.knot", ".");
  REQUIRE(model.ok());
  CHECK(solve(model.value()).goal() == Rational(2150));
  CHECK(show_page(model.value()).find("crew: figures from 1.5 to 2.5 (decimal comma)") !=
        std::string::npos);
  const auto rush = parse_knot(text, "stalls.knot", ".", "rush");
  REQUIRE(rush.ok());
  CHECK(solve(rush.value()).goal() == Rational(900));
  const auto wrong =
      parse_knot("model \"m\"\ntable t key a decimal dot rows\n  a\n", "m.knot", ".");
  REQUIRE_FALSE(wrong.ok());
  CHECK(wrong.notes().items()[0].text() ==
        "m.knot:2:23: 'comma' or 'point' was expected, not 'dot'");
}
