#include "kiteknot/table.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/table_data.hpp"

namespace kiteknot {

std::vector<std::string> Row::keys() const {
  return table_->keys_of(index_);
}

std::string_view Row::text(std::string_view column) const {
  return table_->cell(index_, table_->need_column(column));
}

Rational Row::number(std::string_view column) const {
  const auto computed = table_->computed.find(column);
  if (computed != table_->computed.end()) return computed->second[static_cast<std::size_t>(index_)];
  const Index c = table_->need_column(column);
  Diagnostics notes;
  const std::vector<Rational>& values = table_->figures(c, notes);
  if (notes.has_errors()) throw InputError(notes);
  return values[static_cast<std::size_t>(index_)];
}

Row Row::row(std::string_view column) const {
  const Index c = table_->need_column(column);
  const auto it = table_->references.find(c);
  if (it == table_->references.end())
    throw UsageError(
        fmt::format("column '{}' of table {} refers to no table", column, table_->name));
  return {table_->tables.at(c).get(), it->second[static_cast<std::size_t>(index_)]};
}

Rows::Rows(const Table& table) : table_(&table.data()), size_(table.size()) {}

const Rational& Numbers::operator[](Row row) const {
  if (row.table() != table_.get())
    throw UsageError(fmt::format("{}.{} was read with a row of table {}", table_->name, column_,
                                 row.table()->name));
  return (*values_)[static_cast<std::size_t>(row.index())];
}

const std::string& Table::name() const noexcept {
  return data_->name;
}
std::int32_t Table::size() const noexcept {
  return data_->num_rows();
}
std::vector<std::string> Table::columns() const {
  return data_->all_columns();
}

Row Table::row(const std::vector<std::string>& keys) const {
  const std::vector<std::string_view> views(keys.begin(), keys.end());
  const Index row = data_->find(views);
  if (row >= 0) return {data_.get(), row};
  if (keys.size() != data_->key.size())
    throw UsageError(fmt::format("table {} has {}, not {}", name(),
                                 counted(data_->key.size(), "key column"), keys.size()));
  std::vector<std::string> known;
  for (Index r = 0; r < size(); ++r)
    known.push_back(fmt::format("{}", fmt::join(data_->keys_of(r), ", ")));
  const std::string wanted = fmt::format("{}", fmt::join(keys, ", "));
  throw UsageError(
      fmt::format("no row '{}' in table {}{}", wanted, name(), nearest_hint(wanted, known)));
}

namespace {
std::optional<Row> beside(const TableData& table, const std::vector<Index>& step, Row row) {
  if (row.table() != &table)
    throw UsageError(
        fmt::format("a row of {} was given to table {}", row.table()->name, table.name));
  if (step.empty())
    throw UsageError(
        fmt::format("table {} is not ordered: nothing is before or after", table.name));
  const Index next = step[static_cast<std::size_t>(row.index())];
  return next < 0 ? std::nullopt : std::optional(Row(&table, next));
}
}  // namespace

std::optional<Row> Table::before(Row row) const {
  return beside(*data_, data_->before, row);
}
std::optional<Row> Table::after(Row row) const {
  return beside(*data_, data_->after, row);
}

Rows Table::where(std::string_view column, Row row) const {
  const Index c = data_->need_column(column);
  const auto it = data_->tables.find(c);
  if (it == data_->tables.end() || it->second.get() != row.table())
    throw UsageError(fmt::format("column '{}' of table {} does not refer to table {}", column,
                                 name(), row.table()->name));
  return {data_.get(), data_->grouping(c).of(row.index())};
}

Rows Table::where(std::string_view column, std::string_view text) const {
  const Index c = data_->need_column(column);
  const Grouping& grouping = data_->grouping(c);
  const auto reference = data_->tables.find(c);
  if (reference != data_->tables.end()) {
    const std::string_view keys[] = {text};
    return {data_.get(), grouping.of(reference->second->find(keys))};
  }
  const auto it = grouping.group.find(text);
  return {data_.get(), grouping.of(it == grouping.group.end() ? -1 : it->second)};
}

Numbers Table::numbers(std::string_view column) const {
  const auto computed = data_->computed.find(column);
  if (computed != data_->computed.end()) return {data_, &computed->second, std::string(column)};
  const Index c = data_->need_column(column);
  Diagnostics notes;
  const std::vector<Rational>& values = data_->figures(c, notes);
  if (notes.has_errors()) throw InputError(notes);
  return {data_, &values, std::string(column)};
}

void Table::add_numbers(const std::string& column, const std::function<Rational(Row)>& figure) {
  if (data_->column(column) >= 0 || data_->computed.contains(column))
    throw UsageError(fmt::format("table {} has a column '{}' already", name(), column));
  std::vector<Rational> values;
  for (const Row row : *this) values.push_back(figure(row));
  data_->computed.emplace(column, std::move(values));
}

}  // namespace kiteknot
