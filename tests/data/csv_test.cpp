#include "data/tables/csv.hpp"

#include <catch2/catch.hpp>

#include "base/random.hpp"

using namespace kiteknot;

namespace {

std::vector<std::vector<std::string>> cells(const std::string& text, Diagnostics& notes) {
  const auto data = data::parse_csv({"t", "t.csv", text, 1}, notes);
  std::vector<std::vector<std::string>> rows = {data->columns};
  for (Index r = 0; r < data->num_rows(); ++r) {
    rows.emplace_back();
    for (Index c = 0; c < static_cast<Index>(data->columns.size()); ++c)
      rows.back().emplace_back(data->cell(r, c));
  }
  return rows;
}

using Cells = std::vector<std::vector<std::string>>;

}  // namespace

TEST_CASE("tables as people keep them are read", "[formats][csv]") {
  Diagnostics notes;
  SECTION("byte order mark, CRLF, blank lines, spaces, no last line break") {
    CHECK(cells("\xef\xbb\xbf"
                "a, b\r\n\r\n 1 ,2\r\n3,",
                notes) == Cells{{"a", "b"}, {"1", "2"}, {"3", ""}});
  }
  SECTION("quotes with commas, doubled quotes and line breaks inside") {
    CHECK(cells("a,b\n\"x, y\",\"say \"\"hi\"\"\"\n\"two\nlines\", z \n", notes) ==
          Cells{{"a", "b"}, {"x, y", "say \"hi\""}, {"two\nlines", "z"}});
  }
  SECTION("a quoted empty cell is a row of its own") {
    CHECK(cells("a\n\"\"\n", notes) == Cells{{"a"}, {""}});
  }
  CHECK_FALSE(notes.has_errors());
}

TEST_CASE("lines are counted through quoted line breaks", "[formats][csv]") {
  Diagnostics notes;
  const auto data = data::parse_csv({"t", "t.csv", "a,b\n\"x\ny\",1\nz,2\n", 1}, notes);
  CHECK(data->lines == std::vector<Index>{2, 4});
  CHECK(data->at_cell(1, 1, "here").text() == "t.csv:4:3: here");
}

TEST_CASE("broken quotes are told where they are", "[formats][csv]") {
  Diagnostics notes;
  (void)cells("a,b\n1,\"never closed\n", notes);
  REQUIRE(notes.has_errors());
  CHECK(notes.items()[0].text() == "t.csv:2:3: a quote is opened and never closed");
  Diagnostics more;
  (void)cells("a,b\n\"x\"y,1\n", more);
  CHECK(more.items()[0].text() == "t.csv:2:4: text goes on behind a closing quote");
}

TEST_CASE("written cells read back as they were", "[formats][csv]") {
  Random random(71);
  const std::string letters = "ab,\"\n 1";
  for (int round = 0; round < 500; ++round) {
    std::string text;
    for (auto k = random.between(1, 8); k > 0; --k)
      text += letters[static_cast<std::size_t>(random.between(0, 6))];
    Diagnostics notes;
    const Cells read = cells("a,b\n" + data::csv_cell(text) + ",x\n", notes);
    REQUIRE_FALSE(notes.has_errors());
    CHECK(read[1][0] == text);
  }
}

TEST_CASE("any bytes at all end in a table or in messages", "[formats][csv]") {
  Random random(72);
  int whole = 0;
  for (int round = 0; round < 2000; ++round) {
    std::string text;
    for (auto k = random.between(0, 40); k > 0; --k)
      text += static_cast<char>(random.chance(0.7) ? ",\"\n\ra1 "[random.between(0, 6)]
                                                   : static_cast<char>(random.bits()));
    Diagnostics notes;
    const auto table = data::parse_csv({"t", "t.csv", text, 1}, notes);
    whole += !notes.has_errors();
    if (notes.has_errors()) {  // each with its place
      for (const Diagnostic& d : notes.items()) CHECK((d.file == "t.csv" && d.line >= 1));
    } else {
      REQUIRE(table != nullptr);
      CHECK(table->cells.size() ==
            static_cast<std::size_t>(table->num_rows()) * table->columns.size());
    }
  }
  CHECK(whole > 20);
}
