#pragma once
// CSV as RFC 4180 has it, and as people keep it: columns separated by commas, semicolons or tabs,
// quotes (doubled inside), separators and line breaks inside quotes, CRLF or LF, a byte order mark,
// empty cells, blank lines, empty rows and columns at the end. Spaces around an unquoted cell do
// not count. Cells stay views into the text, so that a table costs little more than its file.

#include <memory>
#include <string>

#include "data/table_data.hpp"
#include "kiteknot/table.hpp"

namespace kiteknot::data {

struct CsvSource {
  std::string name;  ///< of the table
  std::string file;  ///< for messages
  std::string text;
  int first_line = 1;  ///< of the text in its file
};

/// Header and cells; keys are not set yet. Complaints go to `notes`.
std::shared_ptr<TableData> parse_csv(CsvSource source, Diagnostics& notes);

/// Tells where a text stops being UTF-8, if it does.
void need_utf8(std::string_view text, const std::string& file, int first_line, Diagnostics& notes);

/// Quoted where needed.
std::string csv_cell(const std::string& text);

}  // namespace kiteknot::data
