// Rows of an SQLite database as a table.

#include <fmt/format.h>
#include <sqlite3.h>

#include "data/tables/csv.hpp"
#include "data/tables/database.hpp"
#include "data/tables/table_source.hpp"

namespace kiteknot::data {
namespace {

// The figure with as few digits as tell it.
std::string text_of(sqlite3_stmt* row, int column) {
  if (sqlite3_column_type(row, column) == SQLITE_FLOAT)
    return fmt::format("{}", sqlite3_column_double(row, column));
  const unsigned char* text = sqlite3_column_text(row, column);
  const auto size = static_cast<std::size_t>(sqlite3_column_bytes(row, column));
  return text == nullptr ? "" : std::string(reinterpret_cast<const char*>(text), size);
}

}  // namespace

std::shared_ptr<TableData> select_table(const TableSource& source, Diagnostics& notes) {
  TableBuilder table(source.name, source.path);
  const auto refuse = [&](std::string message, int row = 0) {
    notes.error({source.path, row, 0, std::move(message), false});
    return table.finished();
  };
  sqlite3* opened = nullptr;
  const int code = sqlite3_open_v2(source.path.c_str(), &opened, SQLITE_OPEN_READONLY, nullptr);
  const DatabaseHandle handle(opened);
  if (code != SQLITE_OK)
    return refuse(fmt::format("the database cannot be opened ({})", sqlite3_errmsg(opened)));
  constexpr int kPatience = 5000;  // milliseconds, where another program writes
  sqlite3_busy_timeout(opened, kPatience);
  sqlite3_stmt* prepared = nullptr;
  const char* rest = nullptr;
  const int asked = sqlite3_prepare_v2(opened, source.query.c_str(), -1, &prepared, &rest);
  const StatementHandle select(prepared);
  if (asked != SQLITE_OK)
    return refuse(fmt::format("the query does not work: {}", sqlite3_errmsg(opened)));
  if (prepared == nullptr) return refuse("the query is empty");
  if (sqlite3_stmt_readonly(prepared) == 0 || sqlite3_column_count(prepared) == 0)
    return refuse("a table's query selects rows and changes nothing");
  if (std::string_view(rest).find_first_not_of(" \t\r\n;") != std::string_view::npos)
    return refuse("a table has one query");
  const int width = sqlite3_column_count(prepared);
  for (int c = 0; c < width; ++c) {
    const std::string title = sqlite3_column_name(prepared, c);
    if (table.column(title) != c)
      return refuse(fmt::format("the query has two columns with the name '{}'", title));
  }
  int step = sqlite3_step(prepared);
  for (int row = 1; step == SQLITE_ROW; ++row, step = sqlite3_step(prepared)) {
    table.start_row(row);
    for (int c = 0; c < width; ++c) {
      if (sqlite3_column_type(prepared, c) == SQLITE_BLOB)
        return refuse(fmt::format("column {} holds bytes, not a text or a figure",
                                  sqlite3_column_name(prepared, c)),
                      row);
      const std::string text = text_of(prepared, c);
      need_utf8(text, source.path, row, notes);
      if (notes.has_errors()) return table.finished();
      (void)table.set(c, text);
    }
  }
  if (step != SQLITE_DONE)
    return refuse(fmt::format("reading the query's rows failed: {}", sqlite3_errmsg(opened)));
  return table.finished();
}

}  // namespace kiteknot::data
