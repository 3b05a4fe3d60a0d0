#include "data/tables/table_source.hpp"

#include "data/files.hpp"
#include "data/tables/csv.hpp"
#include "data/tables/database.hpp"

namespace kiteknot::data {
namespace {

bool starts_as_json_rows(std::string_view text) {
  if (text.starts_with("\xef\xbb\xbf")) text.remove_prefix(3);
  const std::size_t first = text.find_first_not_of(" \t\r\n");
  if (first == std::string_view::npos || text[first] != '[') return false;
  const std::size_t next = text.find_first_not_of(" \t\r\n", first + 1);
  return next == std::string_view::npos || text[next] == '{' || text[next] == ']';
}

}  // namespace

std::shared_ptr<TableData> read_table(const TableSource& source, Diagnostics& notes) {
  const std::string file = source.path == "-" ? "standard input" : source.path;
  const auto refuse = [&](const char* message) {
    notes.error({file, 0, 0, message, false});
    return std::make_shared<TableData>();
  };
  if (source.path != "-" && is_database(source.path)) {
    if (!source.query.empty()) return select_table(source, notes);
    return refuse("is a database; say which rows are meant: query \"select ... from ...\"");
  }
  std::string text = read_file(source.path);
  if (!source.query.empty())
    return refuse("is no SQLite database, and only of those rows are selected by a query");
  if (std::string_view(text).starts_with("SQLite format 3"))
    return refuse("a database is read from a file only");
  if (std::string_view(text).starts_with("PK\3\4"))
    return refuse("is packed, as workbooks are; save the sheet that is meant as CSV (UTF-8)");
  if (starts_as_json_rows(text)) return parse_json_table(source.name, file, text, notes);
  return parse_csv({source.name, file, std::move(text), 1}, notes);
}

TableBuilder::TableBuilder(std::string name, std::string file)
    : data_(std::make_shared<TableData>()) {
  data_->name = std::move(name);
  data_->file = std::move(file);
  data_->first_line = 1;
}

Index TableBuilder::column(const std::string& title) {
  const Index known = data_->column(title);
  if (known >= 0) return known;
  data_->columns.push_back(title);
  return static_cast<Index>(data_->columns.size()) - 1;
}

void TableBuilder::start_row(int line) {
  rows_.emplace_back(data_->columns.size());
  is_set_.assign(data_->columns.size(), 0);
  data_->lines.push_back(line);
}

bool TableBuilder::set(Index column, std::string_view text) {
  const auto c = static_cast<std::size_t>(column);
  if (c >= is_set_.size()) {
    is_set_.resize(data_->columns.size(), 0);
    rows_.back().resize(data_->columns.size());
  }
  if (is_set_[c] != 0) return false;
  is_set_[c] = 1;
  rows_.back()[c] = {static_cast<std::uint32_t>(data_->text.size()),
                     static_cast<std::uint32_t>(text.size())};
  data_->text += text;
  return true;
}

std::shared_ptr<TableData> TableBuilder::finished() {
  const std::size_t width = data_->columns.size();
  data_->cells.reserve(width * rows_.size());
  for (std::vector<Cell>& row : rows_) {
    row.resize(width);
    data_->cells.insert(data_->cells.end(), row.begin(), row.end());
  }
  rows_.clear();
  data_->text.shrink_to_fit();
  return std::move(data_);
}

}  // namespace kiteknot::data
