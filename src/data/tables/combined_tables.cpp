// Tables made of other tables' rows: pairs and products.

#include <algorithm>

#include <fmt/format.h>

#include "data/table_data.hpp"
#include "data/tables/csv.hpp"
#include "kiteknot/table.hpp"

namespace kiteknot {
namespace {

constexpr std::int64_t kMostRows = 5'000'000;  // looked at, of one such table

void need_room(const std::string& name, std::int64_t rows) {
  if (rows > kMostRows)
    throw UsageError(
        fmt::format("table {} would look at more than {} combinations", name, kMostRows));
}

std::string key_column(const Table& table) {
  if (table.data().key.size() != 1)
    throw UsageError(fmt::format(
        "table {} has a key of several columns; pairs and products need one", table.name()));
  return table.data().columns[static_cast<std::size_t>(table.data().key[0])];
}

}  // namespace

Table Table::pairs(std::string name, const Table& of, const std::function<bool(Row, Row)>& where) {
  (void)key_column(of);
  need_room(name, std::int64_t{of.size()} * of.size());
  std::string csv = "a,b\n";
  for (Index i = 0; i < of.size(); ++i)
    for (Index j = i + 1; j < of.size(); ++j) {
      const Row a(&of.data(), i), b(&of.data(), j);
      if (where && !where(a, b)) continue;
      csv += data::csv_cell(a.keys()[0]) + "," + data::csv_cell(b.keys()[0]) + "\n";
    }
  TableOptions options;
  options.key = {{"a", of}, {"b", of}};
  Table table = parse(std::move(name), std::move(csv), options);
  table.data_->unordered_pairs = true;
  return table;
}

Table Table::product(std::string name, const std::vector<Table>& of,
                     const std::function<bool(std::span<const Row>)>& where) {
  TableOptions options;
  std::vector<std::string> header;
  std::int64_t all = 1;
  for (const Table& t : of) {
    std::string column = key_column(t);
    if (std::find(header.begin(), header.end(), column) != header.end()) column = t.name();
    header.push_back(column);
    options.key.emplace_back(column, t);
    all *= t.size();
    need_room(name, all);
  }
  std::string csv;
  for (std::size_t k = 0; k < header.size(); ++k)
    csv += (k > 0 ? "," : "") + data::csv_cell(header[k]);
  csv += "\n";
  std::vector<Row> rows;
  for (const Table& t : of) rows.emplace_back(&t.data(), 0);
  for (std::int64_t k = 0; k < all; ++k) {
    std::int64_t rest = k;
    for (std::size_t t = of.size(); t-- > 0;) {
      rows[t] = Row(&of[t].data(), static_cast<Index>(rest % of[t].size()));
      rest /= of[t].size();
    }
    if (where && !where(rows)) continue;
    for (std::size_t t = 0; t < rows.size(); ++t)
      csv += (t > 0 ? "," : "") + data::csv_cell(rows[t].keys()[0]);
    csv += "\n";
  }
  return parse(std::move(name), std::move(csv), options);
}

}  // namespace kiteknot
