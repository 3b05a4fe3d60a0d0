#include "data/tables/wide_table.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot::data {
namespace {

// A row's key texts, for hints.
std::vector<std::string> keys_in(const TableData& table) {
  std::vector<std::string> keys;
  for (Index r = 0; r < table.num_rows(); ++r) keys.push_back(table.keys_of(r).front());
  return keys;
}

}  // namespace

void make_long(TableData& data, TableOptions& options, Diagnostics& notes) {
  if (!options.across) return;
  const KeyColumn across = *options.across;
  const auto complain = [&](std::string message) {
    notes.error(
        {data.file.empty() ? data.name : data.file, data.first_line, 0, std::move(message), false});
  };
  const auto stays = [&](const std::string& title) {
    const auto named = [&](const KeyColumn& k) { return k.column == title; };
    return std::any_of(options.key.begin(), options.key.end(), named) ||
           std::any_of(options.refers.begin(), options.refers.end(), named);
  };
  std::vector<Index> kept, turned;
  for (Index c = 0; c < static_cast<Index>(data.columns.size()); ++c) {
    const std::string& title = data.columns[static_cast<std::size_t>(c)];
    (stays(title) ? kept : turned).push_back(c);
    const std::string_view key[] = {title};
    if (!stays(title) && across.in && across.in->find(key) < 0)
      complain(fmt::format("column '{}' names no row of {}{}", title, across.in->name,
                           nearest_hint(title, keys_in(*across.in))));
  }
  for (const std::string& title : {across.column, options.across_as})
    if (stays(title)) complain(fmt::format("there is a column '{}' already", title));
  if (turned.empty()) complain("no column is left to be read across: all of them are keys");
  if (notes.has_errors()) return;

  std::vector<Cell> headings;  // behind the file's text, once each
  for (const Index c : turned) {
    const std::string& title = data.columns[static_cast<std::size_t>(c)];
    headings.push_back(
        {static_cast<std::uint32_t>(data.text.size()), static_cast<std::uint32_t>(title.size())});
    data.text += title;
  }
  std::vector<Cell> cells;
  std::vector<Index> lines;
  const std::size_t width = data.columns.size();
  for (std::size_t r = 0; r < data.lines.size(); ++r)
    for (std::size_t k = 0; k < turned.size(); ++k) {
      const Cell& value = data.cells[r * width + static_cast<std::size_t>(turned[k])];
      if (value.length == 0) continue;
      for (const Index c : kept)
        cells.push_back(data.cells[r * width + static_cast<std::size_t>(c)]);
      cells.push_back(headings[k]);
      cells.push_back(value);
      lines.push_back(data.lines[r]);
    }
  std::vector<std::string> columns;
  for (const Index c : kept) columns.push_back(data.columns[static_cast<std::size_t>(c)]);
  columns.push_back(across.column);
  columns.push_back(options.across_as);
  data.columns = std::move(columns);
  data.cells = std::move(cells);
  data.lines = std::move(lines);
  options.key.push_back(across);
  options.across.reset();
}

}  // namespace kiteknot::data
