#pragma once
// Where a table's rows come from: CSV, a JSON array of objects, or what a query selects from an
// SQLite database. A file tells by its first bytes which it is.

#include <memory>
#include <string>

#include "data/table_data.hpp"
#include "kiteknot/table.hpp"

namespace kiteknot::data {

struct TableSource {
  std::string name;   ///< of the table
  std::string path;   ///< "-": standard input
  std::string query;  ///< of a database; may be empty
};

/// Columns and cells; keys are not set yet. Complaints go to `notes`. Throws IoError where the file
/// cannot be read.
std::shared_ptr<TableData> read_table(const TableSource& source, Diagnostics& notes);

/// Objects with names and values; what an object does not have is an empty cell. Figures keep the
/// digits that they are written with.
std::shared_ptr<TableData> parse_json_table(const std::string& name, const std::string& file,
                                            const std::string& text, Diagnostics& notes);

/// The rows of one `select`; the file is opened for reading only.
std::shared_ptr<TableData> select_table(const TableSource& source, Diagnostics& notes);

/// Fills a table cell by cell.
class TableBuilder {
 public:
  TableBuilder(std::string name, std::string file);
  /// The column's number; it is made where it is new.
  Index column(const std::string& title);
  /// `line`: for messages.
  void start_row(int line);
  /// False: the row has one already.
  bool set(Index column, std::string_view text);
  [[nodiscard]] std::shared_ptr<TableData> finished();

 private:
  std::shared_ptr<TableData> data_;
  std::vector<std::vector<Cell>> rows_;  // as wide as the columns were known at the time
  std::vector<char> is_set_;             // of the row at work
};

}  // namespace kiteknot::data
